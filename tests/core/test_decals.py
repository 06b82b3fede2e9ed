"""Decals, rendered: where they lie by closed forms, on which side, in which order, on parts that move, live."""

from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from lantern.assets.imported import ImportedAsset
from lantern.assets.lettering import lettering
from lantern.compile.compiled import CompiledScene
from lantern.engine.engine import Engine
from lantern.engine.press import Press
from lantern.engine.sticking import moved_decal, new_decal
from lantern.film.film import Film
from lantern.scene.decals import MOST_DECALS, Decal, PictureContent, TextContent
from lantern.scene.document import Material, Part, Scene
from lantern.scene.editing import Document, apply_patch
from lantern.scene.forms import BallForm, CylinderForm
from lantern.scene.model import FileRef
from lantern.scene.surroundings import Environment, Ground
from tests.core.shapes import box_mesh
from tests.core.test_inputs import CAMERA, SIDE, UPRIGHT

GREY = Material(name="Grey", base_color=(0.5, 0.5, 0.5), specular_weight=0.0)
FILE = FileRef(sha256="1" * 64, name="halves.png")
PRINT = {"roughness": 1.0}


def halves(folder: Path, left=(255, 0, 0), right=(0, 0, 255)) -> Path:
    """An image twice as wide as high, of two colours side by side."""
    texels = np.zeros((256, 512, 3), np.uint8)
    texels[:, :256], texels[:, 256:] = left, right
    path = folder / "halves.png"
    Image.fromarray(texels).save(path)
    return path


def scene_with(decals, parts=None, materials=None, **fields):
    """(scene, asset): an upright square metre that faces the camera, if nothing else is there."""
    parts = parts or {"part": Part(name="Part", mesh=0, material="m")}
    asset = ImportedAsset("test", "none", [UPRIGHT, box_mesh((-0.2, -0.2, -0.2), (0.2, 0.2, 0.2))])
    named = {f"d{n}": decal for n, decal in enumerate(decals)}
    scene = Scene(
        parts=parts, materials={"m": GREY} | (materials or {}), decals=named, camera=CAMERA,
        ground=Ground(enabled=False), **fields,
    )  # fmt: skip
    return scene, asset


def picture(**fields):
    return Decal(**({"name": "D", "content": PictureContent(file=FILE), "parts": ("part",), **PRINT} | fields))


def rendered(scene, asset, path=None, samples=4, side=SIDE):
    engine = Engine(threads=2)
    engine.open(scene, lambda reference: path, asset)
    film = Film(side, side)
    engine.trace(film, samples)
    engine.close()
    return film.means()


def columns(albedo, channel):
    """Places [m] across the middle row where a channel is all there is."""
    row = albedo[len(albedo) // 2]
    other = 2 if channel == 0 else 0
    return (np.flatnonzero((row[:, channel] > 0.3) & (row[:, other] < 0.1)) + 0.5) / len(row) - 0.5


def test_a_decal_is_as_wide_as_it_says_and_keeps_the_shape_of_its_image(tmp_path):
    scene, asset = scene_with([picture(width=0.5, middle=(0.1, -0.05, 0))])
    albedo = rendered(scene, asset, halves(tmp_path)).albedo
    red, blue = columns(albedo, 0), columns(albedo, 2)
    pixel = 1 / SIDE
    assert (red.min(), red.max()) == pytest.approx((-0.15, 0.1), abs=1.5 * pixel)
    assert (blue.min(), blue.max()) == pytest.approx((0.1, 0.35), abs=1.5 * pixel)
    covered = np.ptp(albedo, axis=2) > 0.2
    rows = 0.5 - (np.flatnonzero(covered.any(axis=1)) + 0.5) / SIDE
    assert (rows.min(), rows.max()) == pytest.approx((-0.175, 0.075), abs=1.5 * pixel)


@pytest.mark.parametrize("form", [CylinderForm(radius=0.3, height=0.9, edge=0), BallForm(radius=0.3)])
def test_what_bends_with_the_surface_is_measured_along_it(form, tmp_path):
    """Half of a sheet 0.6 m wide reaches 1 radian around, and is seen to sin 1 of the radius; a flat one to its rim."""
    height = 0.45 if form.kind == "cylinder" else 0.3
    parts = {"part": Part(name="Part", form=form, material="m", offset=(0, -height, 0))}
    for bends, reach in ((True, 0.3 * np.sin(1.0)), (False, 0.29)):
        decal = picture(width=0.6, middle=(0, height, 0.3), depth=0.5, wraps=bends)
        scene, asset = scene_with([decal], parts)
        albedo = rendered(scene, asset, halves(tmp_path), side=128).albedo
        red, blue = columns(albedo, 0), columns(albedo, 2)
        assert (red.min(), blue.max()) == pytest.approx((-reach, reach), abs=0.015)
        assert (red.max(), blue.min()) == pytest.approx((0, 0), abs=0.01)


def test_a_decal_lies_on_the_side_that_it_faces_unless_it_is_asked_for_on_both(tmp_path):
    """Seen from behind a sheet; through a box of 0.4 m its depth decides."""
    behind = CAMERA.model_copy(update={"position": (0, 0, -4)})
    path = halves(tmp_path)
    for both in (False, True):
        scene, asset = scene_with([picture(width=0.5, both_sides=both)])
        albedo = rendered(scene.model_copy(update={"camera": behind}), asset, path).albedo
        assert (len(columns(albedo, 0)) > 0) == both
        box = {"part": Part(name="Part", mesh=1, material="m")}
        for depth in (0.3, 0.5):
            decal = picture(width=0.3, middle=(0, 0, 0.2), both_sides=both, depth=depth, wraps=False)
            scene, asset = scene_with([decal], box)
            albedo = rendered(scene.model_copy(update={"camera": behind}), asset, path).albedo
            assert (len(columns(albedo, 0)) > 0) == (both and depth > 0.4)


def test_a_sheet_pressed_from_behind_wears_it_there(tmp_path):
    scene, asset = scene_with([picture(width=0.5, facing=(0, 0, -1))])
    behind = scene.model_copy(update={"camera": CAMERA.model_copy(update={"position": (0, 0, -4)})})
    assert len(columns(rendered(behind, asset, halves(tmp_path)).albedo, 0))
    assert not len(columns(rendered(scene, asset, halves(tmp_path)).albedo, 0))


def test_the_higher_order_lies_above_whatever_the_keys_say(tmp_path):
    dark = {"content": TextContent(text="MMM", face="sans", weight=900), "width": 0.9, "color": (0, 0, 0)}
    under = Decal(name="Words", parts=("part",), order=1, **PRINT, **dark)
    for first, wanted in ((0, 0), (2, 1)):
        scene, asset = scene_with([picture(width=0.6, order=first), under])
        albedo = rendered(scene, asset, halves(tmp_path)).albedo
        middle = albedo[SIDE // 2 - 6 : SIDE // 2 + 6, SIDE // 4 : -SIDE // 4]
        assert (middle.max(axis=2) > 0.3).all() == bool(wanted)


def test_no_more_than_so_many_lie_on_one_part_and_the_uppermost_are_kept(tmp_path):
    decals = [picture(width=0.5, order=n, opacity=1.0 if n == MOST_DECALS else 0.0) for n in range(MOST_DECALS + 1)]
    scene, asset = scene_with(decals)
    assert len(columns(rendered(scene, asset, halves(tmp_path)).albedo, 0))


@pytest.mark.parametrize("mirror", ["none", "x"])
def test_lettering_is_read_on_a_mirrored_part_as_on_any(mirror, tmp_path):
    parts = {"part": Part(name="Part", mesh=1, material="m", mirror=mirror, size=1.5)}
    scene, asset = scene_with([], parts)
    engine = Engine(threads=2)
    engine.open(scene, lambda reference: halves(tmp_path), asset)
    made = new_decal(engine, "picture", Press(CAMERA, 1.0, 0.5, 0.5))
    engine.close()
    document = Document.read(scene.plain()).patched(made.patch)[0]
    scene = document.scene
    decal = scene.decals["decal-1"].model_copy(update={"content": PictureContent(file=FILE), **PRINT})
    albedo = rendered(scene.model_copy(update={"decals": {"decal-1": decal}}), asset, halves(tmp_path)).albedo
    red, blue = columns(albedo, 0), columns(albedo, 2)
    assert red.max() < blue.min()
    # 0.4 of a part that is 0.6 m wide.
    assert blue.max() - red.min() == pytest.approx(0.24, abs=0.04)


def test_one_decal_on_two_parts_stays_with_the_first_when_the_second_moves(tmp_path):
    """Live, as compiled afresh: the second part is pushed away below it, the first takes it along."""

    def at(x, other):
        return {
            "part": Part(name="Part", mesh=1, material="m", offset=(x, 0, 0)),
            "other": Part(name="Other", mesh=1, material="m", offset=(other, 0.1, 0)),
        }  # fmt: skip

    decal = picture(width=0.6, middle=(0.2, 0.05, 0.2), parts=("part", "other"), wraps=False)
    before, asset = scene_with([decal], at(-0.2, 0.2))
    path = halves(tmp_path)
    engine = Engine(threads=2)
    engine.open(before, lambda reference: path, asset)
    for x, other in ((-0.2, 0.3), (-0.3, 0.3), (-0.2, 0.2)):
        after = before.model_copy(update={"parts": at(x, other)})
        assert not engine.apply(after, lambda reference: path).recompiled
        film = Film(SIDE, SIDE)
        engine.trace(film, 4)
        live, fresh = film.means().albedo, rendered(after, asset, path).albedo
        assert live == pytest.approx(fresh, abs=1e-6)
        red = columns(live, 0)
        assert red.min() == pytest.approx(x - 0.1, abs=0.03)
    engine.close()


def test_every_edit_of_a_decal_changes_rows_alone(tmp_path):
    path = halves(tmp_path)
    scene, asset = scene_with([picture(width=0.5)])
    engine = Engine(threads=2)
    engine.open(scene, lambda reference: path, asset)
    rows = engine.compile_counts.material_rows
    for name, value in {"width": 0.3, "turn": 20.0, "color": [0.5, 0.5, 0.5], "middle": [0.1, 0, 0]}.items():
        data, _ = apply_patch(engine.scene.plain(), [{"op": "replace", "path": f"/decals/d0/{name}", "value": value}])
        change = engine.apply(Scene.model_validate(data), lambda reference: path)
        assert change.restarts and not change.recompiled
    assert engine.compile_counts.material_rows == rows + 4
    film = Film(SIDE, SIDE)
    engine.trace(film, 4)
    assert film.means().albedo == pytest.approx(rendered(engine.scene, asset, path).albedo, abs=1e-6)
    gone = engine.scene.model_copy(update={"decals": {}})
    assert not engine.apply(gone, lambda reference: path).recompiled
    film = Film(SIDE, SIDE)
    engine.trace(film, 4)
    assert film.means().albedo == pytest.approx(rendered(scene_with([])[0], asset).albedo, abs=1e-6)
    engine.close()


def test_a_decal_hides_the_light_below_it_and_closes_clear_glass(tmp_path):
    glowing = Material(name="Glow", base_color=(0, 0, 0), emission_luminance=5.0)
    words = Decal(name="W", content=TextContent(text="I", face="sans", weight=900), parts=("part",), width=0.5,
                  color=(0, 0, 0), **PRINT)  # fmt: skip
    scene, asset = scene_with([words], {"part": Part(name="P", mesh=0, material="g")}, {"g": glowing})
    dark = scene.model_copy(update={"environment": Environment(intensity=0.0)})
    radiance = rendered(dark, asset, samples=16).radiance[..., 1]
    assert radiance[2, 2] == pytest.approx(5.0, rel=0.01)
    assert radiance[SIDE // 2, SIDE // 2] == pytest.approx(0.0, abs=1e-3)
    glass = Material(name="Glass", transmission_weight=1.0, specular_roughness=0.0)
    white = words.model_copy(update={"color": (0.8, 0.8, 0.8), "middle": (0, 0, 0.2), "width": 0.3})
    scene, asset = scene_with([white], {"part": Part(name="P", mesh=1, material="c")}, {"c": glass})
    albedo = rendered(scene, asset, samples=16).albedo
    assert albedo[SIDE // 2, SIDE // 2] == pytest.approx(albedo[SIDE // 2, SIDE // 2].mean(), rel=0.05)


def test_what_is_raised_catches_light_at_its_rim(tmp_path):
    words = Decal(name="W", content=TextContent(text="I", face="sans", weight=900), parts=("part",), width=0.3,
                  color=(0.5, 0.5, 0.5), roughness=1.0)  # fmt: skip
    normals = []
    for raised in (0.0, 0.004):
        scene, asset = scene_with([words.model_copy(update={"raised": raised})])
        normals.append(rendered(scene, asset, samples=16).normal)
    flat, high = normals
    assert flat[..., 2] == pytest.approx(1.0, abs=1e-4)
    row = high[SIDE // 2, :, 0]
    left, right = int(np.argmin(row)), int(np.argmax(row))
    # The left flank of what stands out looks to the left.
    assert row[left] < -0.05 and row[right] > 0.05 and left < right


@pytest.mark.parametrize("oddity", ["none", "gone", "no image", "nothing in it"])
def test_a_decal_that_cannot_be_had_is_said_and_the_rest_is_shown(oddity, tmp_path):
    path = tmp_path / "halves.png"
    if oddity == "no image":
        path.write_text("hello")
    content = PictureContent(file=None if oddity == "none" else FILE)
    scene, asset = scene_with([picture(content=content, parts=("part", "lost"))])
    engine = Engine(threads=2)
    if oddity == "nothing in it":
        path.write_bytes(b"")
    problems = engine.open(scene, lambda reference: path, asset)
    assert [FILE.name in problem for problem in problems] == ([] if oddity == "none" else [True])
    film = Film(SIDE, SIDE)
    engine.trace(film, 4)
    engine.close()
    assert film.means().albedo == pytest.approx(rendered(scene_with([])[0], asset).albedo, abs=1e-3)


def test_pressing_picks_the_part_and_dragging_takes_a_decal_to_another(tmp_path):
    parts = {
        "part": Part(name="Part", mesh=1, material="m", offset=(-0.25, 0, 0), turn_y=30.0),
        "other": Part(name="Other", mesh=1, material="m", offset=(0.25, 0, 0), size=0.5),
    }
    scene, asset = scene_with([], parts)
    engine = Engine(threads=2)
    engine.open(scene, lambda reference: tmp_path, asset)
    assert new_decal(engine, "text", Press(CAMERA, 1.0, 0.02, 0.02)) is None
    made = new_decal(engine, "foil", Press(CAMERA, 1.0, 0.25, 0.5))
    engine.apply(Document.read(scene.plain()).patched(made.patch)[0].scene, lambda reference: tmp_path)
    decal = engine.scene.decals["decal-1"]
    assert decal.parts == ("part",) and decal.metalness == 1.0
    # In the part's own space, whose axes have turned with it.
    assert max(abs(value) for value in decal.facing) == pytest.approx(1.0, abs=0.02)
    moved = moved_decal(engine, "decal-1", Press(CAMERA, 1.0, 0.75, 0.5))
    engine.apply(Document.read(engine.scene.plain()).patched(moved.patch)[0].scene, lambda reference: tmp_path)
    decal = engine.scene.decals["decal-1"]
    assert decal.parts == ("other",)
    assert decal.middle == pytest.approx((0.0, 0.0, 0.2), abs=1e-3)  # before it was sized by hand
    assert moved_decal(engine, "nobody", Press(CAMERA, 1.0, 0.75, 0.5)) is None
    engine.close()


def test_lettering_is_set_in_its_lines_and_never_too_large():
    one, two = (lettering(TextContent(text=text)).texels.shape for text in ("Velvet", "Velvet\nLantern"))
    assert two[0] > 1.6 * one[0] and two[1] > one[1]
    apart = lettering(TextContent(text="Velvet", spacing=0.5)).texels
    assert apart.shape[1] > 1.5 * one[1]
    longest = lettering(TextContent(text="W" * 300, spacing=2.0, weight=900)).texels
    assert max(longest.shape) <= 8192 and longest[..., 3].max() == 255
    letters = lettering(TextContent(text="I")).texels[..., 3]
    assert 0.05 < (letters > 127).mean() < 0.6


def test_texels_that_nothing_shows_any_more_are_let_go():
    scene, asset = scene_with([Decal(name="W", parts=("part",), content=TextContent(text="a"))])
    compiled = CompiledScene(scene, asset, None)
    for number in range(20):
        words = scene.decals["d0"].model_copy(update={"content": TextContent(text=f"words {number}")})
        assert compiled.update(scene.model_copy(update={"decals": {"d0": words}}))
    assert sum(texture.texels.nbytes > 4 for texture in compiled._wearing.pictures._textures) == 1
