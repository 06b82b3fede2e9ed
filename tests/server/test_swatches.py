"""The shelf of materials over HTTP: what comes with the application, what somebody has kept, pictures."""

import json

import pytest

from lantern.scene.document import SCHEMA_VERSION, Material
from lantern.scene.inputs import MaterialInput
from lantern.scene.layers import Layer
from lantern.scene.reading import read_scene
from lantern.scene.sources import ImageSource, NoiseSource
from lantern.scene.texture_use import TextureUse
from lantern.shelf.catalogue import catalogue
from server.library import picturing, swatches
from server.library.models import FavouriteSwatch, SwatchItem
from server.projects.actions import ApplyEdit

pytestmark = pytest.mark.django_db(transaction=True)


def listed(client):
    return {each["key"]: each for each in client.get("/api/v1/swatches").json()}


def put(people, project, key, material):
    patch = [{"op": "add", "path": f"/materials/{key}", "value": material.model_dump(mode="json")}]
    ApplyEdit(people["owner"], project.pk, patch, key).execute()


def keep(client, project, material, tags=""):
    data = json.dumps({"project": project.pk, "material": material, "tags": tags})
    return client.post("/api/v1/swatches", data, content_type="application/json")


def test_the_shelf_has_every_family_and_fits_into_a_document(client, people):
    client.force_login(people["owner"])
    found = listed(client)
    assert set(found) == set(catalogue()) and len(found) >= 60
    assert len({each["family"] for each in found.values()}) == 12
    for each in found.values():
        scene = read_scene({"schema_version": SCHEMA_VERSION, "materials": each["materials"]})
        assert next(iter(scene.materials)) == each["key"]
    assert client.get("/api/v1/swatches", headers={"accept-encoding": "gzip"})["Content-Encoding"] == "gzip"


def test_a_material_is_kept_with_its_layers_and_without_its_images(client, people, project):
    client.force_login(people["owner"])
    image = MaterialInput(source=ImageSource(texture=0))
    top = Material(name="Top", base_color=(0.1, 0.2, 0.3), inputs={"bump": MaterialInput(source=NoiseSource())})
    low = Material(
        name="Low", base_color_texture=TextureUse(texture=0), inputs={"coat_weight": image},
        layers=(Layer(material="top", coverage=0.3), Layer(material="top", mask=image)),
    )  # fmt: skip
    put(people, project, "top", top)
    put(people, project, "low", low)
    made = keep(client, project, "low", "strap dark")
    assert made.status_code == 200
    kept = listed(client)[made.json()["key"]]
    first, second = (Material.model_validate(each) for each in kept["materials"].values())
    assert (kept["name"], kept["family"], kept["words"]) == ("Low", "My own", "strap dark")
    assert first.base_color_texture is None and first.inputs == {} and second == top
    assert [(layer.material, layer.coverage) for layer in first.layers] == [(f"{kept['key']}-top", 0.3)]
    client.force_login(people["stranger"])
    assert made.json()["key"] not in listed(client)
    assert keep(client, project, "low").status_code == 404
    client.force_login(people["owner"])
    assert keep(client, project, "nothing").status_code == 404
    assert client.delete(f"/api/v1/swatches/{kept['key']}").status_code == 204
    assert not SwatchItem.objects.exists()


def test_pictures_are_made_once_and_again_when_a_material_changes(client, people, project, tmp_path, monkeypatch):
    """By the process that the worker starts; of the shelf they are there already."""
    monkeypatch.setattr(swatches, "cache_root", lambda: tmp_path)
    client.force_login(people["owner"])
    made = keep(client, project, next(iter(project.document().materials))).json()
    address = f"/api/v1/swatches/{made['key']}/picture"
    assert client.get(address).status_code == 404 and not made["has_picture"]
    for each in swatches.shelf_of(people["owner"]):
        if each.number is None:
            each.picture.parent.mkdir(exist_ok=True)
            each.picture.write_bytes(b"there")
    before = set(swatches.pictures_folder().iterdir())
    picturing.make_missing()
    (fresh,) = set(swatches.pictures_folder().iterdir()) - before
    answer = client.get(address)
    assert (
        answer["Content-Type"] == "image/jpeg"
        and answer.content == fresh.read_bytes()
        and answer.content[:2] == b"\xff\xd8"
    )
    assert listed(client)[made["key"]]["has_picture"]
    item = SwatchItem.objects.get()
    item.content["materials"]["lowest"]["base_color"] = [0.9, 0.1, 0.1]
    item.save()
    assert client.get(address).status_code == 404, "it shows what it was"


def test_favourites_are_a_persons_own_and_go_with_what_is_taken_off(client, people, project):
    client.force_login(people["owner"])
    own = keep(client, project, next(iter(project.document().materials))).json()["key"]

    def like(key, liked=True):
        data = json.dumps({"is_favourite": liked})
        return client.patch(f"/api/v1/swatches/{key}", data, content_type="application/json").status_code

    def favourites():
        return {key for key, each in listed(client).items() if each["is_favourite"]}

    assert [like("metal-gold"), like("metal-gold"), like(own), like("nothing")] == [204, 204, 204, 404]
    assert favourites() == {"metal-gold", own}
    client.force_login(people["stranger"])
    assert favourites() == set() and like(own) == 404
    client.force_login(people["owner"])
    assert like("metal-gold", liked=False) == 204 and favourites() == {own}
    assert client.delete("/api/v1/swatches/metal-gold").status_code == 404, "it is everybody's"
    assert client.delete(f"/api/v1/swatches/{own}").status_code == 204
    assert favourites() == set() and not FavouriteSwatch.objects.exists()
