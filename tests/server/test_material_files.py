"""Materials as files over HTTP: saved of a project and of the shelf, brought back, odd files, whose they are."""

import io
import json
import zipfile
from urllib.parse import unquote

import pytest
from asgiref.sync import async_to_sync

from lantern.scene.document import Material
from lantern.scene.inputs import MaterialInput
from lantern.scene.layers import Layer
from lantern.scene.sources import EdgesSource, PictureSource
from server.library.models import ImageItem, SwatchItem
from server.projects.actions import ApplyEdit
from tests.server.test_images import brought, named
from tests.server.test_intake import bring

pytestmark = pytest.mark.django_db(transaction=True)


def put(people, project, materials):
    patch = [
        {"op": "add", "path": f"/materials/{key}", "value": material.model_dump(mode="json")}
        for key, material in materials.items()
    ]
    ApplyEdit(people["owner"], project.pk, patch, "Materials").execute()


def body(answer):
    async def gathered():
        return b"".join([piece async for piece in answer.streaming_content])

    return async_to_sync(gathered)()


def test_a_material_with_layers_and_an_image_is_saved_and_brought_back(client, people, project):
    client.force_login(people["owner"])
    item = ImageItem.objects.get(pk=brought(client)["result"])
    image = MaterialInput(source=PictureSource(file=named(item)))
    low = Material(
        name="Low", base_color=(0.1, 0.2, 0.3), inputs={"base_color": image},
        layers=(Layer(material="top", mask=MaterialInput(source=EdgesSource(width=0.004))),),
    )  # fmt: skip
    put(people, project, {"top": Material(name="Top", base_metalness=1.0), "low": low})
    answer = client.get(f"/api/v1/projects/{project.pk}/materials/low/file")
    assert answer.status_code == 200 and 'filename="Low.mtlx.zip"' in answer["Content-Disposition"]
    data = body(answer)
    lost = json.loads(unquote(answer["Lantern-Left-Out"]))
    assert any("Edges of mask" in each for each in lost)
    assert len(zipfile.ZipFile(io.BytesIO(data)).namelist()) == 2
    client.force_login(people["stranger"])
    _, state = bring(client, "Low.mtlx.zip", data, "material")
    assert state["state"] == "done"
    swatch = next(each for each in client.get("/api/v1/swatches").json() if each["number"] == state["result"])
    found, over = (Material.model_validate(each) for each in swatch["materials"].values())
    assert found.inputs["base_color"].source.file.sha256 == item.file.sha256, "the same file, now theirs as well"
    assert found.layers[0].mask.source.width == 0.004 and over.base_metalness == 1.0
    assert swatch["problems"] == [] and swatch["family"] == "My own"


def test_a_swatch_of_the_shelf_is_saved(client, people):
    client.force_login(people["owner"])
    answer = client.get("/api/v1/swatches/worn-rusted/file")
    assert answer.status_code == 200 and zipfile.is_zipfile(io.BytesIO(body(answer)))
    assert client.get("/api/v1/swatches/nothing/file").status_code == 404


def test_a_map_of_the_asset_is_saved_with_the_material(client, people, project):
    """The project's asset is read by the process that writes, not by the server."""
    client.force_login(people["owner"])
    worn = next(iter(project.document().materials))
    answer = client.get(f"/api/v1/projects/{project.pk}/materials/{worn}/file")
    assert answer.status_code == 200 and zipfile.is_zipfile(io.BytesIO(body(answer)))
    assert client.get(f"/api/v1/projects/{project.pk}/materials/nothing/file").status_code == 404


@pytest.mark.parametrize(
    ("name", "data", "said"),
    [
        ("a.mtlx", b"hello", "no MaterialX"),
        ("a.zip", b"PK\x05\x06" + bytes(18), "0 .mtlx files"),
        ("a.mtlx", b'<materialx version="1.39"/>', "no material"),
    ],
)
def test_what_is_no_file_of_materials_is_said(client, people, name, data, said):
    client.force_login(people["owner"])
    _, state = bring(client, name, data, "material")
    assert state["state"] == "failed" and state["error"].startswith(f"{name}: ") and said in state["error"]
    assert not SwatchItem.objects.exists()


def test_what_of_a_file_could_not_be_had_is_told(client, people):
    client.force_login(people["owner"])
    text = (
        '<materialx version="1.39"><image name="i" type="color3"><input name="file" type="filename" value="x.png"/>'
        '</image><open_pbr_surface name="s" type="surfaceshader"><input name="base_color" type="color3" nodename="i"/>'
        '</open_pbr_surface><surfacematerial name="m" type="material"><input name="surfaceshader" '
        'type="surfaceshader" nodename="s"/></surfacematerial></materialx>'
    )
    _, state = bring(client, "a.mtlx", text.encode(), "material")
    (swatch,) = [each for each in client.get("/api/v1/swatches").json() if each["number"] == state["result"]]
    assert swatch["problems"] == ["image x.png: bring the .mtlx in a zip with its images"]
