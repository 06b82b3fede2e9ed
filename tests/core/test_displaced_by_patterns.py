"""Surfaces displaced by patterns: against closed forms, against the same as an image, in units, live, as files."""

import numpy as np
import pytest

from lantern.assets.imported import ImportedAsset
from lantern.assets.reading import import_asset
from lantern.assets.textures import CLAMP, Texture
from lantern.compile.compiled import CompiledScene
from lantern.compile.heights import heights
from lantern.engine.engine import Engine
from lantern.engine.exporting import exported
from lantern.film.film import Film
from lantern.scene.document import Asset, Material, Part, Scene
from lantern.scene.dressing import with_relief
from lantern.scene.editing import apply_patch
from lantern.scene.inputs import MaterialInput, Placement
from lantern.scene.model import FileRef
from lantern.scene.reading import SceneError, read_scene
from lantern.scene.sources import SOURCES, EdgesSource, GradientSource, NoiseSource, PatternSource
from lantern.scene.standing import rescaled
from lantern.scene.texture_use import TextureUse
from tests.core.shapes import no_files, traced
from tests.core.test_inputs import CAMERA, SIDE, UPRIGHT

ACROSS = MaterialInput(source=GradientSource(), placement=Placement(kind="plane", size=1.0, offset=(-0.5, 0, 0)))
"""0 at the left edge of the square metre, 1 at its right."""
FINE = {"subdivision": "loop", "levels": 4, "crease_angle": 30.0}


def scene_with(one, displacement=0.1, asset=None, **fields):
    part = Part(name="P", mesh=0, material="m", displacement=displacement, displacement_input=one, **(FINE | fields))
    scene = Scene(parts={"p": part}, materials={"m": Material(name="M")}, camera=CAMERA)
    return scene, asset or ImportedAsset("test", "none", [UPRIGHT])


def points(scene, asset):
    """World places (n, 3) of the part as it stands, most of them inside."""
    compiled = CompiledScene(scene, asset, None)
    mesh = compiled._stock.meshes[compiled._stock.numbers[0]]
    pose = compiled.pose_of("p")
    return mesh.positions @ pose[:, :3].T + pose[:, 3]


def test_a_gradient_tilts_a_square():
    x, _, z = points(*scene_with(ACROSS)).T
    inner = np.abs(x) < 0.4
    assert inner.sum() > 50 and z[inner] == pytest.approx(0.1 * (x[inner] + 0.5 - 0.5), abs=0.003)
    middle = points(*scene_with(ACROSS, displacement_middle=0.0))[:, 2]
    assert middle[inner] == pytest.approx(0.1 * (x[inner] + 0.5), abs=0.003)


def test_values_and_ramps_say_how_high():
    turned = ACROSS.model_copy(update={"low": 1.0, "high": 0.0})
    x, _, z = points(*scene_with(turned)).T
    inner = np.abs(x) < 0.4
    assert z[inner] == pytest.approx(-0.1 * x[inner], abs=0.003)


def test_a_pattern_displaces_as_its_own_image_does():
    """A noise, and the picture of it."""
    noise = MaterialInput(source=NoiseSource(octaves=2), placement=Placement(kind="uv", repeats=4.0))
    u, v = np.meshgrid((np.arange(512) + 0.5) / 512, (np.arange(512) + 0.5) / 512)
    none = np.zeros((512 * 512, 3))
    values = heights(noise, none, none + np.array([0, 0, 1]), [np.stack([u.ravel(), v.ravel()], 1)], 1.0).reshape(
        512, 512, 1
    )
    texture = Texture(np.rint(values * 65535).astype(np.uint16), CLAMP, CLAMP)
    asset = ImportedAsset("test", "none", [UPRIGHT], {}, {}, [texture])
    by_pattern = points(*scene_with(noise, asset=asset, levels=5))
    by_image = points(*scene_with(None, asset=asset, levels=5, displacement_texture=TextureUse(texture=0)))
    assert np.ptp(by_pattern[:, 2]) > 0.02
    assert by_pattern == pytest.approx(by_image, abs=0.002)


def test_it_is_as_large_in_metres_whatever_the_unit_and_the_size_by_hand():
    """A square of 100 cm, and one of a metre that is sized to two."""
    file = Asset(file=FileRef(sha256="0" * 64, name="a.obj"), name="A", scale=0.01)
    large = ImportedAsset("test", "none", [UPRIGHT.__class__(
        UPRIGHT.positions * 100, UPRIGHT.indices, UPRIGHT.normals, UPRIGHT.uvs, None
    )])  # fmt: skip
    scene, _ = scene_with(ACROSS)
    same = points(scene.model_copy(update={"asset": file}), large)
    assert same == pytest.approx(points(*scene_with(ACROSS)), abs=1e-5)
    x, _, z = points(*scene_with(ACROSS, size=2.0)).T
    inner = np.abs(x) < 0.45
    # The gradient is a metre long all the same, and as high.
    assert z[inner] == pytest.approx(0.1 * x[inner], abs=0.004)


def test_when_the_unit_changes_the_pattern_goes_along():
    file = Asset(file=FileRef(sha256="0" * 64, name="a.obj"), name="A", scale=1.0)
    scene = scene_with(ACROSS)[0].model_copy(update={"asset": file})
    part = rescaled(scene, file, 0.1).parts["p"]
    assert part.displacement == pytest.approx(0.01)
    assert part.displacement_input.placement.size == pytest.approx(0.1)


def test_every_pattern_displaces_and_nothing_else_does():
    for kind, model in SOURCES.items():
        one = MaterialInput(source=model(), placement=Placement(size=0.2))
        scene, asset = scene_with(one, levels=3)
        if issubclass(model, PatternSource):
            assert np.isfinite(points(scene, asset)).all(), kind
        else:
            with pytest.raises(SceneError, match=f"parts/p/displacement_input/source: a {kind} is no pattern"):
                CompiledScene(scene, asset, None)


def test_an_edit_of_the_pattern_is_seen_and_is_what_a_fresh_compile_shows():
    scene, asset = scene_with(MaterialInput(source=NoiseSource(), placement=Placement(size=0.2)))
    engine = Engine(threads=2)
    engine.open(scene, no_files, asset)
    part = scene.parts["p"]
    for size in (0.3, 0.15):
        one = part.displacement_input.model_copy(update={"placement": Placement(size=size)})
        changed = scene.model_copy(update={"parts": {"p": part.model_copy(update={"displacement_input": one})}})
        assert not engine.apply(changed, no_files).recompiled
        film = Film(SIDE, SIDE)
        engine.trace(film, 8)
        fresh = traced(changed, asset, 8, side=SIDE).means()
        assert film.means().normal == pytest.approx(fresh.normal, abs=1e-6)
    engine.close()


def test_a_new_one_is_seen_at_once_and_takes_the_place_of_an_image():
    scene, _ = scene_with(None, displacement=0.0, displacement_texture=TextureUse(texture=0))
    made = with_relief(scene, ["p"], "weave", 1.0)
    after, undo = apply_patch(scene.plain(), made.patch)
    assert apply_patch(after, undo)[0] == scene.plain()
    part = read_scene(after).parts["p"]
    assert part.displacement > 0 and part.displacement_texture is None
    assert part.displacement_input.source.kind == "weave" and made.label == "Displaced by weave"
    other = with_relief(read_scene(after), ["p"], "knit", 1.0)
    again = read_scene(apply_patch(after, other.patch)[0]).parts["p"]
    assert again.displacement == part.displacement and again.displacement_input.source.kind == "knit"


def test_what_is_displaced_goes_out_as_it_stands(tmp_path):
    scene, asset = scene_with(ACROSS)
    (tmp_path / "a.glb").write_bytes(exported(scene, asset, "glb", no_files).data)
    (mesh,) = import_asset(tmp_path / "a.glb").meshes
    assert np.ptp(mesh.positions[:, 2]) == pytest.approx(np.ptp(points(scene, asset)[:, 2]), rel=1e-4)


def test_worn_edges_are_no_pattern_to_displace_by():
    with pytest.raises(SceneError, match="no pattern to displace by"):
        CompiledScene(*scene_with(MaterialInput(source=EdgesSource())), None)
