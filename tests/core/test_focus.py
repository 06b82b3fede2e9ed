"""Depth of field against rays through the lens, and what is said of an asset of another size."""

import math

import pytest

from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.scene.document import Camera, Material, Scene
from lantern.scene.editing import apply_patch
from lantern.scene.focus import CONFUSION, focus_doubts, length, sharpness
from lantern.scene.reading import read_scene
from lantern.scene.surroundings import Environment, Ground
from tests.core.shapes import no_files, one_part
from tests.core.test_looking import wall

CAMERA = Camera(position=(0, 0, 2), target=(0, 0, 0), focal_length=85, f_number=2.8, focus_distance=2.0)
SHAPE = 1.5


def disc(camera: Camera, depth: float) -> float:
    """Width on the sensor, in shares of its diagonal, of a point at a depth: by rays from both rims of the lens."""
    focal = camera.focal_length * 1e-3
    rim = focal / camera.f_number / 2
    places = []
    for side in (-rim, rim):
        # The ray from the rim to the point, where it passes the plane of focus, is seen at f/s of its height there.
        height = side + (0.0 - side) * camera.focus_distance / depth
        places.append(height * focal / camera.focus_distance)
    diagonal = camera.sensor_width * 1e-3 * math.hypot(1, 1 / SHAPE)
    return abs(places[1] - places[0]) / diagonal


@pytest.mark.parametrize("changes", [{}, {"focal_length": 24.0}, {"f_number": 16.0}, {"focus_distance": 0.3}])
def test_at_its_limits_a_point_is_as_large_as_the_circle_of_confusion(changes):
    camera = CAMERA.model_copy(update=changes)
    sharp = sharpness(camera, SHAPE)
    assert sharp.near < camera.focus_distance < (sharp.far or math.inf)
    assert disc(camera, sharp.near) == pytest.approx(CONFUSION, rel=1e-6)
    if sharp.far is not None:
        assert disc(camera, sharp.far) == pytest.approx(CONFUSION, rel=1e-6)


def test_focused_at_the_hyperfocal_distance_it_is_sharp_from_half_of_it_on():
    confusion = 36e-3 * math.hypot(1, 1 / SHAPE) * CONFUSION
    hyperfocal = 0.085**2 / (2.8 * confusion)
    sharp = sharpness(CAMERA.model_copy(update={"focus_distance": hyperfocal * 1.000001}), SHAPE)
    assert sharp.near == pytest.approx(hyperfocal / 2, rel=1e-4) and sharp.far is None
    assert sharpness(CAMERA.model_copy(update={"f_number": None}), SHAPE) is None


def test_the_picture_of_an_edge_is_as_soft_as_the_disc_says():
    """At a depth whose disc is a tenth of the frame an edge takes so long from dark to light."""
    camera = CAMERA.model_copy(update={"focus_distance": 1.0, "f_number": 1.0})
    width = disc(camera, 2.0) * math.hypot(1, 1 / SHAPE)
    scene, asset = one_part(Material(name="m", base_color=(0, 0, 0), specular_weight=0.0), wall(5.0))
    half = scene.parts["part"].model_copy(update={"offset": (-5.0, 0.0, 0.0)})
    around = {"camera": camera, "ground": Ground(enabled=False), "environment": Environment(), "parts": {"part": half}}
    backdrop = scene.backdrop.model_copy(update={"kind": "color", "color": (1, 1, 1)})
    engine = Engine(2)
    engine.open(scene.model_copy(update={**around, "backdrop": backdrop}), no_files, asset)
    film = Film(150, 100)
    engine.trace(film, 64)
    row = film.radiance()[40:60].mean(axis=(0, 2))
    engine.close()
    # A round disc over an edge: the light passes from 2.5 % to 97.5 % within 0.904 of its width.
    rise = (abs(row - 0.975).argmin() - abs(row - 0.025).argmin()) / 150
    assert abs(rise) == pytest.approx(0.904 * width, rel=0.12)


def test_a_focus_that_misses_the_asset_is_said_and_mended():
    box = ((-0.1, -0.1, -0.1), (0.1, 0.1, 0.1))
    assert focus_doubts(CAMERA, SHAPE, box) == [] or "Only" in focus_doubts(CAMERA, SHAPE, box)[0].text
    beside = CAMERA.model_copy(update={"focus_distance": 1.0})
    (doubt,) = focus_doubts(beside, SHAPE, box)
    assert doubt.text == "Nothing of the asset is sharp: it lies between 1.9 m and 2.1 m, and the focus at 1 m."
    scene = Scene(camera=beside)
    mended = read_scene(apply_patch(scene.plain(), list(doubt.patch))[0])
    assert mended.camera.focus_distance == pytest.approx(2.0) and not focus_doubts(mended.camera, SHAPE, None)


def test_what_is_said_to_be_sharp_is_of_the_asset_also_where_it_is_sharp_as_far_as_one_sees():
    far_off = CAMERA.model_copy(update={"focal_length": 20.0, "f_number": 22.0, "focus_distance": 60.0})
    near = sharpness(far_off, SHAPE).near
    assert sharpness(far_off, SHAPE).far is None
    box = ((-0.1, -0.1, 2.0 - 1.01 * near), (0.1, 0.1, 2.0 - 0.01))
    (doubt,) = focus_doubts(far_off, SHAPE, box)
    assert doubt.text == f"Only {length(0.01 * near)} of the asset's {length(1.01 * near - 0.01)} are sharp."


@pytest.mark.parametrize("size", [0.004, 300.0])
def test_an_asset_of_an_unlikely_size_is_asked_for_its_unit(size):
    half = size / 2
    camera = CAMERA.model_copy(update={"position": (0, 0, 2 * size), "focus_distance": 2.0, "f_number": 1.4})
    said = [doubt.text for doubt in focus_doubts(camera, SHAPE, ((-half,) * 3, (half,) * 3))]
    assert len(said) == 2 and "did it come in another unit?" in said[1] and length(size) in said[1]


def test_lengths_are_said_as_a_person_would():
    assert [length(v) for v in (0.004, 0.29, 1.234, 3000.0)] == ["4 mm", "29 cm", "1.23 m", "3 km"]


def test_a_tilted_plane_of_focus_has_no_limits_that_are_depths_and_is_not_doubted():
    camera = Camera(f_number=2.0, focus_distance=0.05, focus_tilt=30.0)
    assert sharpness(camera, 1.5) is None
    assert focus_doubts(camera, 1.5, ((-0.1, 0.0, -0.1), (0.1, 0.3, 0.1))) == []
