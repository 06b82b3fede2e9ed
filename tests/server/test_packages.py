"""Projects as files: out and in again, with what a foreign file may be instead."""

import io
import json
import zipfile
from pathlib import Path
from urllib.parse import unquote

import pytest
from asgiref.sync import async_to_sync
from PIL import Image

from lantern.assets.reading import import_asset
from lantern.motion.bounds import asset_bounds
from lantern.scene.arranging import Build, arranged
from lantern.scene.inputs import MaterialInput, Placement
from lantern.scene.sources import ChecksSource
from server.packages.contents import COVER, FILES, INDEX
from server.projects.actions import ApplyEdit, Redo, Undo
from server.projects.models import Cover, Project, StoredFile
from server.projects.reports import report_of
from server.projects.storage import keep, paths_of
from tests.server.test_intake import bring, map_file, nothing_waits

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def worked_on(people, project, tmp_path):
    """A project with a map, a cover and three steps of undo, one of them undone."""
    owner = people["owner"]
    reference = keep(map_file(tmp_path), "studio.exr", owner)
    for path, value in (
        ("/environment/map", reference.model_dump()),
        ("/look/exposure", 1.5),
        ("/ground/reflection", 0.25),
    ):
        ApplyEdit(owner, project.pk, [{"op": "replace", "path": path, "value": value}], f"Change {path}").execute()
    Undo(owner, project.pk).execute()
    picture = io.BytesIO()
    Image.new("RGB", (48, 30), "#a06010").save(picture, "JPEG")
    Cover.objects.create(project=project, picture=picture.getvalue())
    project.refresh_from_db()
    return project


def packed(client, project, query=""):
    answer = client.get(f"/api/v1/projects/{project.pk}/package{query}")
    assert answer.status_code == 200 and answer["Content-Type"] == "application/zip"
    return async_to_sync(_gathered)(answer.streaming_content)


async def _gathered(pieces):
    return b"".join([piece async for piece in pieces])


def facts(project):
    """Everything of a project that a package holds."""
    project = Project.objects.get(pk=project.pk)
    return {
        "name": project.name,
        "scene": project.scene,
        "report": report_of(project),
        "revision": project.revision,
        "cursor": project.cursor,
        "cover": bytes(Cover.objects.get(project=project).picture),
        "steps": [(e.number, e.patch, e.inverse, e.label) for e in project.edits.all()],
    }


def test_a_project_is_equal_after_the_round_trip(client, people, worked_on):
    client.force_login(people["owner"])
    content, before = packed(client, worked_on), facts(worked_on)
    # Another server: nothing of it is there.
    Project.objects.all().delete()
    StoredFile.objects.all().delete()
    client.force_login(people["stranger"])
    _, state = bring(client, "Square.project.zip", content)
    assert state["state"] == "done", state["error"]
    project = Project.objects.get(pk=state["result"])
    assert facts(project) == before and project.owner == people["stranger"] and nothing_waits()
    for action, exposure in ((Undo, 0.0), (Redo, 1.5)):
        assert action(people["stranger"], project.pk).execute().scene["look"]["exposure"] == exposure
    assert Redo(people["stranger"], project.pk).execute().scene["ground"]["reflection"] == 0.25


def test_patterns_go_out_as_images_when_that_is_asked_for(client, people, project, tmp_path):
    client.force_login(people["owner"])
    scene = project.document()
    key = scene.parts["square"].material
    checks = MaterialInput(source=ChecksSource(), placement=Placement(size=0.5)).model_dump(mode="json")
    patch = [{"op": "add", "path": f"/materials/{key}/inputs/base_color", "value": checks}]
    ApplyEdit(people["owner"], project.pk, patch, "Checks").execute()
    for asked, images in (("", 0), ("&bake=512", 1)):
        answer = client.get(f"/api/v1/projects/{project.pk}/model?form=glb{asked}")
        (tmp_path / "out.glb").write_bytes(async_to_sync(_gathered)(answer.streaming_content))
        assert len(import_asset(tmp_path / "out.glb").textures) == images
        said = json.loads(unquote(answer["Lantern-Left-Out"]))
        assert any("patterns" in one for one in said) == (images == 0)
    refused = client.get(f"/api/v1/projects/{project.pk}/model?form=glb&bake=1000")
    assert refused.status_code == 422 and "not 1000" in refused.json()["detail"]


def test_what_is_seen_is_exported_as_a_model(client, people, project, tmp_path):
    client.force_login(people["owner"])
    made = arranged(project.document(), Build(kind="build", piece="plinth"), {"square": ([1, 2, 3], [3, 4, 3])})
    ApplyEdit(people["owner"], project.pk, made.patch, made.label).execute()
    answer = client.get(f"/api/v1/projects/{project.pk}/model")
    assert answer["Content-Disposition"] == f'attachment; filename="{project.name}.glb"'
    (tmp_path / "out.glb").write_bytes(async_to_sync(_gathered)(answer.streaming_content))
    out = import_asset(tmp_path / "out.glb")
    assert [part.name for part in out.parts.values()] == ["Square", "Plinth"]
    low, high = asset_bounds(out)
    assert low[0] < 1 and high[1] == pytest.approx(4)
    for form, ending in (("usdz", ".usdz"), ("obj", ".zip")):
        answer = client.get(f"/api/v1/projects/{project.pk}/model?form={form}")
        assert answer["Content-Disposition"] == f'attachment; filename="{project.name}{ending}"'
        (tmp_path / f"out{ending}").write_bytes(async_to_sync(_gathered)(answer.streaming_content))
        again = import_asset(tmp_path / f"out{ending}")
        assert {part.name for part in again.parts.values()} == {"Square", "Plinth"}
        assert asset_bounds(again)[1][1] == pytest.approx(4)
        said = json.loads(unquote(answer["Lantern-Left-Out"]))
        assert any("camera" in one for one in said) == (form == "obj")
    assert client.get(f"/api/v1/projects/{project.pk}/model?form=fbx").status_code == 422
    hidden = [{"op": "replace", "path": f"/parts/{key}/visible", "value": False} for key in ("square", made.key)]
    ApplyEdit(people["owner"], project.pk, hidden, "Hide").execute()
    refused = client.get(f"/api/v1/projects/{project.pk}/model")
    assert refused.status_code == 422 and "nothing to export" in refused.json()["detail"]
    damaged = Path(paths_of([project.document().asset.file])[project.document().asset.file.sha256])
    damaged.write_bytes(b"no model any more")
    shown = [hidden[0] | {"value": True}]
    ApplyEdit(people["owner"], project.pk, shown, "Show").execute()
    refused = client.get(f"/api/v1/projects/{project.pk}/model")
    assert refused.status_code == 422 and "square.glb: is neither" in refused.json()["detail"]


def test_history_is_left_out_when_it_is_not_wanted(client, people, worked_on):
    client.force_login(people["owner"])
    _, state = bring(client, "x.zip", packed(client, worked_on, "?history=false"))
    project = Project.objects.get(pk=state["result"])
    assert project.scene == worked_on.scene and (project.cursor, project.edits.count()) == (0, 0)


def test_a_package_has_the_name_of_its_project(client, people, project):
    client.force_login(people["owner"])
    client.patch(f"/api/v1/projects/{project.pk}", {"name": 'Täschchen "No/4"'}, content_type="application/json")
    answer = client.get(f"/api/v1/projects/{project.pk}/package")
    assert "T%C3%A4schchen%20No%204.project.zip" in answer["Content-Disposition"]


def changed(content, change=None, files=None):
    """A package with its index changed, and entries replaced (None: left out)."""
    target = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(content)) as old, zipfile.ZipFile(target, "w") as new:
        for entry in old.namelist():
            data = old.read(entry)
            if entry == INDEX and change:
                index = json.loads(data)
                change(index)
                data = json.dumps(index).encode()
            if files and any(entry.startswith(start) for start in files):
                data = next(value for start, value in files.items() if entry.startswith(start))
            if data is not None:
                new.writestr(entry, data)
    return target.getvalue()


@pytest.mark.parametrize(
    ("change", "files", "words"),
    [
        (lambda i: i.update(version=99), None, "later version"),
        (lambda i: i.update(name=""), None, "project.json, name"),
        (lambda i: i.update(unknown=1), None, "project.json, unknown"),
        (lambda i: i["scene"].update(schema_version=99), None, "schema_version"),
        (lambda i: i["scene"]["look"].update(exposure=1e9), None, "look/exposure"),
        (lambda i: i.update(steps=[{"number": 1}]), None, "project.json, steps/0"),
        (None, {FILES: b"not what its digest says"}, "is damaged"),
        (None, {FILES: None}, "is missing in it"),
    ],
)
def test_a_damaged_package_is_refused_with_its_reason(client, people, worked_on, change, files, words):
    client.force_login(people["owner"])
    content = changed(packed(client, worked_on), change, files)
    _, state = bring(client, "broken.zip", content)
    assert state["state"] == "failed" and state["error"].startswith("broken.zip: ") and words in state["error"]
    assert Project.objects.count() == 1 and nothing_waits()


def test_steps_that_do_not_fit_are_left_out_and_a_cover_that_is_none_too(client, people, worked_on):
    client.force_login(people["owner"])

    def misfit(index):
        index["steps"][0]["inverse"] = [{"op": "remove", "path": "/parts/none"}]

    _, state = bring(client, "x.zip", changed(packed(client, worked_on), misfit, {COVER: b"GIF89a"}))
    project = Project.objects.get(pk=state["result"])
    assert project.edits.count() == 0 and not Cover.objects.filter(project=project).exists()
    assert report_of(project).problems[-1].startswith("The steps of undo in the package do not fit")


def test_a_package_of_too_many_bytes_is_refused_before_they_are_kept(client, people, worked_on, settings, tmp_path):
    settings.PACKAGE_SIZE_LIMIT = 1 << 20
    client.force_login(people["owner"])
    bomb = io.BytesIO()
    source = packed(client, worked_on)
    with zipfile.ZipFile(io.BytesIO(source)) as old, zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as new:
        for entry in old.namelist():
            new.writestr(entry, b"\0" * (64 << 20) if entry.startswith(FILES) else old.read(entry))
    _, state = bring(client, "bomb.zip", bomb.getvalue())
    assert state["state"] == "failed" and "more than 1 MB" in state["error"]


def test_a_zip_of_something_else_is_read_as_an_asset(client, people):
    client.force_login(people["owner"])
    other = io.BytesIO()
    with zipfile.ZipFile(other, "w") as package:
        package.writestr(INDEX, "{}")
    _, state = bring(client, "other.zip", other.getvalue())
    assert state["state"] == "failed" and "project" not in state["error"]
