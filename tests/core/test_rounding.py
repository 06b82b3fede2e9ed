"""Edges that are shaded as if they were rounded, against fillets in closed form and against fillets of geometry."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.ndimage import minimum_filter

from lantern.assets.imported import ImportedAsset
from lantern.assets.mesh import Mesh, MeshShapes, flat_shaded
from lantern.compile.compiled import CompiledScene
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.scene.document import Camera, Material, Part, Scene
from lantern.scene.lights import DirectionalLight
from lantern.scene.scatter import Scatter
from lantern.scene.surroundings import Environment, Ground
from tests.core.shapes import box_mesh, no_files, sphere_mesh, square_mesh, traced

RADIUS = 0.3
SIDE = 100
ACROSS = 2.5
"""Width of the pictures [m]."""
BOX = box_mesh((-1, -1, -1), (1, 1, 1))
MATT = Material(name="Matt", base_color=(0.5, 0.5, 0.5), specular_weight=0.0)


def seen(mesh, towards=(0, 0, 0), position=(0, 0, 5), material=MATT, **fields):
    """A part seen by parallel rays, ACROSS wide."""
    distance = float(np.linalg.norm(np.subtract(position, towards)))
    camera = Camera(
        position=position, target=towards, projection="orthographic", focal_length=36 * distance / ACROSS, f_number=None
    )
    part = Part(name="Part", mesh=0, material="m", **{"edge_radius": RADIUS} | fields)
    scene = Scene(parts={"part": part}, materials={"m": material}, camera=camera, ground=Ground(enabled=False))
    return scene, ImportedAsset("test", "none", [mesh])


def normals(scene, asset, samples=16):
    return traced(scene, asset, samples, side=SIDE).means().normal


def places():
    """Where the middles of the pixels are, left to right [m]."""
    return ((np.arange(SIDE) + 0.5) / SIDE - 0.5) * ACROSS


def fillet(distance, radius=RADIUS, angle=90.0):
    """How far [°] the normal is turned at a distance from an edge whose faces part by an angle, seen along the first.

    No further than to where the mirror image of the view would enter the face: sin 2φ of that is √(1 - 0.05²).
    """
    reach = radius * np.tan(np.radians(angle / 2))
    turned = np.degrees(np.arctan(np.maximum(reach - distance, 0) / radius))
    return np.minimum(turned, np.degrees(np.arccos(0.05)) / 2)


def test_a_straight_edge_has_the_normals_of_the_fillet():
    found = normals(*seen(BOX))[SIDE // 2]
    inside = np.abs(places()) < 0.99
    turned = np.degrees(np.arctan2(found[:, 0], found[:, 2]))[inside]
    x = places()[inside]
    assert turned == pytest.approx(np.sign(x) * fillet(1 - np.abs(x)), abs=1.5)
    assert np.abs(found[inside, 1]).max() < 1e-4
    assert np.abs(turned[np.abs(x) < 1 - RADIUS - 0.03]).max() < 1e-3, "beyond the fillet the face is flat"


def test_three_edges_of_a_corner_turn_the_normal_to_the_diagonal():
    position = np.array([1.0, 1.0, 1.0]) * 4
    found = normals(*seen(BOX, (1, 1, 1), tuple(position)))
    middle = found[SIDE // 2 - 1 : SIDE // 2 + 1, SIDE // 2 - 1 : SIDE // 2 + 1].mean(axis=(0, 1))
    assert middle / np.linalg.norm(middle) == pytest.approx(np.ones(3) / 3**0.5, abs=0.02)
    steps = np.abs(np.diff(found[SIDE // 3 : -SIDE // 3, SIDE // 3 : -SIDE // 3], axis=1)).max()
    assert steps < 0.2, "no edge is left between the faces"


@pytest.mark.parametrize("angle", [30.0, 60.0, 120.0])
def test_a_flat_or_steep_edge_reaches_as_far_as_its_ball_touches(angle):
    slope = np.radians(angle)
    y = 3.0
    points = [(-2, -y, 0), (0, -y, 0), (0, y, 0), (-2, y, 0)]
    points += [(2 * np.cos(slope), s * y, -2 * np.sin(slope)) for s in (-1, 1)]
    faces = np.array([[0, 1, 2], [0, 2, 3], [1, 4, 5], [1, 5, 2]])
    positions, indices, flat_normals = flat_shaded(np.array(points, np.float32), faces)
    roof = Mesh(positions, indices, flat_normals, None, None)
    found = normals(*seen(roof, (-0.5, 0, 0), (-0.5, 0, 5)))[SIDE // 2]
    x = places() - 0.5
    flat = (x > -1.5) & (x < -0.02)
    turned = np.degrees(np.arctan2(found[:, 0], found[:, 2]))[flat]
    assert turned == pytest.approx(fillet(-x[flat], angle=angle), abs=1.5)


@pytest.mark.parametrize(
    ("scale", "fields"),
    [(1.0, {"size": 2.0}), (2.0, {}), (1.0, {"mirror": "x"}), (1.0, {"turn_y": 90.0}), (0.001, {"size": 1000.0})],
)
def test_the_radius_is_in_metres_however_a_part_stands(scale, fields):
    shrink = 1 / (scale * fields.get("size", 1.0))
    mesh = box_mesh((-shrink,) * 3, (shrink,) * 3)
    scene, asset = seen(mesh, matrix=(scale, 0, 0, 0, 0, scale, 0, 0, 0, 0, scale, 0), **fields)
    other = normals(scene, asset)
    assert other == pytest.approx(normals(*seen(BOX)), abs=2e-3)


def test_an_edge_in_pieces_is_one_edge_and_a_diagonal_is_none():
    scene, asset = seen(BOX)
    pieces = scene.parts["part"].model_copy(update={"subdivision": "loop", "levels": 3, "crease_angle": 40.0})
    fine = scene.model_copy(update={"parts": {"part": pieces}})
    assert normals(fine, asset) == pytest.approx(normals(scene, asset), abs=5e-3)


def test_the_far_edges_of_a_thin_plate_do_not_show_through():
    plate = box_mesh((-1, -1, -0.05), (1, 1, 0.05))
    found = normals(*seen(plate))[SIDE // 2]
    inside = np.abs(places()) < 0.98
    x = places()[inside]
    turned = np.degrees(np.arctan2(found[:, 0], found[:, 2]))[inside]
    assert turned == pytest.approx(np.sign(x) * fillet(1 - np.abs(x)), abs=1.5)
    side = normals(*seen(plate, (1, 0, 0), (6, 0, 0)))[SIDE // 2, SIDE // 2 - 1 : SIDE // 2 + 1].mean(axis=0)
    assert side / np.linalg.norm(side) == pytest.approx((1, 0, 0), abs=0.02), "both edges of the rim pull alike"


def rounded_box(radius):
    """A box whose edges are geometry: a ball drawn apart to its corners."""
    ball = sphere_mesh(1.0, 48)
    apart = np.sign(np.round(ball.normals, 6)) * (1 - radius)
    return replace(ball, positions=(ball.normals * radius + apart).astype(np.float32))


@pytest.mark.parametrize("roughness", [0.2, 0.4])
def test_highlights_are_as_bright_as_those_of_edges_of_geometry(roughness):
    gloss = Material(name="Gloss", base_metalness=1.0, base_color=(0.8, 0.8, 0.8), specular_roughness=roughness)
    lamp = DirectionalLight(name="Sun", amount=10.0, position=(3, 4, 6), target=(0, 0, 0))
    sums = []
    for mesh, fields in ((BOX, {}), (BOX, {"edge_radius": None}), (rounded_box(0.1), {"edge_radius": None})):
        fields = {"edge_radius": 0.1} | fields
        scene, asset = seen(mesh, (0, 0, 0), (3, 3, 3), gloss, **fields)
        dark = scene.model_copy(update={"lights": {"sun": lamp}, "environment": Environment(intensity=0.05)})
        sums.append(float(traced(dark, asset, 64, side=SIDE).means().radiance.sum()))
    rounded, sharp, geometry = sums
    assert abs(geometry - sharp) > 0.05 * geometry
    assert abs(rounded - geometry) < 0.3 * abs(geometry - sharp), "all but what the outline of a real fillet lacks"


@pytest.mark.parametrize("roughness", [0.0, 0.3])
def test_no_edge_of_a_mirror_is_black_in_even_light(roughness):
    gloss = Material(name="Gloss", base_metalness=1.0, base_color=(1.0, 1.0, 1.0), specular_roughness=roughness)
    for position in ((0, 0, 5), (2, 1, 4), (3, 3, 3)):
        picture = traced(*seen(BOX, (0, 0, 0), position, gloss), 64, side=SIDE).means()
        inside = minimum_filter(picture.alpha, 3) > 0.999
        assert inside.any() and picture.radiance[inside].min() > 0.5


def test_a_scene_without_it_is_the_same_to_the_last_bit():
    scene, asset = seen(BOX, edge_radius=None)
    ball = sphere_mesh(1.0, 24)
    assert (normals(scene, asset, 4) == normals(*seen(BOX, edge_radius=None), 4)).all()
    assert (normals(*seen(ball), 4) == normals(*seen(ball, edge_radius=None), 4)).all(), "a ball has no edge"


def test_another_radius_builds_no_mesh_and_is_what_a_new_compile_gives():
    scene, asset = seen(BOX)
    engine = Engine(1)
    engine.open(scene, no_files, asset)
    built = engine.compiled.counts.mesh_trees
    for radius in (0.1, None, 0.5):
        part = scene.parts["part"].model_copy(update={"edge_radius": radius})
        changed = scene.model_copy(update={"parts": {"part": part}})
        engine.apply(changed, no_files)
        film = Film(SIDE, SIDE)
        assert engine.trace(film, 4)
        assert (film.means().normal == normals(changed, asset, 4)).all()
    assert engine.compiled.counts.mesh_trees == built and engine.compiled.counts.full == 1
    engine.close()


def test_copies_that_are_strewn_are_rounded_too():
    seed = box_mesh((-0.1, 0, -0.1), (0.1, 0.2, 0.1))
    asset = ImportedAsset("test", "none", [square_mesh(1.0), seed])
    strewn = Part(name="Seed", mesh=1, material="m", edge_radius=0.05, strewn=Scatter(over="floor", density=20, tilt=0))
    parts = {"floor": Part(name="Floor", mesh=0, material="m"), "seed": strewn}
    camera = Camera(position=(0, 4, 0.01), target=(0, 0, 0), focal_length=60)
    scene = Scene(parts=parts, materials={"m": MATT}, camera=camera, ground=Ground(enabled=False))
    round_, sharp = (
        normals(scene.model_copy(update={"parts": parts | {"seed": part}}), asset, 4)
        for part in (strewn, strewn.model_copy(update={"edge_radius": None}))
    )
    leaning = (np.linalg.norm(round_, axis=2) > 0.9) & (round_[..., 1] < 0.9) & (sharp[..., 1] > 0.99)
    assert leaning.sum() > 50


def test_what_cannot_be_rounded_is_said():
    poses = np.stack([BOX.positions, BOX.positions * 1.1])
    moving = replace(BOX, shapes=MeshShapes((0.0, 1.0), poses, np.stack([BOX.normals] * 2)))
    scene, asset = seen(moving)
    compiled = CompiledScene(scene, asset, None)
    assert compiled.problems == ["Part: its edges are not rounded, because it changes its shape"]
    part = scene.parts["part"].model_copy(update={"edge_radius": None})
    assert compiled.update(scene.model_copy(update={"parts": {"part": part}})) and compiled.problems == []
