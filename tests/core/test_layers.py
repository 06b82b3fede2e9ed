"""Materials over one another, rendered: against each by itself, by every mask, on odd shapes, live, in other units."""

from dataclasses import replace

import numpy as np
import pytest

from lantern.assets.textures import MIRROR, REPEAT, Texture
from lantern.compile.compiled import CompiledScene
from lantern.engine.engine import Engine
from lantern.engine.exporting import exported
from lantern.film.film import Film
from lantern.scene.document import Asset, Camera, Material, Part, Scene
from lantern.scene.editing import apply_patch
from lantern.scene.inputs import MaterialInput, Placement
from lantern.scene.layers import MOST_LAYERS, Layer
from lantern.scene.lights import RectangleLight
from lantern.scene.model import FileRef
from lantern.scene.reading import SceneError, read_scene
from lantern.scene.sources import ChecksSource, EdgesSource, GradientSource, NoiseSource, StripesSource
from lantern.scene.standing import rescaled
from lantern.scene.surroundings import Environment, Ground
from lantern.scene.texture_use import TextureUse
from tests.core.shapes import box_mesh, no_files, sphere_mesh, square_mesh
from tests.core.test_inputs import SIDE, UPRIGHT, means, scene_of

RED = Material(name="Red", base_color=(0.7, 0.1, 0.1), specular_roughness=0.5)
OTHERS = {
    "brass": Material(name="Brass", base_color=(0.9, 0.7, 0.4), base_metalness=1.0, specular_roughness=0.2),
    "brushed": Material(
        name="Brushed", base_metalness=1.0, specular_roughness_anisotropy=0.8, tangent_rotation=0.0,
        inputs={"specular_roughness": MaterialInput(source=NoiseSource(), low=0.2, high=0.6)},
    ),
    "velvet": Material(name="Velvet", base_color=(0.1, 0.1, 0.3), fuzz_weight=0.9, fuzz_color=(0.4, 0.4, 0.9)),
    "lacquer": Material(name="Lacquer", base_color=(0.2, 0.5, 0.2), coat_weight=1.0, coat_color=(0.9, 0.8, 0.7)),
    "pearl": Material(name="Pearl", thin_film_weight=1.0, thin_film_thickness=0.4, base_color=(0.3, 0.3, 0.3)),
}  # fmt: skip
INSIDE = slice(2, -2), slice(2, -2)
"""Pixels that the square fills whole."""
LAMP = RectangleLight(name="L", position=(1, 1, 2), target=(0, 0, 0), amount=60.0)


def laid(below, over, mesh=UPRIGHT, textures=(), lit=False, **layer):
    """(scene, asset) of a material that lies over another."""
    layers = (Layer(material="over", **layer),)
    scene, asset = scene_of(below.model_copy(update={"layers": layers}), mesh, textures)
    light = {"lights": {"l": LAMP}, "environment": Environment(intensity=0.1)} if lit else {}
    return scene.model_copy(update={"materials": scene.materials | {"over": over}, **light}), asset


def alone(material, mesh=UPRIGHT, textures=(), lit=False):
    scene, asset = scene_of(material, mesh, textures)
    light = {"lights": {"l": LAMP}, "environment": Environment(intensity=0.1)} if lit else {}
    return scene.model_copy(update=light), asset


def pixels(scene, asset, samples=32):
    return means(scene, asset, samples).radiance


@pytest.mark.parametrize("lit", [False, True], ids=["in even light", "by a lamp"])
@pytest.mark.parametrize("name", OTHERS)
def test_what_lies_everywhere_is_all_that_is_seen_and_what_lies_nowhere_nothing(name, lit):
    ball = sphere_mesh(0.4, 32)
    whole, nowhere = (pixels(*laid(RED, OTHERS[name], ball, lit=lit, coverage=share)) for share in (1.0, 0.0))
    for found, wanted in ((whole, OTHERS[name]), (nowhere, RED)):
        by_itself = pixels(*alone(wanted, ball, lit=lit))
        assert found.mean(axis=(0, 1)) == pytest.approx(by_itself.mean(axis=(0, 1)), rel=0.01)
        assert np.median(np.abs(found - by_itself)) < 0.01


def stripes(size=0.25):
    placement = Placement(kind="plane", size=size)
    return MaterialInput(source=StripesSource(width=0.5, softness=0.0), placement=placement)


def test_a_mask_gives_each_place_to_one_of_both():
    mixed = means(*laid(RED, OTHERS["brass"], mask=stripes(0.5))).albedo
    over = means(*alone(OTHERS["brass"])).albedo
    below = means(*alone(RED)).albedo
    away = [np.abs(mixed - each).max(axis=-1) < 0.02 for each in (over, below)]
    assert 0.4 < away[0].mean() < 0.6 and 0.4 < away[1].mean() < 0.6
    assert (away[0] | away[1]).mean() > 0.85, "but for the pixels on a border"


def test_what_is_broken_up_is_the_product_of_both_masks():
    across = MaterialInput(
        source=StripesSource(softness=0.0), placement=Placement(kind="plane", size=0.25, turn_z=90.0)
    )
    white = Material(name="W", base_color=(1, 1, 1), specular_weight=0.0)
    black = Material(name="B", base_color=(0, 0, 0), specular_weight=0.0)
    both_masks = {"mask": stripes(), "breakup": across.model_copy(update={"combine": "multiply"})}
    of_one, of_other, both, half = (
        means(*laid(black, white, **layer)).albedo[INSIDE]
        for layer in ({"mask": stripes()}, {"mask": across}, both_masks, {"mask": stripes(), "coverage": 0.5})
    )
    assert np.abs(both - of_one * of_other).mean() < 0.03
    assert half == pytest.approx(0.5 * of_one, abs=0.02)


def test_of_three_the_uppermost_is_seen_first():
    layers = Layer(material="over", mask=stripes()), Layer(material="top", mask=stripes(0.5))
    scene, asset = laid(RED, OTHERS["velvet"])
    materials = scene.materials | {
        "m": RED.model_copy(update={"layers": layers}),
        "top": Material(name="Top", base_color=(0.1, 0.8, 0.1)),
    }
    found = means(scene.model_copy(update={"materials": materials}), asset).albedo
    top = means(*alone(materials["top"])).albedo
    shown = means(*laid(Material(name="B", base_color=(0, 0, 0)), Material(name="W"), mask=stripes(0.5))).albedo
    there = shown[..., 0] > 0.75
    assert np.abs(found - top)[there].max() < 0.05 and there.mean() > 0.3
    off = tuple(layer.model_copy(update={"enabled": False}) for layer in layers)
    materials["m"] = RED.model_copy(update={"layers": off})
    assert np.array_equal(
        means(scene.model_copy(update={"materials": materials}), asset).radiance, means(*alone(RED)).radiance
    )


def images():
    """Three images of noise: of colours with holes, of numbers, of light."""
    generator = np.random.default_rng(5)
    found = []
    for wrap in ((REPEAT, MIRROR), (MIRROR, REPEAT), (REPEAT, REPEAT)):
        texels = generator.integers(0, 255, (8, 8, 4), dtype=np.uint8)
        found.append(Texture(texels, *wrap, nearest=False))
    return found


def test_images_of_fixed_meaning_stay_what_they_are_below_a_layer():
    """With a layer that lies nowhere all images are read by operations: to the eye nothing changes."""
    turned = TextureUse(texture=0, matrix=(1.7, 0.4, 0.1, -0.3, 1.2, 0.2))
    mapped = Material(
        name="M", alpha_mode="mask", base_color=(0.9, 0.8, 0.7), base_color_texture=turned, vertex_colors=True,
        metallic_roughness_texture=TextureUse(texture=1, matrix=(2, 0, 0, 0, 3, 0.5)), base_metalness=0.8,
        emission_texture=TextureUse(texture=2), emission_luminance=0.4, transmission_weight=0.5,
        transmission_texture=TextureUse(texture=1), transmission_tint_texture=TextureUse(texture=2),
        geometry_thin_walled=True, inputs={"base_color": MaterialInput(source=ChecksSource(), combine="multiply")},
    )  # fmt: skip
    colors = np.array([[1, 1, 0, 1], [0.5, 1, 1, 1], [1, 0.2, 1, 0.7], [1, 1, 1, 0.4]], np.float32)
    mesh = replace(UPRIGHT, colors=colors)
    wanted = means(*alone(mapped, mesh, images(), lit=True), 64)
    found = means(*laid(mapped, RED, mesh, images(), lit=True, coverage=0.0), 64)
    assert np.array_equal(found.alpha, wanted.alpha)
    assert np.abs(found.albedo - wanted.albedo).max() < 2e-3
    assert np.abs(found.radiance - wanted.radiance).mean() < 2e-3


def test_a_layer_with_images_and_holes_shows_them_where_it_lies():
    """An image with alpha as a layer over another material, as a transfer lies on paint."""
    printed = Material(
        name="Printed",
        alpha_mode="blend",
        base_color=(1, 1, 1),
        base_color_texture=TextureUse(texture=0),
        specular_weight=0.0,
    )
    below = Material(name="Below", base_color=(0.2, 0.2, 0.2), specular_weight=0.0)
    texels = np.zeros((2, 2, 4), np.uint8)
    texels[:, 0] = (255, 0, 0, 255)
    texels[:, 1] = (0, 255, 0, 0)
    found = means(*laid(below, printed, textures=[Texture(texels, REPEAT, REPEAT, nearest=True)])).albedo
    assert found[10, 10] == pytest.approx((1, 0, 0), abs=0.01)
    assert found[10, -10] == pytest.approx((0.2, 0.2, 0.2), abs=0.01)


WHITE = Material(name="W", base_color=(1, 1, 1), specular_weight=0.0)
BLACK = Material(name="B", base_color=(0, 0, 0), specular_weight=0.0)


def near(source, **numbers):
    return MaterialInput(source=source(**{"contrast": 0.0, "breakup": 0.0} | numbers))


def test_paint_that_is_thick_has_the_slope_of_its_border():
    """Coverage that rises along a metre, a tenth of a metre thick: the normal leans by atan 0.1."""
    rising = MaterialInput(source=GradientSource(), placement=Placement(kind="plane", size=1.0, offset=(-0.5, 0, 0)))
    found = means(*laid(RED, OTHERS["brass"], mask=rising, thickness=0.1)).normal[8:-8, 8:-8].mean(axis=(0, 1))
    assert np.degrees(np.arctan2(-found[0], found[2])) == pytest.approx(np.degrees(np.arctan(0.1)), rel=0.03)
    assert abs(found[1]) < 1e-3
    bumped = Material(name="N", bump=0.02, inputs={"bump": MaterialInput(source=NoiseSource(), placement=Placement())})
    flat = means(*laid(bumped, RED, coverage=1.0)).normal[8:-8, 8:-8]
    assert np.abs(flat - (0, 0, 1)).max() < 1e-3, "a whole layer fills what is rough below"
    rough = means(*laid(RED, bumped, coverage=1.0)).normal
    assert np.abs(rough - means(*alone(bumped)).normal).mean() < 1e-3


def test_paint_over_glass_and_over_a_lamp():
    """The lowest says what is inside and what glows; whole paint hides both, and half of it half."""
    ball = sphere_mesh(0.4, 48)
    glass = Material(name="Glass", transmission_weight=1.0, specular_roughness=0.0)
    painted = pixels(*laid(glass, RED, ball))[20:-20, 20:-20]
    assert painted.mean(axis=(0, 1)) == pytest.approx(
        pixels(*alone(RED, ball))[20:-20, 20:-20].mean(axis=(0, 1)), rel=0.02
    )
    frosted = laid(glass, glass.model_copy(update={"specular_roughness": 0.5}), ball)
    rough = pixels(*alone(glass.model_copy(update={"specular_roughness": 0.5}), ball), 256)
    assert pixels(*frosted, 256).mean() == pytest.approx(rough.mean(), rel=0.02)
    lamp = Material(name="Lamp", emission_luminance=5.0, base_color=(0, 0, 0), specular_weight=0.0)
    shines = []
    for share in (0.0, 0.5, 1.0):
        scene, asset = laid(lamp, BLACK, coverage=share)
        asset.meshes.append(square_mesh(0.5))
        floor = Part(name="Floor", mesh=1, material="white", offset=(0, -0.5, 0.4))
        scene = scene.model_copy(
            update={
                "environment": Environment(intensity=0.0),
                "parts": scene.parts | {"floor": floor},
                "materials": scene.materials | {"white": WHITE},
            }
        )
        above = Camera(position=(0, 3, 0.41), target=(0, -0.5, 0.4), focal_length=100)
        seen = pixels(scene, asset)[4 : SIDE // 2, 2:-2]
        assert seen.mean() == pytest.approx(5.0 * (1 - share), abs=0.01)
        shines.append(np.median(pixels(scene.model_copy(update={"camera": above}), asset, 64)[16:, 10:-8]))
    assert shines == pytest.approx([shines[0], shines[0] / 2, 0.0], rel=0.03, abs=2e-3)


# Live, and in the document


def test_edits_of_layers_equal_a_new_compile():
    """To the bit, and no row more is written than needed; a layer's material brings along what it lies over."""
    scene, asset = laid(RED, OTHERS["brass"], box_mesh((-0.4,) * 3, (0.4,) * 3), mask=near(EdgesSource, width=0.05))
    live = CompiledScene(scene, asset, None)
    patches = [
        [{"op": "replace", "path": "/materials/over/base_color", "value": [0.1, 0.9, 0.2]}],
        [{"op": "replace", "path": "/materials/m/layers/0/mask/source/width", "value": 0.2}],
        [{"op": "replace", "path": "/materials/m/layers/0/thickness", "value": 0.01}],
        [
            {
                "op": "add",
                "path": "/materials/m/layers/-",
                "value": Layer(material="over", mask=stripes()).model_dump(),
            }
        ],
        [{"op": "add", "path": "/materials/over/inputs/base_color", "value": stripes().model_dump()}],
        [{"op": "remove", "path": "/materials/m/layers/0"}],
        [{"op": "replace", "path": "/parts/part/material", "value": "over"}],
        [{"op": "replace", "path": "/parts/part/material", "value": "m"}],
    ]
    data = scene.plain()
    for patch in patches:
        data, _ = apply_patch(data, patch)
        scene = read_scene(data)
        before = live.counts.material_rows
        assert live.update(scene), "no new compile"
        assert live.counts.material_rows - before <= 2
        films = []
        for compiled in (live, CompiledScene(scene, asset, None)):
            engine = Engine()
            engine.open(scene, no_files, asset)
            engine._compiled = compiled
            film = Film(48, 32)
            engine.trace(film, 2)
            films.append(film.means().radiance)
            engine.close()
        assert np.array_equal(*films), patch


def test_another_unit_takes_layers_along():
    mask = near(EdgesSource, width=0.05, breakup=0.5, grain=0.02)
    scene, asset = laid(RED, OTHERS["brass"], box_mesh((-0.2,) * 3, (0.2,) * 3), mask=mask, thickness=0.001)
    file = Asset(file=FileRef(sha256="0" * 64, name="box.glb"), name="Box")
    scene = scene.model_copy(update={"asset": file, "ground": Ground(enabled=False, height=-0.2)})
    one, other = (means(each, asset, 16) for each in (scene, rescaled(scene, file, 10.0)))
    assert np.abs(other.albedo - one.albedo).mean() < 2e-3 and np.abs(other.normal - one.normal).mean() < 2e-3


def test_a_layer_of_nothing_of_itself_or_one_too_many_is_refused_and_says_where():
    scene, asset = laid(RED, OTHERS["brass"])
    data = scene.plain()

    def put(path, value, op="replace"):
        return apply_patch(data, [{"op": op, "path": path, "value": value}])

    with pytest.raises(SceneError, match="materials/m/layers/0/material: there is no material 'gone'"):
        put("/materials/m/layers/0/material", "gone")
    with pytest.raises(SceneError, match="cannot lie over itself"):
        put("/materials/m/layers/0/material", "m")
    with pytest.raises(SceneError, match="materials/m/layers/0/material: there is no material 'over'"):
        apply_patch(data, [{"op": "remove", "path": "/materials/over"}])
    with pytest.raises(SceneError, match="layers"):
        put("/materials/m/layers", data["materials"]["m"]["layers"] * (MOST_LAYERS + 1))
    data["materials"]["m"]["layers"][0]["material"] = "gone"
    with pytest.raises(SceneError, match="there is no material 'gone'"):
        read_scene(data)
    assert "Red: the layers over it" in exported(scene, asset, "glb", no_files).lost


def test_layers_that_refer_to_each_other_are_shown_by_their_own_look():
    """Only what lies on a material itself is laid: there is no ring to follow."""
    scene, asset = laid(RED, OTHERS["brass"], coverage=1.0)
    ring = scene.materials["over"].model_copy(update={"layers": (Layer(material="m"),)})
    both = Scene.model_validate(
        scene.model_copy(update={"materials": scene.materials | {"over": ring}}).model_dump(mode="json")
    )
    assert np.array_equal(means(both, asset).radiance, means(scene, asset).radiance)
