"""Images of one's own over HTTP: brought, listed, kept as long as anything names them, shown on swatches."""

import io
import json
from datetime import timedelta

import numpy as np
import pytest
from django.utils import timezone
from PIL import Image

from lantern.scene.decals import Decal, PictureContent
from lantern.scene.document import Material
from lantern.scene.inputs import MaterialInput
from lantern.scene.model import FileRef
from lantern.scene.sources import PictureSource
from server.administration.collecting import collect_files
from server.errors import Refused
from server.library import picturing, swatches
from server.library.models import ImageItem
from server.projects.actions import ApplyEdit
from server.projects.models import StoredFile
from tests.server.test_intake import bring

pytestmark = pytest.mark.django_db(transaction=True)


def png(color=(255, 0, 0, 128)):
    file = io.BytesIO()
    Image.fromarray(np.tile(np.array(color, np.uint8), (32, 64, 1))).save(file, "PNG")
    return file.getvalue()


def brought(client, name="my_label.png", content=None):
    _, state = bring(client, name, content or png(), "image")
    return state


def test_an_image_is_read_listed_and_shown_to_its_owner_alone(client, people):
    client.force_login(people["owner"])
    state = brought(client)
    (entry,) = client.get("/api/v1/images").json()["items"]
    assert entry["id"] == state["result"] and entry["name"] == "my label"
    assert (entry["width"], entry["height"], entry["has_alpha"], entry["is_ball"]) == (64, 32, False, False)
    small = client.get(f"/api/v1/images/{entry['id']}/thumbnail")
    assert small["Content-Type"] == "image/png"
    assert Image.open(io.BytesIO(small.content)).getpixel((3, 3)) == (255, 0, 0, 128)
    client.force_login(people["stranger"])
    assert client.get("/api/v1/images").json()["items"] == []
    assert client.get(f"/api/v1/images/{entry['id']}/thumbnail").status_code == 404
    assert client.delete(f"/api/v1/images/{entry['id']}").status_code == 404


@pytest.mark.parametrize(
    ("name", "content", "said"),
    [
        ("label.png", b"hello", "no kind that can be read"),
        ("label.svg", b"<svg><image href='file:///etc/passwd'/></svg>", "other files"),
    ],
)
def test_what_is_no_image_is_said_and_not_kept(client, people, name, content, said):
    client.force_login(people["owner"])
    state = brought(client, name, content)
    assert state["state"] == "failed" and state["error"].startswith(f"{name}: ") and said in state["error"]
    assert not ImageItem.objects.exists() and not StoredFile.objects.exists()


def named(item):
    return FileRef(sha256=item.file.sha256, name=item.file_name)


def test_a_file_is_kept_as_long_as_a_project_or_a_swatch_names_it(client, people, project):
    client.force_login(people["owner"])
    item = ImageItem.objects.get(pk=brought(client)["result"])
    source = PictureSource(file=named(item))
    material = Material(name="Own", inputs={"base_color": MaterialInput(source=source)})
    patch = [{"op": "add", "path": "/materials/own", "value": material.model_dump(mode="json")}]
    ApplyEdit(people["owner"], project.pk, patch, "Own").execute()
    data = json.dumps({"project": project.pk, "material": "own", "tags": ""})
    kept = client.post("/api/v1/swatches", data, content_type="application/json").json()
    (shown,) = kept["materials"].values()
    assert shown["inputs"]["base_color"]["source"]["file"]["sha256"] == item.file.sha256
    assert client.delete(f"/api/v1/images/{item.pk}").status_code == 204
    client.delete(f"/api/v1/projects/{project.pk}")
    StoredFile.objects.update(created=timezone.now() - timedelta(days=30))

    def is_there():
        collect_files()
        return StoredFile.objects.filter(sha256=item.file.sha256).exists()

    assert is_there(), "the swatch names it"
    client.delete(f"/api/v1/swatches/{kept['key']}")
    assert not is_there()


def test_nobody_takes_a_file_of_somebody_else_into_a_project(client, people, project):
    client.force_login(people["stranger"])
    item = ImageItem.objects.get(pk=brought(client)["result"])
    decal = Decal(name="D", content=PictureContent(file=named(item)))
    patch = [{"op": "add", "path": "/decals/d", "value": decal.model_dump(mode="json")}]
    with pytest.raises(Refused, match="not stored here"):
        ApplyEdit(people["owner"], project.pk, patch, "Theirs").execute()


def test_a_kept_material_shows_its_image_on_the_shelf(client, people, project, tmp_path, monkeypatch):
    monkeypatch.setattr(swatches, "cache_root", lambda: tmp_path)
    client.force_login(people["owner"])
    item = ImageItem.objects.get(pk=brought(client, content=png((0, 255, 0, 255)))["result"])
    source = PictureSource(file=named(item))
    material = Material(name="Green", inputs={"base_color": MaterialInput(source=source)})
    patch = [{"op": "add", "path": "/materials/green", "value": material.model_dump(mode="json")}]
    ApplyEdit(people["owner"], project.pk, patch, "Green").execute()
    data = json.dumps({"project": project.pk, "material": "green", "tags": ""})
    kept = client.post("/api/v1/swatches", data, content_type="application/json").json()
    for each in swatches.shelf_of(people["owner"]):
        if each.number is None:
            each.picture.parent.mkdir(exist_ok=True)
            each.picture.write_bytes(b"there")
    picturing.make_missing()
    shown = np.asarray(Image.open(io.BytesIO(client.get(f"/api/v1/swatches/{kept['key']}/picture").content)))
    middle = shown[len(shown) // 2, shown.shape[1] // 2].astype(int)
    assert middle[1] > middle[0] + 60 and middle[1] > middle[2] + 60
