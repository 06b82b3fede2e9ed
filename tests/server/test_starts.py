"""Set-ups of projects with which new ones begin."""

import math

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from lantern.scene.document import Camera, PartSet, Scene
from lantern.scene.lights import DirectionalLight, RectangleLight, SpotLight
from lantern.scene.look import Look
from lantern.scene.starts import fitted, setup_of
from lantern.scene.surroundings import FREE_PATHS_OF_SIGHT, Box, Ground, Haze
from server.intake import working
from server.projects.actions import ApplyEdit, CreateProject
from server.projects.models import Project, Start
from tests.core.gltf_files import glb

SMALL = ((0.0, 1.0, 0.0), (0.1, 1.2, 0.1))
LARGE = ((-5.0, 0.0, 5.0), (-4.0, 2.0, 6.0))


def studio():
    lights = {
        "key": RectangleLight(name="Key", position=(0.25, 1.4, 0.05), target=(0.05, 1.1, 0.05), width=0.2, amount=50),
        "rim": SpotLight(name="Rim", position=(0.05, 1.5, -0.3), unit="cd", amount=7, unlit_parts=("lid",)),
        "sun": DirectionalLight(name="Sun", amount=900),
        "glow": RectangleLight(name="Glow", unit="cd/m²", amount=33),
    }
    return Scene(
        lights=lights,
        part_sets={"s": PartSet(name="Lids", parts=("lid",))},
        camera=Camera(focal_length=50, keys=({"time": 0, "position": (1, 1, 1), "target": (0, 0, 0)},)),
        haze=Haze(box=Box(low=(0, 1, 0), high=(0.1, 1.1, 0.1)), sight=FREE_PATHS_OF_SIGHT * 2),
        look=Look(exposure=0.7),
    )


def test_a_setup_is_without_what_is_about_single_parts():
    kept = setup_of(studio())
    assert kept.asset is None and kept.parts == kept.part_sets == kept.materials == {} and kept.camera.keys == ()
    assert kept.lights["rim"].unlit_parts == () and kept.look.exposure == 0.7 and kept.camera.focal_length == 50


def test_light_falls_on_a_larger_asset_as_it_did_on_the_small_one():
    """Ten times as large: the same directions, and by the inverse-square law the same illuminance."""
    old, new = setup_of(studio()), fitted(setup_of(studio()), SMALL, LARGE)

    def seen_from(light, box):
        (x0, y0, z0), (x1, _, z1) = box
        return [p - o for p, o in zip(light.position, ((x0 + x1) / 2, y0, (z0 + z1) / 2), strict=True)]

    for key in ("key", "rim"):
        before, after = seen_from(old.lights[key], SMALL), seen_from(new.lights[key], LARGE)
        assert after == pytest.approx([10 * v for v in before], abs=1e-5)
        reached = [light.amount / math.dist((0, 0, 0), way) ** 2 for light, way in
                   ((old.lights[key], before), (new.lights[key], after))]  # fmt: skip
        assert reached[0] == pytest.approx(reached[1], rel=1e-5)
    assert new.lights["key"].width == pytest.approx(2.0) and new.lights["sun"].amount == 900
    assert new.lights["glow"].amount == 33, "a luminance looks the same from everywhere"
    assert new.ground.height == 0.0 and new.haze.sight == pytest.approx(FREE_PATHS_OF_SIGHT * 20)
    assert new.haze.box.low == pytest.approx((-5.0, 0.0, 5.0)) and new.haze.box.high[0] == pytest.approx(-4.0)


def test_without_a_known_size_only_the_ground_follows():
    kept = setup_of(studio())
    assert fitted(kept, None, LARGE) == kept.model_copy(update={"ground": Ground(height=0.0)})


@pytest.fixture
def kept(client, people, project):
    """The owner's project made a start."""
    Project.objects.filter(pk=project.pk).update(bounds=[[0, 0, 0], [1, 1, 1]])
    key = RectangleLight(name="Key").model_dump(mode="json")
    patch = [
        {"op": "replace", "path": "/look/exposure", "value": 2.5},
        {"op": "add", "path": "/lights/key", "value": key},
    ]
    ApplyEdit(people["owner"], project.pk, patch, "Light").execute()
    client.force_login(people["owner"])
    answer = client.post(f"/api/v1/projects/{project.pk}/start", {"name": "Studio"}, content_type="application/json")
    return answer.json()["id"]


def begun(client, **fields):
    """The project that a square becomes."""
    sent = {"file": SimpleUploadedFile("square.glb", glb()), **fields}
    answer = client.post("/api/v1/intake/asset", sent)
    if answer.status_code != 200:
        return answer
    working.work_on(answer.json()["id"])
    state = client.get(f"/api/v1/uploads/{answer.json()['id']}").json()
    return Project.objects.get(pk=state["result"])


@pytest.mark.django_db(transaction=True)
def test_new_projects_begin_as_they_are_told(client, people, kept):
    plain = begun(client)
    assert plain.scene["look"]["exposure"] == 0.0 and plain.scene["lights"] == {}
    chosen = begun(client, start=kept)
    assert chosen.scene["look"]["exposure"] == 2.5 and list(chosen.scene["lights"]) == ["key"]
    assert chosen.scene["parts"] == plain.scene["parts"] and chosen.scene["ground"]["height"] == 2
    assert chosen.bounds == plain.bounds and chosen.bounds[0][1] == 2
    change = client.patch(f"/api/v1/starts/{kept}", {"is_default": True}, content_type="application/json")
    assert change.json() == {"id": kept, "name": "Studio", "is_default": True}
    assert begun(client).scene["look"]["exposure"] == 2.5
    assert begun(client, start=0).scene["look"]["exposure"] == 0.0
    assert begun(client, start=99_999).status_code == 404
    client.force_login(people["stranger"])
    assert begun(client).scene["look"]["exposure"] == 0.0
    assert begun(client, start=kept).status_code == 404


@pytest.mark.django_db
def test_a_start_is_replaced_by_its_name_and_only_one_is_the_default(client, people, kept):
    other = CreateProject(people["owner"], "Empty", Scene()).execute()

    def keep_as(name):
        address = f"/api/v1/projects/{other.pk}/start"
        return client.post(address, {"name": name}, content_type="application/json")

    assert keep_as("Studio").json()["id"] == kept and Start.objects.get().scene["look"]["exposure"] == 0.0
    assert keep_as(" ").status_code == 422
    second = keep_as("Dark").json()["id"]
    for number in (kept, second):
        client.patch(f"/api/v1/starts/{number}", {"is_default": True}, content_type="application/json")
    entries = client.get("/api/v1/starts").json()["items"]
    assert [(e["name"], e["is_default"]) for e in entries] == [("Dark", True), ("Studio", False)]
    assert client.delete(f"/api/v1/starts/{second}").status_code == 204
    assert [e["name"] for e in client.get("/api/v1/starts").json()["items"]] == ["Studio"]
