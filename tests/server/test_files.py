"""Files of prints in every format, parts of frames, and pictures that are opened back as takes."""

import time
import zipfile
from pathlib import Path

import numpy as np
import OpenImageIO as oiio
import pytest
from django.core.files.storage import storages
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from lantern.color import encode_srgb
from lantern.picture.told import read_told
from lantern.scene.reading import read_scene
from server.intake import working as reading
from server.intake.models import Upload
from server.prints import filling, still, working
from server.prints.actions import QueuePrint
from server.prints.models import Print
from server.projects.actions import ApplyEdit, CreateProject
from server.takes.models import Take

pytestmark = pytest.mark.django_db(transaction=True)
EVERYTHING = {
    "png_depth": "16", "jpeg": 95, "tiff": "shown", "hdr": True, "dpi": 300, "exr_depth": "float",
    "exr_compression": "piz",
}  # fmt: skip


def printed(people, project, **settings):
    patch = [{"op": "replace", "path": f"/print/{name}", "value": value} for name, value in settings.items()]
    if patch:
        ApplyEdit(people["owner"], project.pk, patch, "Settings").execute()
    item = QueuePrint(people["owner"], project.pk).execute()
    working.work_on(item.pk)
    item.refresh_from_db()
    assert (item.state, item.error) == (Print.State.DONE, "")
    return item


def path_of(item, kind):
    return Path(storages["prints"].path(item.file_name(kind)))


def pixels(item, kind, depth=oiio.FLOAT):
    reader = oiio.ImageInput.open(str(path_of(item, kind)))
    return reader.read_image(0, 0, 0, 3, depth)


def test_one_picture_in_every_format(people, project, client):
    item = printed(people, project, **EVERYTHING)
    assert item.kinds == ("png", "exr", "hdr", "jpg", "tif")
    client.force_login(people["owner"])
    [entry] = client.get(f"/api/v1/projects/{project.pk}/prints").json()["items"]
    assert entry["files"] == list(item.kinds)
    for kind, content in (("jpg", "image/jpeg"), ("tif", "image/tiff"), ("png", "image/png")):
        sent = client.get(f"/api/v1/prints/{item.pk}/files/{kind}")
        assert sent.status_code == 200 and sent["Content-Type"] == content
    deep = pixels(item, "png")
    assert (deep == pixels(item, "tif")).all() and len(np.unique(deep)) > 256
    assert np.abs(pixels(item, "jpg") - deep).mean() < 0.02
    with Image.open(path_of(item, "jpg")) as image:
        assert image.info["dpi"] == (300, 300)
    assert oiio.ImageInput.open(str(path_of(item, "exr"))).spec().format == oiio.FLOAT
    for kind in ("png", "jpg", "tif", "exr"):
        facts = read_told(path_of(item, kind), kind)
        assert read_scene(facts["document"]) == read_scene(item.scene) and facts["samples"] == 12
    silent = printed(people, project, told=False)
    assert not any(b"VelvetLantern" in path_of(silent, kind).read_bytes() for kind in silent.kinds)


def channels(path):
    return set(oiio.ImageBuf(str(path)).spec().channelnames)


def test_an_exr_has_the_layers_that_were_chosen(people, project):
    bare = printed(people, project, guide_layers=False)
    assert channels(path_of(bare, "exr")) == {"R", "G", "B", "A"}
    some = printed(people, project, guide_layers=True, group_layers=True, matte_layers=True)
    layers = {name.partition(".")[0].rstrip("012") for name in channels(path_of(some, "exr"))}
    assert layers == {
        "R", "G", "B", "A", "Z", "albedo", "normal", "group_environment", "group_emissive", "CryptoObject",
        "CryptoMaterial",
    }  # fmt: skip
    none = printed(people, project, exr_files="none")
    assert none.kinds == ("png",)


def test_each_layer_is_a_file_of_its_own(people, project, client):
    whole = printed(people, project, way_layers=True, matte_layers=True)
    apart = printed(people, project, exr_files="each")
    assert apart.kinds == ("png", "layers")
    client.force_login(people["owner"])
    sent = client.get(f"/api/v1/prints/{apart.pk}/files/layers")
    assert sent["Content-Type"] == "application/zip" and "-layers.zip" in sent["Content-Disposition"]
    with zipfile.ZipFile(path_of(apart, "layers")) as found:
        found.extractall(apart.folder)
        names = found.namelist()
    assert {"picture.exr", "albedo.exr", "normal.exr", "depth.exr", "diffuse.exr", "CryptoObject.exr"} < set(names)
    one = oiio.ImageBuf(str(path_of(whole, "exr")))
    wanted, pixels = list(one.spec().channelnames), one.get_pixels(oiio.FLOAT)
    for layer, renamed in (("diffuse", "RGB"), ("albedo", "RGB"), ("normal", ("normal.X", "normal.Y", "normal.Z"))):
        file = oiio.ImageBuf(str(apart.folder / f"{layer}.exr"))
        assert list(file.spec().channelnames) == list(renamed)
        places = [wanted.index(name if "." in name else f"{layer}.{name}") for name in renamed]
        assert (file.get_pixels(oiio.FLOAT) == pixels[..., places]).all()
    mattes = oiio.ImageBuf(str(apart.folder / "CryptoObject.exr")).spec()
    told = [attribute.value for attribute in mattes.extra_attribs if attribute.name.endswith("/name")]
    assert told == ["CryptoObject"] and len(mattes.channelnames) == 12
    assert read_told(apart.folder / "depth.exr", "depth.exr")["samples"] == 12


def test_an_exr_can_have_the_look_and_is_opened_back_with_it_once(people, project, client):
    patch = [{"op": "replace", "path": "/look/exposure", "value": 1.5}]
    ApplyEdit(people["owner"], project.pk, patch, "Brighter").execute()
    item = printed(people, project, exr_picture="shown", exr_depth="float", png_depth="16")
    light, shown = pixels(item, "exr"), pixels(item, "png")
    assert light.max() <= 1.0 and np.abs(encode_srgb(light) - shown).max() < 2e-4
    client.force_login(people["owner"])
    state = opened(client, project, "found.exr", path_of(item, "exr").read_bytes())
    take = Take.objects.get(pk=state["result"])
    with Image.open(take.picture.file.path) as image:
        assert np.abs(np.asarray(image.convert("RGB")) - shown * 255.0).mean() < 3


def test_a_part_of_the_frame_is_the_same_picture_cut_out(people, project):
    whole = printed(people, project, denoise=False, noise=None)
    part = printed(people, project, region=[0.25, 0.0, 0.75, 0.5], tiff="light")
    assert pixels(part, "png").shape[:2] == (16, 24)
    assert (pixels(part, "png") == pixels(whole, "png")[:16, 12:36]).all()
    assert (pixels(part, "exr") == pixels(whole, "exr")[:16, 12:36]).all()
    spec = oiio.ImageInput.open(str(path_of(part, "exr"))).spec()
    assert (spec.x, spec.y, spec.full_width, spec.full_height) == (12, 0, 48, 32)
    np.testing.assert_allclose(pixels(part, "tif"), pixels(part, "exr"), rtol=1e-3)


def test_a_print_ends_when_its_time_is_up_however_often_it_was_interrupted(people, project, monkeypatch):
    waits = 0.05
    real = filling.Watch.check

    def slow(self, *, now=False):
        time.sleep(0 if now else waits)
        real(self, now=now)

    monkeypatch.setattr(filling.Watch, "check", slow)
    monkeypatch.setattr(filling, "REPORT_SECONDS", 0.0)
    item = printed(people, project, samples=4000, noise=None, seconds=1.0)
    assert item.seconds_spent > 0.9 and pixels(item, "exr").shape == (32, 48, 3)
    taken = read_told(path_of(item, "png"), "png")["samples"]
    assert 1 < taken < 4000
    again = QueuePrint(people["owner"], project.pk).execute()
    Print.objects.filter(pk=again.pk).update(seconds_spent=0.9)
    again.folder.mkdir(parents=True, exist_ok=True)
    engine = working.Engine(final=True)
    scene = read_scene(again.scene)
    paths = working.storage.paths_for(scene)
    engine.open(scene, lambda reference: Path(paths[reference.sha256]))
    film = filling.open_film(again.folder / still.FILM_FILE, engine, scene.print)
    engine.trace(film, 2)
    filling.keep_film(again.folder / still.FILM_FILE, film)
    engine.close()
    working.work_on(again.pk)
    assert read_told(path_of(again, "png"), "png")["samples"] <= max(taken // 2, 6), "a tenth of a second was left"


def opened(client, project, name, content):
    """The state of an upload that is to be a take of a project, once it is read."""
    form = {"file": SimpleUploadedFile(name, content), "swaps": project.pk}
    answer = client.post("/api/v1/intake/picture", form)
    if answer.status_code != 200:
        return answer.json()
    reading.work_on(answer.json()["id"])
    return client.get(f"/api/v1/uploads/{answer.json()['id']}").json()


@pytest.mark.parametrize("kind", ["png", "jpg", "tif", "exr"])
@pytest.mark.parametrize("tiff", ["shown", "light"])
def test_a_picture_is_opened_back_as_a_take(people, project, client, kind, tiff):
    item = printed(people, project, **{**EVERYTHING, "tiff": tiff})
    client.force_login(people["owner"])
    ApplyEdit(
        people["owner"], project.pk, [{"op": "replace", "path": "/look/exposure", "value": 3.0}], "Later"
    ).execute()
    state = opened(client, project, f"found.{kind}", path_of(item, kind).read_bytes())
    assert state["state"] == "done", state
    take = Take.objects.get(pk=state["result"])
    assert (take.width, take.height, take.samples, take.note) == (48, 32, 12, f"found.{kind}")
    assert read_scene(take.scene) == read_scene(item.scene)
    with Image.open(take.picture.file.path) as image:
        shown = np.asarray(image.convert("RGB")).astype(int)
    with Image.open(path_of(printed(people, project, png_depth="8"), "png")) as brighter:
        assert np.asarray(brighter).mean() > shown.mean() + 5
    expected = pixels(item, "png") * 255
    assert np.abs(shown - expected).mean() < 3, "light is shown with the look that it was made with"


def test_a_picture_of_files_that_are_not_here_or_of_nothing_is_refused(people, project, client):
    content = path_of(printed(people, project), "png").read_bytes()
    client.force_login(people["stranger"])
    assert "no project" in opened(client, project, "found.png", content)["detail"]
    client.force_login(people["owner"])
    plain = client.post("/api/v1/intake/picture", {"file": SimpleUploadedFile("found.png", content)})
    assert plain.status_code == 422 and "say of which" in plain.json()["detail"]
    state = opened(client, project, "found.png", content[: len(content) // 2])
    assert state["state"] == "failed" and not Take.objects.exists()
    other = CreateProject(people["stranger"], "Empty", read_scene({})).execute()
    client.force_login(people["stranger"])
    state = opened(client, other, "found.png", content)
    assert state["state"] == "failed" and "square.glb is not stored here" in state["error"]
    assert Upload.objects.filter(state="failed").count() == 2 and not Take.objects.exists()
