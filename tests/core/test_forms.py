"""Bodies that are made here: their measures, their place in the scene, and how they go with an asset."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lantern.assets.imported import ImportedAsset
from lantern.assets.swapping import swapped, version_of
from lantern.compile.compiled import CompiledScene
from lantern.engine.engine import Engine
from lantern.scene.arranging import Build, Remove, arranged
from lantern.scene.document import Asset, Camera, Material, Part, Scene
from lantern.scene.editing import apply_patch
from lantern.scene.forms import (
    FORM_KINDS,
    BallForm,
    BoxForm,
    ChartForm,
    CylinderForm,
    PlaneForm,
    PlinthForm,
    SweepForm,
    TableTopForm,
    scaled_form,
)
from lantern.scene.model import FileRef
from lantern.scene.reading import read_scene
from lantern.scene.staging import NAMES
from lantern.scene.standing import rescaled
from lantern.scene.starts import fitted, setup_of
from lantern.scene.surroundings import Environment, Ground
from lantern.shaping.chart import FRAME, PATCHES_LAB, patch_colors
from lantern.shaping.forms import form_mesh
from tests.core.shapes import box_mesh, no_files, traced

CLAY = Material(name="Clay", base_color=(0.5, 0.5, 0.5), specular_weight=0.0)
FILE = Asset(file=FileRef(sha256="0" * 64, name="tower.glb"), name="Tower")
TOWER = box_mesh((-0.5, 0, -0.5), (0.5, 2, 0.5))


def volume(mesh):
    corners = mesh.positions[mesh.indices].astype(np.float64)
    return np.einsum("mi,mi->", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])) / 6


def is_closed(mesh):
    """Whether each edge is walked once in each direction, by places."""
    places = {}
    numbers = [places.setdefault(tuple(np.round(p, 6)), len(places)) for p in mesh.positions.astype(np.float64)]
    walked = set()
    for triangle in np.array(numbers)[mesh.indices].tolist():
        for a, b in zip(triangle, [*triangle[1:], triangle[0]], strict=True):
            if a != b and (a, b) in walked:
                return False
            walked.add((a, b))
    return all((b, a) in walked for a, b in walked if a != b)


PI = math.pi
VOLUMES = [
    (BoxForm(width=0.2, height=0.3, depth=0.4, edge=0.0), 0.2 * 0.3 * 0.4),
    (BallForm(radius=0.1), 4 / 3 * PI * 0.1**3),
    (CylinderForm(radius=0.1, height=0.3, edge=0.0), PI * 0.1**2 * 0.3),
    # A rounded box is its inner box grown by a ball (Steiner's formula).
    (
        BoxForm(width=0.2, height=0.3, depth=0.4, edge=0.05),
        0.1 * 0.2 * 0.3 + 2 * (0.02 + 0.03 + 0.06) * 0.05 + PI * 0.05**2 * 0.6 + 4 / 3 * PI * 0.05**3,
    ),
    # A rod with round edges: cylinder less what the edge takes away (Pappus).
    (
        CylinderForm(radius=0.1, height=0.3, edge=0.02),
        PI * 0.1**2 * 0.3 - 2 * 2 * PI * ((0.1 - 0.01) * 0.02**2 - (0.08 + 4 * 0.02 / (3 * PI)) * PI * 0.02**2 / 4),
    ),
    (PlinthForm(section="round", width=0.4, height=0.2, edge=0.0), PI * 0.2**2 * 0.2),
    (TableTopForm(width=1, depth=0.5, thickness=0.04, corner=0.1, edge=0.0), (0.5 - (4 - PI) * 0.1**2) * 0.04),
]


@pytest.mark.parametrize(("form", "expected"), VOLUMES)
def test_bodies_are_closed_and_have_the_volume_that_their_measures_say(form, expected):
    mesh = form_mesh(form)
    assert volume(mesh) == pytest.approx(expected, rel=1e-3)
    assert is_closed(mesh)


@pytest.mark.parametrize("form", [kind() for kind in FORM_KINDS.values()])
def test_normals_point_out_of_every_face_and_are_as_long_as_one(form):
    mesh = form_mesh(form)
    corners = mesh.positions[mesh.indices].astype(np.float64)
    faces = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    faces /= np.linalg.norm(faces, axis=1, keepdims=True)
    along = np.einsum("mi,mci->mc", faces, mesh.normals[mesh.indices])
    assert along.min() > math.cos(math.radians(4)), "no corner leans away from its face"
    assert np.linalg.norm(mesh.normals, axis=1) == pytest.approx(1, abs=1e-6)
    assert mesh.uvs is not None and np.isfinite(mesh.uvs).all()


@settings(max_examples=60)
@given(st.data())
def test_any_measures_make_a_body_within_them(data):
    kind = data.draw(st.sampled_from(list(FORM_KINDS.values())))
    lengths = {
        name: data.draw(st.floats(info.metadata[0].ge, 1e4))
        for name, info in kind.model_fields.items()
        if info.annotation is float
    }
    form = kind(**lengths)
    mesh = form_mesh(form)
    assert np.isfinite(mesh.positions).all() and mesh.indices.max(initial=0) < len(mesh.positions)
    size = max([*lengths.values(), 2 * lengths.get("radius", 0)])
    assert np.abs(mesh.positions).max(initial=0) <= size * (1 + 1e-6)


def test_what_carries_has_its_top_at_its_origin_and_the_rest_its_foot():
    for form in (PlinthForm(height=0.3), TableTopForm(thickness=0.04)):
        low, high = form_mesh(form).positions[:, 1].min(), form_mesh(form).positions[:, 1].max()
        assert (low, high) == (pytest.approx(-getattr(form, "height", 0.04), abs=1e-6), pytest.approx(0, abs=1e-6))
    for form in (BoxForm(), BallForm(), CylinderForm(), SweepForm(), PlaneForm(), ChartForm()):
        assert form_mesh(form).positions[:, 1].min() == pytest.approx(0, abs=1e-6)


def test_the_chart_has_its_published_colours_where_they_belong():
    colors = patch_colors()
    encoded = np.where(colors <= 0.0031308, 12.92 * colors, 1.055 * colors ** (1 / 2.4) - 0.055) * 255
    # Published sRGB values of the chart, rounded; it is defined under D50, and they under D65.
    known = {0: (116, 79, 65), 1: (197, 144, 127), 14: (178, 54, 57), 18: (241, 242, 235), 23: (50, 50, 50)}
    for number, rgb in known.items():
        assert encoded[number] == pytest.approx(rgb, abs=1)
    grey = ((PATCHES_LAB[20:23, 0] + 16) / 116) ** 3
    assert colors[20:23].mean(axis=1) == pytest.approx(grey, rel=0.02), "greys reflect what their lightness says"
    # Seen from the front the first patch is at the upper left, the sixth at the upper right, the last lower right.
    scene, asset = alone(ChartForm(width=0.6), Material(name="Chart", vertex_colors=True, specular_weight=0.0))
    height = form_mesh(ChartForm(width=0.6)).positions[:, 1].max()
    camera = Camera(position=(0, height / 2, 3), target=(0, height / 2, 0), projection="orthographic", focal_length=180)
    scene = scene.model_copy(update={"camera": camera})
    film = traced(scene, asset, 8, side=150)
    shares = film.means().radiance
    across = np.array([shares[y, x] for x, y in ((14, 38), (136, 38), (136, 112))])
    assert across / across.sum(axis=1, keepdims=True) == pytest.approx(
        colors[[0, 5, 23]] / colors[[0, 5, 23]].sum(axis=1, keepdims=True), abs=0.02
    )
    assert colors[23].mean() + 0.01 > FRAME


def edited(scene, patch):
    after, undo = apply_patch(scene.plain(), patch)
    assert apply_patch(after, undo)[0] == scene.plain()
    return read_scene(after)


def alone(form, material=CLAY):
    parts = {"piece": Part(name="Piece", form=form, material="clay")}
    scene = Scene(parts=parts, materials={"clay": material}, ground=Ground(enabled=False), environment=Environment())
    return scene, ImportedAsset("none", "test")


def test_a_matt_ball_of_18_percent_looks_as_bright_as_that_in_even_light():
    scene, asset = alone(BallForm(radius=0.1), Material(name="Grey", base_color=(0.18,) * 3, specular_weight=0.0))
    camera = Camera(position=(0, 0.1, 2), target=(0, 0.1, 0), focal_length=200)
    film = traced(scene.model_copy(update={"camera": camera}), asset, side=32)
    assert film.means().radiance[8:24, 8:24].mean() == pytest.approx(0.18, rel=0.01)


def with_asset(**fields):
    parts = {"tower": Part(name="Tower", mesh=0, material="clay")}
    return Scene(asset=FILE, parts=parts, materials={"clay": CLAY}, **fields)


ASSET = ImportedAsset("tower", "test", [TOWER], {"tower": Part(name="Tower", mesh=0, material="clay")}, {"clay": CLAY})
BOXES = {"tower": ([-0.5, 0.0, -0.5], [0.5, 2.0, 0.5])}


@pytest.mark.parametrize("piece", NAMES)
def test_a_piece_is_added_where_and_as_large_as_it_suits(piece):
    before = with_asset(camera=Camera(position=(6, 2, 0), target=(0, 1, 0)))
    made = arranged(before, Build(kind="build", piece=piece), BOXES)
    assert made is not None
    scene = edited(before, made.patch)
    compiled = CompiledScene(scene, ASSET, None)
    low, high = compiled.bounds([made.key])
    if piece in ("plinth", "table_top"):
        assert high[1] == pytest.approx(0, abs=1e-6) and scene.ground.height == pytest.approx(low[1], rel=1e-5)
        assert low[0] < -0.5 and high[2] > 0.5, "it carries all of the asset"
    elif piece in ("plane", "sweep"):
        assert low[1] == pytest.approx(0, abs=1e-6) and not scene.ground.enabled
        assert low[0] < -4 and high[0] > 2 and max(low[2] + 6, 6 - high[2]) < 5
    else:
        assert low[1] == pytest.approx(0, abs=1e-6)
        # The camera looks from +X: its right is -Z.
        assert high[2] < -0.5 and 0.3 < high[1] < 2
    around = compiled.bounds()
    assert np.allclose(around, BOXES["tower"]), "the asset is framed without its set"


def test_a_floor_goes_down_with_the_ground_when_the_asset_is_put_on_a_plinth():
    scene = with_asset()
    for piece in ("sweep", "plinth"):
        scene = edited(scene, arranged(scene, Build(kind="build", piece=piece), BOXES).patch)
    compiled = CompiledScene(scene, ASSET, None)
    assert compiled.bounds(["sweep-1"])[0][1] == pytest.approx(compiled.bounds(["plinth-1"])[0][1], rel=1e-5)


def test_the_ground_comes_back_with_the_last_floor():
    scene = with_asset()
    for piece in ("sweep", "plane"):
        scene = edited(scene, arranged(scene, Build(kind="build", piece=piece), BOXES).patch)
    boxes = BOXES | dict.fromkeys(("sweep-1", "plane-1"), BOXES["tower"])
    for key, is_back in (("sweep-1", False), ("plane-1", True)):
        assert not scene.ground.enabled
        scene = edited(scene, arranged(scene, Remove(kind="remove", parts=(key,)), boxes).patch)
        assert scene.ground.enabled == is_back
    assert arranged(scene, Remove(kind="remove", parts=("tower",)), BOXES).patch == [
        {"op": "remove", "path": "/parts/tower"}
    ]


def test_what_is_put_beside_an_asset_on_a_plinth_stands_on_the_ground():
    scene = with_asset()
    for piece in ("plinth", "grey_ball"):
        scene = edited(scene, arranged(scene, Build(kind="build", piece=piece), BOXES).patch)
    assert scene.parts["grey-ball-1"].offset[1] == pytest.approx(scene.ground.height) != 0


def test_a_set_can_be_built_before_there_is_an_asset():
    made = arranged(Scene(), Build(kind="build", piece="ball"), {})
    scene = edited(Scene(), made.patch)
    engine = Engine(1)
    engine.open(scene, no_files)
    assert engine.triangles > 1000
    engine.close()


def test_bodies_stand_in_metres_whatever_the_unit_and_upright_axis_of_the_asset():
    asset = FILE.model_copy(update={"scale": 0.01, "up": "+z"})
    parts = {"ball": Part(name="Ball", form=BallForm(radius=0.1), material="clay", offset=(1, 2, 3))}
    scene = with_asset().model_copy(update={"asset": asset})
    scene = scene.model_copy(update={"parts": {**scene.parts, **parts}})
    low, high = CompiledScene(scene, ASSET, None).bounds(["ball"])
    assert low == pytest.approx([0.9, 2, 2.9]) and high == pytest.approx([1.1, 2.2, 3.1])
    larger = rescaled(scene, asset, 0.1)
    low, high = CompiledScene(larger, ASSET, None).bounds(["ball"])
    assert low == pytest.approx([9, 20, 29]) and high == pytest.approx([11, 22, 31]), "what is around grows with it"


def test_measures_change_without_the_asset_being_built_again():
    scene = with_asset()
    scene = edited(scene, arranged(scene, Build(kind="build", piece="box"), BOXES).patch)
    compiled = CompiledScene(scene, ASSET, None)
    built = compiled.counts.mesh_trees
    taller = edited(scene, [{"op": "replace", "path": "/parts/box-1/form/height", "value": 0.9}])
    assert compiled.update(taller)
    assert compiled.counts.full == 1 and compiled.counts.mesh_trees == built + 1
    assert compiled.bounds(["box-1"])[1][1] == pytest.approx(0.9)
    gone = edited(taller, [{"op": "remove", "path": "/parts/box-1"}])
    assert compiled.update(gone) and compiled.counts.full == 1
    assert compiled.triangles == (12, 12)


def test_a_newer_version_of_the_asset_leaves_the_set_as_it_is():
    scene = with_asset()
    for piece in ("sweep", "mirror_ball"):
        scene = edited(scene, arranged(scene, Build(kind="build", piece=piece), BOXES).patch)
    newer, rows = swapped(scene, version_of(ASSET), version_of(ASSET), FILE)
    assert newer.parts == scene.parts and newer.materials == scene.materials
    assert [row.key for row in rows] == ["tower"], "nothing is said of what the file has not brought"


def test_a_set_goes_with_a_set_up_to_an_asset_of_another_size():
    scene = with_asset(camera=Camera(position=(0, 2, 6), target=(0, 1, 0)))
    scene = edited(scene, arranged(scene, Build(kind="build", piece="sweep"), BOXES).patch)
    setup = setup_of(scene)
    assert list(setup.parts) == ["sweep-1"] and list(setup.materials) == ["set-grey"]
    low, high = ([9.95, 1.0, -0.05], [10.05, 1.2, 0.05])
    there = fitted(setup, BOXES["tower"], (low, high))
    before, after = scene.parts["sweep-1"], there.parts["sweep-1"]
    assert after.form.model_dump() == pytest.approx(scaled_form(before.form, 0.1).model_dump())
    assert after.offset == pytest.approx((10 + before.offset[0] / 10, 1.0, before.offset[2] / 10))
