"""Parts strewn over others: where copies lie, and that they look and move as parts of their own would."""

import numpy as np
import pytest
from scipy.spatial.distance import pdist

from lantern.assets.imported import ImportedAsset
from lantern.assets.mesh import Mesh
from lantern.assets.textures import CLAMP, Texture
from lantern.compile.compiled import CompiledScene
from lantern.engine.engine import Engine
from lantern.scene.document import Camera, Material, Part, PartKey, Scene, Shutter
from lantern.scene.lights import PointLight, RectangleLight
from lantern.scene.reading import SceneError
from lantern.scene.scatter import Scatter
from lantern.scene.surroundings import Environment, Ground
from lantern.scene.texture_use import TextureUse
from lantern.shaping import scattering
from lantern.shaping.scattering import Ground as Floor
from lantern.shaping.scattering import lying
from tests.core.shapes import box_mesh, no_files, sphere_mesh, square_mesh, traced

REST = np.eye(4)[None, :3]
FLAT = square_mesh(0.5)
BEAD = sphere_mesh(0.02, 12)
CLAY = Material(name="Clay", base_color=(0.6, 0.3, 0.2))
GLASS = Material(name="Glass", transmission_weight=1.0, specular_roughness=0.05)
IDENTITY = (1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0)


def over_flat(**wishes):
    return Scatter(over="floor", **({"density": 60.0} | wishes))


def floor_of(mesh, pose=REST, uvs=None):
    return Floor(mesh.positions, mesh.normals, mesh.indices, uvs, np.asarray(pose, np.float64))


def room(bead_material=CLAY, mesh=FLAT, bead=BEAD, scatter=None, **changes):
    """A bead strewn over a floor that is seen from above, a lamp to one side."""
    asset = ImportedAsset("test", "none", [mesh, bead])
    parts = {
        "floor": Part(name="Floor", mesh=0, material="floor"),
        "bead": Part(name="Bead", mesh=1, material="bead", strewn=over_flat() if scatter is None else scatter),
    }
    scene = Scene(
        parts=parts,
        materials={"floor": Material(name="Floor", base_color=(0.4, 0.4, 0.5)), "bead": bead_material},
        camera=Camera(position=(0.3, 0.9, 0.9), target=(0, 0, 0), focal_length=45),
        environment=Environment(intensity=0.3),
        lights={
            "lamp": PointLight(name="Lamp", position=(0.6, 0.5, 0.2), amount=40),
            "panel": RectangleLight(
                name="Panel", position=(0, 0.3, -0.6), target=(0, 0, 0), width=0.5, height=0.3, amount=30,
                seen_by_camera=True,
            ),
        },
        ground=Ground(enabled=False),
    )  # fmt: skip
    return scene.model_copy(update=changes), asset


def as_parts(scene, asset):
    """The same scene with a part of its own for each copy."""
    compiled = CompiledScene(scene, asset, None)
    poses = compiled._geometry.copies[1]
    moments = np.linspace(scene.shutter.opens, scene.shutter.closes, poses.shape[1])
    bead = scene.parts["bead"].model_copy(update={"strewn": None})
    parts = {"floor": scene.parts["floor"]}
    for number, steps in enumerate(poses):
        rows = [tuple(step.ravel().tolist()) for step in steps]
        keys = tuple(PartKey(time=t, matrix=row) for t, row in zip(moments, rows, strict=True))
        placed = {"matrix": rows[0], "keys": keys if len(rows) > 1 else ()}
        parts[f"bead-{number}"] = bead.model_copy(update=placed)
    return scene.model_copy(update={"parts": parts})


def picture(scene, asset, samples=32):
    return traced(scene, asset, samples).radiance()


def test_copies_look_as_parts_of_their_own_would():
    for material in (CLAY, GLASS):
        scene, asset = room(material, scatter=over_flat(density=90.0, apart=0.05))
        single = as_parts(scene, asset)
        assert len(single.parts) > 40
        lit = picture(scene, asset), picture(single, asset)
        # Where light is looked for is found out by probes, on some of the copies but on each of the parts.
        assert lit[0].mean() == pytest.approx(lit[1].mean(), rel=5e-3)
        scene, single = (one.model_copy(update={"lights": {}}) for one in (scene, single))
        strewn, apart = picture(scene, asset), picture(single, asset)
        assert (np.abs(strewn - apart).max(axis=2) > 1e-3 * apart.mean()).mean() < 0.002


CROSSED = {
    "skin": ({"subsurface_weight": 1.0, "subsurface_radius": 0.01}, {}),
    "gauze": ({"geometry_opacity": 0.5, "double_sided": True}, {}),
    "brushed": ({"base_metalness": 1.0, "specular_roughness_anisotropy": 0.8, "tangent_rotation": 30.0}, {}),
    "film": ({"thin_film_weight": 1.0, "coat_weight": 1.0, "coat_roughness": 0.2}, {}),
    "no shadow": ({}, {"casts_shadow": False}),
    "unseen": ({}, {"seen_by_camera": False}),
    "not mirrored": ({}, {"seen_in_reflections": False}),
    "unshaded": ({}, {"receives_shadow": False}),
    "turned in": ({"coat_weight": 1.0}, {"inside_out": True}),
    "mirrored": ({"specular_roughness": 0.1}, {"mirror": "x", "size": 1.3, "turn_z": 40.0}),
}


@pytest.mark.parametrize("name", CROSSED)
def test_copies_cross_with_all_that_a_part_can_be(name):
    """Even light alone: where it is looked for does not depend on probes, and pictures are equal."""
    fields, changes = CROSSED[name]
    scene, asset = room(Material(name="Bead", base_color=(0.7, 0.4, 0.2), **fields),
                        scatter=over_flat(density=90.0, apart=0.07, tilt=40.0))  # fmt: skip
    floor = scene.materials["floor"].model_copy(update={"base_metalness": 1.0, "specular_roughness": 0.2})
    bead = scene.parts["bead"].model_copy(update=changes)
    scene = scene.model_copy(
        update={"lights": {}, "materials": scene.materials | {"floor": floor}, "parts": scene.parts | {"bead": bead}}
    )
    plain = {"mirror": "none", "size": 1.0, "turn_z": 0.0}
    single = as_parts(scene, asset)
    parts = {key: part.model_copy(update=plain if key != "floor" else {}) for key, part in single.parts.items()}
    strewn, apart = picture(scene, asset), picture(single.model_copy(update={"parts": parts}), asset)
    assert (np.abs(strewn - apart).max(axis=2) > 2e-3 * apart.mean()).mean() < 0.004


@pytest.mark.parametrize("name", ["glass", "skin", "milk"])
def test_copies_that_reach_into_one_another_are_volumes_of_their_own(name):
    fields = {
        "glass": {"transmission_weight": 1.0, "specular_roughness": 0.05},
        "skin": {"subsurface_weight": 1.0, "subsurface_radius": 0.01},
        "milk": {"transmission_weight": 1.0, "transmission_color": (0.5, 0.8, 0.6), "transmission_depth": 0.02,
                 "transmission_scatter": (0.3, 0.3, 0.3)},
    }  # fmt: skip
    scene, asset = room(Material(name="Bead", **fields[name]), scatter=over_flat(density=120.0))
    scene = scene.model_copy(update={"lights": {}})
    strewn, apart = picture(scene, asset), picture(as_parts(scene, asset), asset)
    assert (np.abs(strewn - apart).max(axis=2) > 2e-3 * apart.mean()).mean() < 0.004


def test_lights_that_leave_a_part_out_leave_its_copies_out():
    scene, asset = room()
    lamp = scene.lights["lamp"].model_copy(update={"unlit_parts": ("bead",)})
    dark = scene.model_copy(update={"lights": {"lamp": lamp}, "environment": Environment(intensity=0.0)})
    film = traced(dark, asset, 32)
    beads = film.parts() == 1
    shone = dark.model_copy(update={"lights": {"lamp": scene.lights["lamp"]}})
    lit = traced(shone, asset, 32)
    # What is left is light that the floor throws back.
    assert beads.sum() > 50 and np.median(film.radiance()[beads]) < 0.3 * np.median(lit.radiance()[beads])
    apart = traced(as_parts(dark, asset).model_copy(update={"lights": {"lamp": lamp.model_copy(
        update={"unlit_parts": tuple(f"bead-{n}" for n in range(200))})}}), asset, 32)  # fmt: skip
    assert np.median(film.radiance()[beads]) == pytest.approx(np.median(apart.radiance()[beads]), rel=0.15)


def test_copies_are_one_part_in_mattes_and_hidden_with_it():
    scene, asset = room()
    film = traced(scene, asset, 8, aovs=True)
    assert set(np.unique(film.parts())) <= {-1, 0, 1}
    hidden = scene.parts["bead"].model_copy(update={"visible": False})
    gone = traced(scene.model_copy(update={"parts": scene.parts | {"bead": hidden}}), asset, 8)
    assert set(np.unique(gone.parts())) <= {-1, 0}


def test_copies_that_glow_light_what_parts_would():
    scene, asset = room(Material(name="Lamp", emission_luminance=20.0, base_weight=0.0))
    dark = scene.model_copy(update={"lights": {}, "environment": Environment(intensity=0.0)})
    strewn, apart = picture(dark, asset, 256), picture(as_parts(dark, asset), asset, 256)
    assert strewn.mean() == pytest.approx(apart.mean(), rel=0.02)


def test_copies_go_where_their_surface_goes_while_the_shutter_is_open():
    rolled = (0.9, 0, 0.436, 0.1, 0, 1, 0, 0.05, -0.436, 0, 0.9, 0)
    keys = (PartKey(time=0, matrix=IDENTITY), PartKey(time=1, matrix=rolled))
    scene, asset = room(shutter=Shutter(opens=0, closes=1))
    moving = scene.parts["floor"].model_copy(update={"keys": keys})
    scene = scene.model_copy(update={"parts": scene.parts | {"floor": moving}})
    strewn, apart = picture(scene, asset, 64), picture(as_parts(scene, asset), asset, 64)
    assert strewn.mean() == pytest.approx(apart.mean(), rel=5e-3)
    assert np.abs(strewn - apart).mean() < 0.05 * apart.mean()


def test_an_edit_costs_no_tree_and_shows_what_a_new_compile_shows():
    scene, asset = room()
    engine = Engine(2)
    engine.open(scene, no_files, asset)
    trees = engine.compile_counts.mesh_trees
    wishes = [{"strewn": over_flat(density=200.0, seed=3)}, {"strewn": None}, {"size": 2.0, "strewn": over_flat()}]
    changes = [("bead", wish) for wish in wishes] + [("floor", {"offset": (0.1, 0.2, 0.0)})]
    for key, change in changes:
        part = scene.parts[key].model_copy(update=change)
        scene = scene.model_copy(update={"parts": scene.parts | {key: part}})
        assert not engine.apply(scene, no_files).recompiled
        fresh = CompiledScene(scene, asset, None)
        low, high = engine.compiled.part_boxes(["bead"])["bead"]
        assert np.allclose([low, high], fresh.part_boxes(["bead"])["bead"])
        assert engine.compiled.triangles == fresh.triangles
        assert np.array_equal(engine.compiled._geometry.pose_rows, fresh._geometry.pose_rows)
    assert engine.compile_counts.mesh_trees == trees
    engine.close()


def test_a_surface_that_is_gone_leaves_the_part_standing():
    scene, asset = room()
    engine = Engine(1)
    engine.open(scene, no_files, asset)
    alone = scene.model_copy(update={"parts": {"bead": scene.parts["bead"]}})
    assert any("is gone" in problem for problem in engine.apply(alone, no_files).problems)
    assert engine.triangles == BEAD.triangles
    both = scene.parts["floor"].model_copy(update={"strewn": Scatter(over="bead")})
    circle = scene.model_copy(update={"parts": scene.parts | {"floor": both}})
    assert any("strewn itself" in problem for problem in engine.apply(circle, no_files).problems)
    engine.close()


def test_a_mask_that_the_asset_does_not_have_is_refused():
    scene, asset = room(scatter=over_flat(mask=TextureUse(texture=3)))
    with pytest.raises(SceneError, match="parts/bead/strewn/mask"):
        CompiledScene(scene, asset, None)


def test_nothing_strewn_is_no_trouble():
    scene, asset = room(scatter=over_flat(density=0.001))
    assert np.isfinite(picture(scene, asset, 4)).all()
    assert CompiledScene(scene, asset, None).triangles[1] == FLAT.triangles


def test_what_is_picked_among_copies_is_the_part():
    scene, asset = room(scatter=over_flat(density=3000.0))
    engine = Engine(1)
    engine.open(scene, no_files, asset)
    keys = {found.part for x in np.linspace(0.3, 0.7, 9) if (found := engine.pick(scene.camera, 1.0, float(x), 0.5))}
    assert keys <= {"floor", "bead"} and "bead" in keys
    engine.close()


def test_the_print_strews_over_a_smooth_surface_as_the_proof_did():
    ball = box_mesh((-0.2, -0.2, -0.2), (0.2, 0.2, 0.2))
    scene, asset = room(mesh=ball, scatter=over_flat(density=2000.0))
    smooth = {"subdivision": "catmull_clark", "levels": 2, "print_levels": 4}
    scene = scene.model_copy(update={"parts": scene.parts | {"floor": scene.parts["floor"].model_copy(update=smooth)}})
    proof, printed = (CompiledScene(scene, asset, None, final=final) for final in (False, True))
    assert printed.triangles[0] > 4 * proof.triangles[0]
    assert np.array_equal(proof._geometry.copies[1], printed._geometry.copies[1])


# How copies lie


def test_they_are_as_dense_as_asked_everywhere():
    strip = Mesh(
        np.array([[0, 0, 0], [3, 0, 0], [3, 0, -1], [0, 0, -0.2]], np.float32),
        np.array([[0, 1, 2], [0, 2, 3]], np.uint32),
        np.tile(np.float32([0, 1, 0]), (4, 1)), None, None,
    )  # fmt: skip
    found = lying(floor_of(strip), over_flat(density=20_000.0)).places
    area = (0.2 + 1.0) / 2 * 3
    assert len(found) == pytest.approx(20_000 * area, rel=1e-3)
    for low in (0.0, 1.0, 2.0):  # of a trapezium that is 0.2 wide at 0 and 1 at 3
        share = 0.2 + 0.8 * (low + 0.5) / 3
        assert ((found[:, 0] >= low) & (found[:, 0] < low + 1)).sum() == pytest.approx(20_000 * share, rel=0.03)


def test_more_of_them_leave_the_others_where_they_were():
    few, many = (lying(floor_of(FLAT), over_flat(density=d, apart=None)) for d in (100.0, 400.0))
    assert np.array_equal(few.places, many.places[:100]) and np.array_equal(few.turns, many.turns[:100])


def test_those_kept_apart_are_apart_and_leave_no_gap():
    found = lying(floor_of(FLAT), over_flat(density=50_000.0, apart=0.03)).places
    assert pdist(found).min() >= 0.03
    # Disks of the distance around all of them cover the square: one more would have found no room.
    grid = np.stack(np.meshgrid(np.linspace(-0.5, 0.5, 60), [0.0], np.linspace(-0.5, 0.5, 60)), -1).reshape(-1, 3)
    nearest = np.linalg.norm(grid[:, None] - found[None], axis=2).min(axis=1)
    assert nearest.max() < 0.033


def test_the_distance_is_kept_as_by_one_after_the_other():
    places = np.random.default_rng(4).random((9000, 3)) * [1, 0, 1]
    kept: list[int] = []
    for number, place in enumerate(places):
        if not kept or np.linalg.norm(places[kept] - place, axis=1).min() > 0.02:
            kept.append(number)
    assert scattering.far_apart(places, 0.02).tolist() == kept


def test_slope_and_mask_leave_them_out():
    ball = floor_of(sphere_mesh(0.5, 48))
    flat_enough = lying(ball, over_flat(density=3000.0, steepest=60.0)).places
    assert flat_enough[:, 1].min() >= 0.5 * np.cos(np.radians(60)) - 0.01
    whole = lying(ball, over_flat(density=3000.0)).places
    assert len(flat_enough) / len(whole) == pytest.approx((1 - np.cos(np.radians(60))) / 2, rel=0.05)

    uvs = FLAT.positions[:, [0, 2]] + 0.5
    half = Texture(np.array([[[255], [51]]], np.uint8), CLAMP, CLAMP)
    masked = lying(floor_of(FLAT, uvs=uvs), over_flat(density=20_000.0, mask=TextureUse(texture=0)), half).places
    left, right = masked[:, 0] < -0.25, masked[:, 0] > 0.25  # beside the soft border
    assert left.sum() == pytest.approx(5000, rel=0.03) and right.sum() == pytest.approx(1000, rel=0.1)


def test_they_stand_along_the_surface_or_upright_and_turn():
    ball = floor_of(sphere_mesh(0.5, 48))
    along = lying(ball, over_flat(density=500.0, spread=0.0))
    normals = along.places / np.linalg.norm(along.places, axis=1, keepdims=True)
    assert np.allclose(along.turns[:, :, 1], normals, atol=0.01)
    upright = lying(ball, over_flat(density=500.0, upright=1.0, turn=0.0))
    assert np.allclose(upright.turns, np.eye(3))
    lifted = lying(ball, over_flat(density=500.0, lift=0.1)).places
    assert np.allclose(np.linalg.norm(lifted, axis=1), 0.6, atol=0.01)
    tilted = lying(floor_of(FLAT), over_flat(density=5000.0, tilt=30.0)).turns[:, 1, 1]
    assert tilted.min() == pytest.approx(np.cos(np.radians(30)), abs=1e-3) and np.linalg.det(along.turns).min() > 0.999


def test_sizes_differ_evenly_about_one():
    sizes = lying(floor_of(FLAT), over_flat(density=5000.0, spread=0.4)).sizes
    assert sizes.min() >= 0.6 and sizes.max() <= 1.4 and sizes.mean() == pytest.approx(1.0, abs=0.01)


def test_each_stands_on_its_foot_whatever_the_part_looked_like():
    tall = box_mesh((5, 5, 5), (5.1, 5.4, 5.1))
    scene, asset = room(bead=tall, scatter=over_flat(spread=0.0, turn=0.0))
    low, high = CompiledScene(scene, asset, None).part_boxes(["bead"])["bead"]
    assert (low[1], high[1]) == (pytest.approx(0.0, abs=1e-6), pytest.approx(0.4, abs=1e-6))
    assert low[0] > -0.6 and high[0] < 0.6


def test_a_mirrored_or_turned_surface_keeps_them_outside():
    mirrored = np.array([[[-1.0, 0, 0, 0], [0, 1, 0, 2], [0, 0, 1, 0]]])
    found = lying(floor_of(sphere_mesh(0.5, 24), mirrored), over_flat(density=200.0))
    outward = found.places - [0, 2, 0]
    assert (np.einsum("ni,ni->n", outward, found.turns[:, :, 1]) > 0.49).all()


def test_there_is_an_end_to_how_many(monkeypatch):
    monkeypatch.setattr(scattering, "MOST_COPIES", 50)
    monkeypatch.setattr("lantern.compile.strewn.MOST_COPIES", 50)
    scene, asset = room(scatter=over_flat(density=1e6))
    compiled = CompiledScene(scene, asset, None)
    assert compiled.triangles[1] == FLAT.triangles + 50 * BEAD.triangles and "no more" in compiled.problems[0]
    scene, asset = room(scatter=over_flat(density=1e6, apart=0.3))
    compiled = CompiledScene(scene, asset, None)
    assert compiled.triangles[1] < FLAT.triangles + 20 * BEAD.triangles and "lower the density" in compiled.problems[0]
