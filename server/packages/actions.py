"""A project packed, and a package become a project."""

import json
import subprocess
import sys
from collections.abc import Iterator, Mapping
from dataclasses import asdict, dataclass, field
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Literal

from django.conf import settings
from django.db import transaction

from lantern.engine.baking import SIZES
from lantern.engine.exporting import Format
from lantern.picture.look.files import written_decision, written_table, written_whole
from lantern.scene.document import Scene
from lantern.scene.editing import files_in
from lantern.scene.findings import Finding
from lantern.scene.looks import NamedLook, kept_look
from lantern.scene.presence import seen
from lantern.scene.reading import read_scene
from server.errors import Missing, Refused
from server.packages.contents import Index, Step
from server.packages.modelling import Form, Wanted
from server.packages.writing import package_bytes
from server.projects import storage
from server.projects.actions import CreateProject
from server.projects.models import Cover, Edit, Project
from server.projects.policy import Person, project_for
from server.projects.reports import Report, report_of
from server.runtime.priority import BEHIND

LookForm = Literal["json", "cdl", "cube"]


@dataclass(frozen=True)
class PackProject:
    """Everything of a project as it is now, in one zip; its steps of undo only when `history` is wanted."""

    person: Person
    project_id: int
    history: bool = True

    def execute(self) -> tuple[str, Iterator[bytes]]:
        """(name of the project, the bytes)."""
        with transaction.atomic():
            project_for(self.person, self.project_id)
            project = Project.objects.select_for_update().get(pk=self.project_id)
            edits = list(project.edits.all()) if self.history else []
            cover = Cover.objects.filter(project=project).first()
            steps = [Step(number=e.number, patch=e.patch, inverse=e.inverse, label=e.label) for e in edits]
            report = report_of(project)
            index = Index(
                name=project.name,
                scene=project.scene,
                problems=list(report.problems),
                report=[Finding.model_validate(finding) for finding in report.findings],
                bounds=project.bounds,
                revision=project.revision if self.history else 1,
                cursor=project.cursor if self.history else 0,
                steps=steps,
            )
            named = files_in([project.scene, *([step.patch, step.inverse] for step in steps)])
            paths = {digest: Path(path) for digest, path in storage.known_paths(named).items()}
        return project.name, package_bytes(index, None if cover is None else bytes(cover.picture), paths)


@dataclass(frozen=True)
class ExportModel:
    """What can be seen of a project as a model. Raises Refused when there is nothing, or it cannot be written."""

    person: Person
    project_id: int
    form: Format = "glb"
    bake: int | None = None
    """Texels along a side of the images that are made of patterns, layers and decals; None for no images."""

    def execute(self) -> tuple[str, Iterator[bytes], list[str]]:
        """(name of the project, the bytes, what the file could not say)."""
        if self.bake is not None and self.bake not in SIZES:
            raise Refused(f"Images of patterns can have {', '.join(map(str, SIZES))} texels a side, not {self.bake}.")
        project = project_for(self.person, self.project_id)
        scene = project.document()
        if not any(part.visible for part in seen(scene).parts.values()):
            raise Refused("No part of this project is visible: there is nothing to export.")
        return (project.name, *_written(scene, self.form, bake=self.bake))


@dataclass(frozen=True)
class ExportEnvironment:
    """All that is around the asset of a project as one map, its cards and the sun in it."""

    person: Person
    project_id: int

    def execute(self) -> tuple[str, Iterator[bytes], list[str]]:
        """(name of the project, the bytes, what could not be had). Raises Refused."""
        project = project_for(self.person, self.project_id)
        scene = project.document()
        return (f"{project.name} environment", *_written(scene, "exr"))


@dataclass(frozen=True)
class ExportLook:
    """The look of a project as a file: whole, or its grade as others read it."""

    person: Person
    project_id: int
    form: LookForm

    def execute(self) -> tuple[str, bytes]:
        """(name of the look, the bytes). Raises Missing."""
        project = project_for(self.person, self.project_id)
        scene, name = project.document(), f"{project.name} look"
        match self.form:
            case "json":
                return name, written_whole(NamedLook(name=name[:200], look=kept_look(scene)))
            case "cdl":
                return name, written_decision(scene.look, name)
            case "cube":
                return name, written_table(scene.look, name)


@dataclass(frozen=True)
class ExportMaterial:
    """A material of a project as a file, with what lies over it and its images."""

    person: Person
    project_id: int
    material: str

    def execute(self) -> tuple[str, Iterator[bytes], list[str]]:
        """As `material_file`. Raises Missing and Refused."""
        return material_file(project_for(self.person, self.project_id).document(), self.material)


def material_file(scene: Scene, material: str) -> tuple[str, Iterator[bytes], list[str]]:
    """(name of a material, the bytes of its file, what that could not say). Raises Missing and Refused."""
    if material not in scene.materials:
        raise Missing(f"There is no material {material} in this project.")
    return (scene.materials[material].name, *_written(scene, "mtlx", material=material))


def _written(
    scene: Scene, form: Form, *, material: str | None = None, bake: int | None = None
) -> tuple[Iterator[bytes], list[str]]:
    """(the bytes of a file of a document, what it could not say). Raises Refused."""
    settings.READING_FOLDER.mkdir(parents=True, exist_ok=True)
    folder = TemporaryDirectory(dir=settings.READING_FOLDER)
    target = Path(folder.name) / "written"
    try:
        lost = _write_model(Wanted(scene.plain(), storage.paths_for(scene), form, str(target), material, bake))
    except Refused:
        folder.cleanup()
        raise
    return _pieces(folder, target), lost


def _write_model(wanted: Wanted) -> list[str]:
    """Have a process of its own write the file; what it could not say. Raises Refused."""
    limit = settings.READING_TIME_LIMIT if wanted.bake is None else settings.BAKING_TIME_LIMIT
    try:
        said = subprocess.run(
            ["nice", "-n", str(BEHIND), sys.executable, "-m", "server.packages.modelling"],
            input=json.dumps(asdict(wanted)),
            capture_output=True,
            text=True,
            check=False,
            timeout=limit,
        ).stdout
    except subprocess.TimeoutExpired:
        raise Refused(
            "Writing the model took too long: hide parts, lower their levels, or ask for smaller images."
        ) from None
    found = json.loads(said) if said else {"error": "writing it took too much memory: hide parts"}
    if "error" in found:
        raise Refused(f"The model cannot be written: {found['error']}.")
    lost: list[str] = found["lost"]
    return lost


def _pieces(folder: TemporaryDirectory[str], path: Path) -> Iterator[bytes]:
    """A file piece by piece; its folder goes when all are sent, or nobody wants them any more."""
    with folder, path.open("rb") as file:
        while piece := file.read(PIECE):
            yield piece


PIECE = 1 << 20
"""Bytes of a file that are sent at once."""


@dataclass(frozen=True)
class UnpackProject:
    """Make a project of what was read from a package; `files` lie on this machine by their digests."""

    person: Person
    index: Index
    cover: bytes | None
    files: Mapping[str, Path] = field(default_factory=dict)

    def execute(self) -> Project:
        index = self.index
        names = {file.sha256: file.name for file in files_in([index.scene, *(s.model_dump() for s in index.steps)])}
        for digest, path in self.files.items():
            storage.keep(path, names[digest], self.person)
        report = Report(index.problems, [finding.model_dump(mode="json") for finding in index.report])
        project = CreateProject(self.person, index.name, read_scene(index.scene), report, index.bounds).execute()
        project.cursor, project.revision = index.cursor, index.revision
        project.save(update_fields=("cursor", "revision"))
        Edit.objects.bulk_create(
            Edit(
                project=project, number=step.number, patch=step.patch, inverse=step.inverse, label=step.label,
                author=self.person,
            )
            for step in index.steps
        )  # fmt: skip
        if self.cover is not None:
            Cover.objects.create(project=project, picture=self.cover)
        return project
