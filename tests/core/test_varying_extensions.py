"""Images that vary the extensions of glTF, rendered: half by half as the constants that they say; out and in again."""

import numpy as np
import pytest

from lantern.assets.imported import ImportedAsset
from lantern.assets.laid import placement_of, use_of
from lantern.assets.reading import import_asset
from lantern.assets.textures import REPEAT, Texture
from lantern.assets.varying import VARIED
from lantern.engine.exporting import exported
from lantern.scene.document import Material, Part, Scene
from lantern.scene.inputs import MaterialInput, Placement
from lantern.scene.lights import RectangleLight
from lantern.scene.sources import ImageSource, NoiseSource
from lantern.scene.texture_use import TextureUse
from tests.core.quad_files import Picture, Quad
from tests.core.shapes import no_files
from tests.core.test_inputs import CAMERA, UPRIGHT

LAMP = RectangleLight(name="L", position=(0.3, 0.2, 3.0), target=(0, 0, 0), width=2.0, height=2.0, amount=400.0)
GREY = [varied for varied in VARIED if varied.parameter != "fuzz_color"]
"""What an image without colours varies."""
NAMES = {
    "specularTexture": "specularFactor", "specularColorTexture": "specularColorFactor",
    "clearcoatTexture": "clearcoatFactor", "clearcoatRoughnessTexture": "clearcoatRoughnessFactor",
    "sheenColorTexture": "sheenColorFactor", "sheenRoughnessTexture": "sheenRoughnessFactor",
}  # fmt: skip
FACTORS = {
    "KHR_materials_specular": {"specularFactor": 1.0, "specularColorFactor": [1.0, 1.0, 1.0]},
    "KHR_materials_clearcoat": {"clearcoatFactor": 1.0, "clearcoatRoughnessFactor": 0.6},
    "KHR_materials_sheen": {"sheenColorFactor": [0.9, 0.9, 0.9], "sheenRoughnessFactor": 0.8},
}
"""What textures multiply, such that a texture shows."""


def halves(low, high):
    """An image whose left half is one number in all channels, its right half another."""
    texels = np.full((2, 2, 4), low, np.uint8)
    texels[:, 1] = high
    return texels


def file_of(extension, values):
    base = {"baseColorFactor": [0.2, 0.1, 0.05, 1], "metallicFactor": 0, "roughnessFactor": 0.35}
    return {"pbrMetallicRoughness": base, "extensions": {extension: values}}


@pytest.mark.parametrize("varied", GREY, ids=lambda varied: varied.parameter)
def test_each_half_is_as_the_constant_that_it_says(varied, tmp_path):
    plain = FACTORS[varied.extension]
    image = file_of(varied.extension, plain | {varied.texture: {"index": 0}})
    found = Picture(Quad(image, (halves(0, 255),)), tmp_path, lights={"l": LAMP})
    factor = NAMES[varied.texture]
    shown = []
    for share, u in ((0.0, 0.25), (1.0, 0.75)):
        value = [v * share for v in plain[factor]] if isinstance(plain[factor], list) else plain[factor] * share
        constant = Picture(Quad(file_of(varied.extension, plain | {factor: value})), tmp_path, lights={"l": LAMP})
        assert found.color(u, 0.5) == pytest.approx(constant.color(u, 0.5), rel=0.03, abs=0.004)
        shown.append(constant)
    assert abs(shown[0].color(0.5, 0.5) - shown[1].color(0.5, 0.5)).max() > 0.01


def test_sheen_of_several_colours_is_fuzz_of_those(tmp_path):
    texels = np.array([[[255, 40, 40, 255], [40, 40, 255, 255]]], np.uint8)
    sheen = {"sheenColorFactor": [0.9, 0.9, 0.9], "sheenRoughnessFactor": 0.8, "sheenColorTexture": {"index": 0}}
    found = Picture(Quad(file_of("KHR_materials_sheen", sheen), (texels,)), tmp_path)
    left, right = found.color(0.25, 0.5), found.color(0.75, 0.5)
    assert left[0] - left[2] > 0.01 + right[0] - right[2]


def test_a_film_goes_from_one_thickness_to_another(tmp_path):
    film = {"iridescenceFactor": 1.0, "iridescenceIor": 1.8, "iridescenceThicknessMinimum": 150}
    image = file_of(
        "KHR_materials_iridescence",
        film | {"iridescenceThicknessMaximum": 450, "iridescenceThicknessTexture": {"index": 0}},
    )
    found = Picture(Quad(image, (halves(0, 255),)), tmp_path, lights={"l": LAMP})
    for thickness, u in ((150, 0.25), (450, 0.75)):
        constant = Picture(
            Quad(file_of("KHR_materials_iridescence", film | {"iridescenceThicknessMaximum": thickness})),
            tmp_path, lights={"l": LAMP},
        )  # fmt: skip
        assert found.color(u, 0.5) == pytest.approx(constant.color(u, 0.5), rel=0.05, abs=0.01)


@pytest.mark.parametrize(
    "matrix", [(1, 0, 0, 0, 1, 0), (2, 0, 0.25, 0, 3, -0.5), (0, 3, 0.1, -2, 0, 0.2), (1.2, -1.6, 0.3, 1.6, 1.2, 0.7)]
)
def test_a_map_and_a_placement_say_the_same(matrix):
    use = TextureUse(texture=4, uv_set=1, matrix=matrix)
    assert use_of(4, placement_of(use)).matrix == pytest.approx(matrix, abs=1e-9)
    assert placement_of(use).uv_set == 1
    assert use_of(0, Placement(kind="box")) is None


def test_what_the_standard_has_a_word_for_goes_out_and_comes_in_again(tmp_path):
    def image(channel, **changes):
        source = ImageSource(texture=0, channel=channel, decoding="srgb" if channel == "color" else "linear")
        placement = Placement(kind="uv", repeats=2.0, turn_z=30.0, offset=(0.2, 0.1, 0.0))
        return MaterialInput(source=source, placement=placement, **({"combine": "multiply"} | changes))

    inputs = {varied.parameter: image(varied.channel) for varied in GREY}
    inputs["thin_film_thickness"] = image("green", combine="replace", low=0.2, high=0.7)
    material = Material(
        name="All", coat_weight=0.7, coat_roughness=0.3, coat_ior=1.5, fuzz_weight=0.5, fuzz_roughness=0.6,
        thin_film_weight=0.4, specular_weight=0.8, inputs=inputs,
    )  # fmt: skip
    asset = ImportedAsset("test", "none", [UPRIGHT], {}, {}, [Texture(halves(40, 220), REPEAT, REPEAT)])
    scene = Scene(parts={"p": Part(name="P", mesh=0, material="m")}, materials={"m": material})
    written = exported(scene, asset, "glb", no_files)
    (tmp_path / "a.glb").write_bytes(written.data)
    back = import_asset(tmp_path / "a.glb")
    (again,) = back.materials.values()
    assert not written.lost and not back.problems and again.inputs.keys() == inputs.keys()
    for name, one in inputs.items():
        other = again.inputs[name]
        assert (other.source, other.combine) == (one.source, one.combine)
        assert (other.low, other.high) == pytest.approx((one.low, one.high))
        assert use_of(0, other.placement).matrix == pytest.approx(use_of(0, one.placement).matrix, abs=1e-6)


def test_a_pattern_that_it_has_no_word_for_is_said():
    material = Material(name="Speckled", coat_weight=0.5, inputs={"coat_weight": MaterialInput(source=NoiseSource())})
    asset = ImportedAsset("test", "none", [UPRIGHT])
    scene = Scene(parts={"p": Part(name="P", mesh=0, material="m")}, materials={"m": material}, camera=CAMERA)
    assert "Speckled: its patterns" in exported(scene, asset, "glb", no_files).lost
