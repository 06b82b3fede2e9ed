"""Changes of uploads: taking one in, stopping it."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path

from django.conf import settings
from django.core.files.storage import storages
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction

from lantern.assets.swapping import matched_by_hand
from lantern.scene.asset_variants import assets_as_variants
from lantern.scene.document import Scene
from lantern.scene.editing import apply_patch
from lantern.scene.patching import Patch, difference
from lantern.scene.reading import SceneError, read_scene
from server.errors import Missing, Refused
from server.intake import tasks
from server.intake.models import Upload
from server.projects.actions import ApplyEdit
from server.projects.models import Start
from server.projects.policy import Person, held_project, project_for
from server.projects.starts import start_for, starts_of
from server.runtime.stores import remove

MOST_RUNNING = 20
"""Uploads of one person that may wait or run at the same time."""


def limit_of(kind: str, name: str) -> int:
    """Bytes that a file of a kind may have; a zip may be a whole project, with maps beside its asset."""
    is_zip = Path(name).suffix.lower() == ".zip"
    return {
        Upload.Kind.ASSET: settings.PACKAGE_SIZE_LIMIT if is_zip else settings.ASSET_SIZE_LIMIT,
        Upload.Kind.ENVIRONMENT: settings.ENVIRONMENT_SIZE_LIMIT,
        Upload.Kind.PROFILE: settings.PROFILE_SIZE_LIMIT,
        Upload.Kind.IMAGE: settings.IMAGE_SIZE_LIMIT,
        Upload.Kind.MATERIAL: settings.MATERIAL_SIZE_LIMIT,
        Upload.Kind.LOOK: settings.LOOK_SIZE_LIMIT,
        Upload.Kind.PICTURE: settings.PICTURE_SIZE_LIMIT,
    }[Upload.Kind(kind)]


def upload_for(person: Person, number: int) -> Upload:
    """One upload of a person. Raises Missing."""
    found = Upload.objects.filter(pk=number, owner=person).first()
    if found is None:
        raise Missing(f"There is no upload {number} for you.")
    return found


@dataclass(frozen=True)
class TakeIn:
    """Keep a file that was sent, and have it read. Raises Refused when it is too large, or too many wait already.

    `start` is the number of the set-up with which an asset's project begins: 0 none, None the person's default. `swaps`
    is that of the project whose asset it is a newer version of: then it makes none, but an offer for that. With `joins`
    it is to come beside that asset, not in its place. A printed picture is opened as a take of that project.
    """

    person: Person
    kind: str
    file: UploadedFile
    start: int | None = None
    swaps: int | None = None
    joins: bool = False

    def execute(self) -> Upload:
        name = Path(self.file.name or "upload").name[:200]
        limit = limit_of(self.kind, name)
        if self.file.size is not None and self.file.size > limit:
            raise Refused(f"{name} is {self.file.size / 1e6:.1f} MB; the limit is {limit / 1e6:.1f} MB.")
        if Upload.objects.filter(owner=self.person, state=Upload.State.RUNNING).count() >= MOST_RUNNING:
            raise Refused(f"{MOST_RUNNING} files of yours are being read: wait for one of them.")
        swaps = None if self.swaps is None else project_for(self.person, self.swaps)
        if swaps is not None and self.kind not in (Upload.Kind.ASSET, Upload.Kind.PICTURE):
            raise Refused(f"{name} is no asset: it cannot take the place of one.")
        if swaps is None and self.kind == Upload.Kind.PICTURE:
            raise Refused(f"{name} is opened as a take of a project: say of which.")
        upload = Upload.objects.create(
            owner=self.person, kind=self.kind, file_name=name, start=self._start(), swaps=swaps, joins=self.joins
        )
        try:
            # The file is there, and durable, before the task that names it is known to anybody.
            storages["uploads"].save(upload.stored_name, self.file)
            with transaction.atomic():
                tasks.read_upload.defer(upload_id=upload.pk)
        except BaseException:
            discard(upload)
            upload.delete()
            raise
        return upload

    def _start(self) -> Start | None:
        if self.start is None:
            return starts_of(self.person).filter(is_default=True).first()
        return start_for(self.person, self.start) if self.start else None


@dataclass(frozen=True)
class TakeOffer:
    """Have a project take the newer version of its asset that was brought in; one step of undo.

    `matches` are keys of parts that are gone by those of new ones that take their places. Raises Refused when the
    upload is none, when the project has changed meanwhile and it no longer fits, or for parts that cannot be matched.
    `as_variant` has an asset that was to be added stand where the others do, as a variant of them.
    """

    person: Person
    upload_id: int
    matches: Mapping[str, str] = field(default_factory=dict)
    as_variant: bool = False

    def execute(self) -> Upload:
        upload = upload_for(self.person, self.upload_id)
        if upload.swaps is None or upload.offer is None:
            raise Refused(f"{upload.file_name} is no newer version of a project's asset.")
        with transaction.atomic():
            project = held_project(self.person, upload.swaps.pk)
            if upload.offer["revision"] not in (None, project.revision):
                raise Refused("The project was changed since the newer version was read: bring that in once more.")
            label = f"Add {upload.file_name}" if upload.joins else "Newer version of the asset"
            patch = upload.offer["patch"]
            if self.matches:
                patch = self._rematched(project.document(), patch)
            if self.as_variant and upload.joins and project.scene.get("asset"):
                label = f"{upload.file_name} as a variant"[:200]
                patch = self._varied(project.document(), patch, Path(upload.file_name).stem)
            ApplyEdit(self.person, project.pk, patch, label).execute()
        return upload

    def _varied(self, scene: Scene, patch: Patch, name: str) -> Patch:
        """The patch by which an added asset is a variant of those before it."""
        try:
            after = read_scene(apply_patch(scene.plain(), patch)[0])
        except SceneError as error:
            raise Refused(f"It cannot be a variant: {error}.") from error
        return difference(scene.plain(), assets_as_variants(scene, after, name).plain())

    def _rematched(self, scene: Scene, patch: Patch) -> Patch:
        """The patch with what was matched by hand."""
        try:
            after = read_scene(apply_patch(scene.plain(), patch)[0])
            return difference(scene.plain(), matched_by_hand(scene, after, self.matches).plain())
        except SceneError as error:
            raise Refused(f"The newer version cannot be taken: {error}.") from error


@dataclass(frozen=True)
class CancelUpload:
    """Stop an upload; a worker that is at it notices within a second."""

    person: Person
    upload_id: int

    def execute(self) -> Upload:
        found = upload_for(self.person, self.upload_id)
        running = Upload.objects.filter(pk=found.pk, state=Upload.State.RUNNING)
        if not running.update(state=Upload.State.CANCELED, stage="Cancelled"):
            raise Refused(f"{found.file_name} has been read already.")
        found.refresh_from_db()
        return found


def discard(upload: Upload) -> None:
    """Remove the file of an upload."""
    remove(storages["uploads"], upload.stored_name)
