"""Inputs of materials, rendered: against constants, against images of fixed meaning, in metres, on both faces, live."""

from dataclasses import replace

import numpy as np
import pytest

from lantern.assets.imported import ImportedAsset
from lantern.assets.textures import MIRROR, REPEAT, Texture
from lantern.compile.compiled import CompiledScene
from lantern.compile.view import View, Way
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.scene.document import Camera, Material, Part, Scene
from lantern.scene.inputs import PARAMETERS, MaterialInput, Placement, Ramp, Stop
from lantern.scene.lights import RectangleLight
from lantern.scene.reading import SceneError
from lantern.scene.sources import (
    SOURCES,
    ChanceSource,
    ChecksSource,
    GradientSource,
    HeightSource,
    ImageSource,
    NoiseSource,
    SlopeSource,
    StripesSource,
    VertexColorSource,
)
from lantern.scene.surroundings import Environment, Ground
from lantern.scene.texture_use import TextureUse
from tests.core.shapes import box_mesh, no_files, sphere_mesh, square_mesh, traced

SIDE = 64
UPRIGHT = square_mesh(0.5)
UPRIGHT = replace(
    UPRIGHT,
    positions=UPRIGHT.positions[:, [0, 2, 1]] * np.array([1, -1, 1], np.float32),
    normals=np.tile(np.array([[0, 0, 1]], np.float32), (4, 1)),
)
"""A square metre that faces +Z; the corners in the order lower left, lower right, upper right, upper left."""
UPRIGHT = replace(UPRIGHT, uvs=np.array([[[0, 1], [1, 1], [1, 0], [0, 0]]], np.float32))
CAMERA = Camera(
    position=(0, 0, 4), target=(0, 0, 0), projection="orthographic", focal_length=36 * 4 / 1.0, f_number=None
)
"""A metre wide."""


def scene_of(material, mesh=UPRIGHT, textures=(), **fields):
    part = Part(name="Part", mesh=0, material="m", **fields)
    asset = ImportedAsset("test", "none", [mesh], {}, {}, list(textures))
    return Scene(parts={"part": part}, materials={"m": material}, camera=CAMERA, ground=Ground(enabled=False)), asset


def means(scene, asset, samples=16, **options):
    return traced(scene, asset, samples, side=SIDE, **options).means()


def albedo(material, samples=4, **fields):
    return means(*scene_of(material, **fields), samples).albedo


def painted(source, material=None, combine="replace", amount=1.0, ramp=None, **placement):
    one = MaterialInput(source=source, placement=Placement(**placement), combine=combine, amount=amount, ramp=ramp)
    return (material or Material(name="M")).model_copy(update={"inputs": {"base_color": one}})


def even(value):
    """A source of one colour everywhere."""
    color = value if isinstance(value, tuple) else (value, value, value)
    return MaterialInput(ramp=Ramp(stops=(Stop(at=0.0, color=color), Stop(at=1.0, color=color))))


VALUES = {
    "base_color": (0.2, 0.5, 0.7), "base_metalness": 0.6, "base_diffuse_roughness": 0.7,
    "specular_color": (0.9, 0.5, 0.3), "specular_roughness": 0.45, "specular_roughness_anisotropy": 0.6,
    "transmission_weight": 0.5,
    "transmission_tint": (0.6, 0.9, 0.8), "coat_weight": 0.7, "coat_color": (0.7, 0.4, 0.3), "coat_roughness": 0.3,
    "fuzz_weight": 0.6, "fuzz_color": (0.8, 0.3, 0.2), "fuzz_roughness": 0.4, "emission_color": (0.9, 0.4, 0.1),
    "emission_luminance": 0.8, "geometry_opacity": 0.4, "subsurface_weight": 0.6, "coat_roughness_anisotropy": 0.7,
    "thin_film_thickness": 0.35, "base_weight": 0.4, "specular_weight": 0.3, "specular_ior": 2.1,
    "subsurface_color": (0.2, 0.7, 0.4), "coat_ior": 2.2, "coat_darkening": 0.2, "tangent_rotation": 60.0,
}  # fmt: skip
RICH = Material(
    name="Rich", base_weight=0.9, base_color=(0.6, 0.6, 0.6), base_metalness=0.3, coat_weight=0.4, fuzz_weight=0.3,
    transmission_weight=0.2, transmission_color=(0.9, 0.8, 0.7), emission_luminance=0.3, coat_roughness=0.2,
    subsurface_radius=0.005,
)  # fmt: skip


@pytest.mark.parametrize("lit", [True, False], ids=["in even light", "by a lamp"])
@pytest.mark.parametrize("name", [name for name in PARAMETERS if name != "bump"])
def test_an_input_of_one_value_is_that_constant(name, lit):
    lamp = RectangleLight(name="L", position=(1, 1, 2), target=(0, 0, 0), amount=60.0)
    change = {} if lit else {"lights": {"l": lamp}, "environment": Environment(intensity=0.1)}
    found = []
    # The table of a film is of one specular colour.
    rich = RICH.model_copy(update={"thin_film_weight": 0.5 if name == "thin_film_thickness" else 0.0})
    if name in ("specular_weight", "specular_ior"):
        # Light that is refracted goes by the constant.
        rich = rich.model_copy(update={"transmission_weight": 0.0})
    if name == "subsurface_color":
        rich = rich.model_copy(update={"subsurface_weight": 0.7})
    if name == "tangent_rotation":
        rich = rich.model_copy(update={"specular_roughness_anisotropy": 0.8, "base_metalness": 1.0})
    for material in (
        rich.model_copy(update={name: VALUES[name]}),
        rich.model_copy(update={"inputs": {name: even(VALUES[name])}}),
    ):
        scene, asset = scene_of(material, sphere_mesh(0.4, 32))
        found.append(means(scene.model_copy(update=change), asset, 64))
    wanted, other = found
    assert other.alpha == pytest.approx(wanted.alpha, abs=1e-6)
    assert other.radiance.mean(axis=(0, 1)) == pytest.approx(wanted.radiance.mean(axis=(0, 1)), rel=0.01)
    assert np.median(np.abs(other.radiance - wanted.radiance)) < 0.02


@pytest.mark.parametrize("name", ["transmission_weight", "coat_weight", "fuzz_weight", "emission_luminance"])
def test_an_input_brings_in_a_layer_whose_constant_is_0(name):
    plain = Material(name="Plain", base_color=(0.3, 0.3, 0.3))
    found = []
    for material in (
        plain.model_copy(update={name: VALUES[name]}),
        plain.model_copy(update={"inputs": {name: even(VALUES[name])}}),
    ):
        found.append(means(*scene_of(material, sphere_mesh(0.4, 32)), 64).radiance.mean())
    bare = means(*scene_of(plain, sphere_mesh(0.4, 32)), 64).radiance.mean()
    assert found[1] == pytest.approx(found[0], rel=0.01) and abs(found[0] - bare) > 0.02 * bare


COMBINED = {
    "replace": lambda c, v: v, "multiply": lambda c, v: c * v, "add": lambda c, v: min(c + v, 1),
    "screen": lambda c, v: 1 - (1 - c) * (1 - v),
    "overlay": lambda c, v: 2 * c * v if c <= 0.5 else 1 - 2 * (1 - c) * (1 - v),
    "darker": min, "lighter": max, "average": lambda c, v: (c + v) / 2,
}  # fmt: skip


@pytest.mark.parametrize("mode", COMBINED)
@pytest.mark.parametrize("amount", [1.0, 0.25])
def test_values_are_combined_with_the_constant_as_the_mode_says(mode, amount):
    constant, value = (0.3, 0.7, 0.5), (0.6, 0.2, 0.9)
    one = even(value).model_copy(update={"combine": mode, "amount": amount})
    material = Material(name="M", base_color=constant, inputs={"base_color": one})
    pairs = zip(constant, value, strict=True)
    # What is beyond a reflectance is cut after the amount.
    whole = [c + v if mode == "add" else COMBINED[mode](c, v) for c, v in pairs]
    wanted = [min(c + (w - c) * amount, 1.0) for c, w in zip(constant, whole, strict=True)]
    assert albedo(material)[32, 32] == pytest.approx(wanted, abs=1e-5)


STOPS = (Stop(at=0.2, color=(1, 0, 0)), Stop(at=0.6, color=(0, 1, 0)), Stop(at=0.8, color=(0, 0, 1)))


@pytest.mark.parametrize("blend", ["linear", "smooth", "steps"])
def test_a_ramp_has_its_stops_and_what_lies_between(blend):
    material = painted(GradientSource(), ramp=Ramp(stops=STOPS, blend=blend), kind="uv")
    found = albedo(material, 64)[SIDE // 2]
    t = (np.arange(SIDE) + 0.5) / SIDE
    places = [stop.at for stop in STOPS]
    share = np.interp(t, places, [0.0, 1.0, 2.0])
    part, whole = share % 1, np.floor(share).astype(int)
    if blend == "smooth":
        part = part * part * (3 - 2 * part)
    if blend == "steps":
        part = 0 * part
    colors = np.array([*(stop.color for stop in STOPS), STOPS[-1].color])
    wanted = colors[whole] * (1 - part)[:, None] + colors[np.minimum(whole + 1, 3)] * part[:, None]
    near_a_step = np.abs(t[:, None] - [0, *places, 1]).min(axis=1) < 2.5 / SIDE
    assert found[~near_a_step] == pytest.approx(wanted[~near_a_step], abs=0.02)


def image(seed=1, wrap=REPEAT, dtype=np.uint8):
    texels = np.random.default_rng(seed).integers(0, 256, (5, 7, 4)).astype(np.uint8)
    texels[..., 3] = np.random.default_rng(seed).integers(30, 256, (5, 7))
    return Texture(texels if dtype is np.uint8 else (texels / 255).astype(dtype), wrap, wrap)


@pytest.mark.parametrize("wrap", [REPEAT, MIRROR])
@pytest.mark.parametrize("dtype", [np.uint8, np.float32])
@pytest.mark.parametrize("fields", [{}, {"mirror": "x"}, {"inside_out": True}, {"turn_y": 180.0}])
def test_an_image_by_coordinates_is_the_image_of_fixed_meaning(wrap, dtype, fields):
    texture = image(wrap=wrap, dtype=dtype)
    fixed = Material(name="M", base_color=(1, 1, 1), base_color_texture=TextureUse(texture=0))
    given = painted(ImageSource(texture=0), kind="uv")
    pictures = [albedo(m, 16, textures=[texture], **fields) for m in (fixed, given)]
    assert pictures[1] == pytest.approx(pictures[0], abs=1e-4) and pictures[0].std() > 0.1


@pytest.mark.parametrize(("channel", "number"), [("red", 0), ("green", 1), ("blue", 2), ("alpha", 3)])
def test_each_channel_of_an_image_can_be_had(channel, number):
    texels = np.full((2, 2, 4), (10, 80, 160, 240), np.uint8)
    source = ImageSource(texture=0, channel=channel, decoding="linear")
    found = albedo(painted(source, kind="uv"), textures=[Texture(texels, REPEAT, REPEAT)])
    assert found[32, 32] == pytest.approx(np.full(3, texels[0, 0, number] / 255), abs=1e-4)


def test_a_glowing_image_lights_as_the_one_of_fixed_meaning():
    texture, by_coordinates = image(), MaterialInput(source=ImageSource(), placement=Placement(kind="uv"))
    floor = Part(name="Floor", mesh=1, material="floor", offset=(0, -0.6, 0.5))
    found = []
    for material in (
        Material(name="M", emission_luminance=5.0, emission_texture=TextureUse(texture=0)),
        Material(name="M", emission_luminance=5.0, inputs={"emission_color": by_coordinates}),
    ):
        scene, asset = scene_of(material, textures=[texture])
        asset.meshes.append(square_mesh(1.0))
        scene = scene.model_copy(
            update={
                "parts": scene.parts | {"floor": floor},
                "materials": scene.materials | {"floor": Material(name="Floor")},
                "environment": Environment(intensity=0.0),
                "camera": Camera(position=(0, 2, 2), target=(0, -0.5, 0.4), focal_length=40, f_number=None),
            }
        )
        found.append(means(scene, asset, 256).radiance)
    assert found[1].mean(axis=(0, 1)) == pytest.approx(found[0].mean(axis=(0, 1)), rel=0.02)


def edges_across(picture):
    """How often a row of a picture changes between dark and bright."""
    bright = picture[SIDE // 2 + 1, :, 0] > 0.5
    return int((np.diff(bright.astype(int)) != 0).sum())


@pytest.mark.parametrize("kind", ["box", "plane"])
@pytest.mark.parametrize(
    ("scale", "fields"),
    [(1.0, {}), (2.0, {}), (0.01, {"size": 50.0}), (1.0, {"mirror": "x"}), (1.0, {"inside_out": True})],
)  # fmt: skip
def test_sizes_are_metres_however_large_the_unit_of_a_part(kind, scale, fields):
    shrunk = replace(UPRIGHT, positions=UPRIGHT.positions / np.float32(scale * fields.get("size", 1.0)))
    rows = (scale, 0, 0, 0, 0, scale, 0, 0, 0, 0, scale, 0)
    material = painted(ChecksSource(), kind=kind, size=0.2, offset=(0.01, 0.01, 0))
    assert edges_across(albedo(material, 16, mesh=shrunk, matrix=rows, **fields)) == 10


def test_the_part_carries_its_pattern_along_and_the_scene_does_not():
    def row(space, shift):
        material = painted(StripesSource(softness=0), kind="plane", size=0.5, space=space)
        return albedo(material, 16, offset=(shift, 0.0, 0.0))[SIDE // 2, 20:-20, 0]

    shift = 0.125
    pixels = round(shift * SIDE)
    for space, moved in (("part", pixels), ("scene", 0)):
        still = albedo(painted(StripesSource(softness=0), kind="plane", size=0.5, space=space), 16)[SIDE // 2, :, 0]
        assert row(space, shift) == pytest.approx(still[20 - moved : SIDE - 20 - moved], abs=0.1)


def test_a_box_shows_the_pattern_as_large_on_each_of_its_sides():
    material = painted(ChecksSource(), kind="box", size=0.5, blend=0.01)
    for turn in ({}, {"turn_y": 90.0}, {"turn_x": 90.0}, {"turn_x": -90.0}, {"turn_y": 180.0}):
        found = albedo(material, 16, mesh=box_mesh((-0.5,) * 3, (0.5,) * 3), **turn)
        assert edges_across(found) == 3 and edges_across(found.transpose(1, 0, 2)) == 3


@pytest.mark.parametrize("kind", ["cylinder", "sphere"])
def test_a_pattern_goes_round_as_often_as_it_is_told(kind):
    material = painted(StripesSource(softness=0), kind=kind, repeats=6.0, size=1.0)
    seen = sum(
        edges_across(albedo(material, 16, mesh=sphere_mesh(0.45, 48), turn_y=turn)[:, 12:-12]) for turn in (0.0, 180.0)
    )
    # The middle four tenths of each half: 2 · asin(0.625 / 0.9) of 360° shows as much of 12 edges.
    assert seen == pytest.approx(12 * 4 * np.degrees(np.arcsin(20 / 64 / 0.45)) / 360, abs=2)


def test_chance_gives_each_part_its_own_number_and_keeps_it():
    scene, asset = scene_of(painted(ChanceSource()))
    parts = {f"p{n}": scene.parts["part"].model_copy(update={"offset": (0.0, 0.0, -n)}) for n in range(40)}
    compiled = {}
    for names in (list(parts), list(reversed(parts))):
        shown = scene.model_copy(update={"parts": {name: parts[name] for name in names}})
        for name in names[:6] if names[0] == "p0" else names[-6:]:
            alone = {k: v.model_copy(update={"visible": k == name}) for k, v in shown.parts.items()}
            value = means(shown.model_copy(update={"parts": alone}), asset, 1).albedo[32, 32, 0]
            assert compiled.setdefault(name, value) == value
    assert len(set(compiled.values())) == 6


def test_slope_and_height_are_those_of_the_scene():
    ball = sphere_mesh(0.45, 64)
    slope = albedo(painted(SlopeSource(whole=30.0, none=60.0)), 16, mesh=ball, turn_x=70.0)[:, SIDE // 2, 0]
    y = 0.5 - (np.arange(SIDE) + 0.5) / SIDE
    angle = np.degrees(np.arccos(np.clip(y / 0.45, -1, 1)))
    inside = np.abs(y) < 0.44
    assert (slope[inside & (angle < 28)] > 0.98).all() and (slope[inside & (angle > 62)] < 0.02).all()
    height = albedo(painted(HeightSource(whole=-0.1, none=0.2)), 16, mesh=ball, offset=(0.0, 0.05, 0.0))
    column = height[:, SIDE // 2, 0]
    assert (column[(y > 0.21) & (y < 0.45)] < 0.02).all() and (column[(y < -0.11) & (y > -0.35)] > 0.98).all()
    t = np.clip((0.2 - y) / 0.3, 0, 1)
    assert column[10:-20] == pytest.approx((t * t * (3 - 2 * t))[10:-20], abs=0.05)


def test_colours_of_vertices_are_a_source():
    colors = np.array([[1, 0, 0, 1], [1, 0, 0, 1], [0, 1, 0, 1], [0, 1, 0, 1]], np.float32)
    found = albedo(painted(VertexColorSource()), 16, mesh=replace(UPRIGHT, colors=colors))
    t = (np.arange(SIDE) + 0.5) / SIDE
    column, t = found[2:-2, 32], t[2:-2]
    assert column[:, 0] == pytest.approx(t, abs=0.01) and column[:, 1] == pytest.approx(1 - t, abs=0.01)


@pytest.mark.parametrize("kind", ["plane", "uv"])
@pytest.mark.parametrize("fields", [{}, {"mirror": "x"}, {"inside_out": True}, {"turn_y": 180.0}, {"size": 0.9}])
def test_a_bump_tilts_the_normal_by_the_slope_of_its_height(kind, fields):
    """A height that rises evenly by 0.1 m over half a metre."""
    one = MaterialInput(
        source=GradientSource(), placement=Placement(kind=kind, size=0.5, repeats=2.0, offset=(-0.25, 0, 0))
    )
    found = means(*scene_of(Material(name="M", bump=0.1, inputs={"bump": one}), **fields)).normal
    x = np.abs(found[..., 0][np.abs(found[..., 0]) > 1e-3])
    size = fields.get("size", 1.0) if kind == "uv" else 1.0
    assert len(x) > SIDE * SIDE / 5
    assert np.median(x) == pytest.approx(np.sin(np.arctan(0.2 / size)), abs=2e-3)
    # The normal leans back from where the height rises; a hill seen from behind is a dale.
    leans = 1 if fields.get("mirror") == "x" else -1
    assert np.sign(np.median(found[..., 0][np.abs(found[..., 0]) > 1e-3])) == leans


def test_a_bump_looks_like_the_same_relief_of_geometry():
    """A wavy sheet against a flat one with the bump of a wave: the pattern of shading agrees."""
    across = np.linspace(-0.5, 0.5, 513)
    size, height = 0.25, 0.01
    t = (across / size) % 2
    ridge = np.where(t <= 1, t, 2 - t) * height
    positions = np.concatenate([np.stack([across, np.full_like(across, s), ridge], 1) for s in (-0.5, 0.5)])
    n = len(across)
    faces = np.array([[[i, i + 1, n + i + 1], [i, n + i + 1, n + i]] for i in range(n - 1)]).reshape(-1, 3)
    slope = np.gradient(ridge, across)
    normal = np.stack([-slope, 0 * slope, np.ones_like(slope)], 1)
    normal /= np.linalg.norm(normal, axis=1, keepdims=True)
    sheet = replace(
        UPRIGHT,
        positions=positions.astype(np.float32),
        indices=faces.astype(np.uint32),
        normals=np.tile(normal, (2, 1)).astype(np.float32),
        uvs=None,
    )
    one = MaterialInput(source=GradientSource(repeats=True), placement=Placement(kind="plane", size=size))
    bumpy = Material(name="M", bump=height, inputs={"bump": one})
    lamp = RectangleLight(name="L", position=(3, 0.5, 2), target=(0, 0, 0), amount=300.0, width=0.1, height=0.1)
    rows = []
    for scene, asset in (scene_of(bumpy), scene_of(Material(name="M"), sheet)):
        lit = scene.model_copy(update={"lights": {"l": lamp}, "environment": Environment(intensity=0.0)})
        rows.append(means(lit, asset, 64).radiance.mean(axis=(0, 2)))
    assert np.corrcoef(rows)[0, 1] > 0.98 and rows[0].mean() == pytest.approx(rows[1].mean(), rel=0.05)


def test_edits_of_inputs_compile_nothing_and_give_what_a_new_compile_gives():
    scene, asset = scene_of(Material(name="M"), textures=[image()])
    engine = Engine(1)
    engine.open(scene, no_files, asset)
    placed = Placement(size=0.1)
    steps = [
        {"base_color": MaterialInput(source=ChecksSource(), placement=placed)},
        {"base_color": MaterialInput(source=ChecksSource(), placement=Placement(size=0.2))},
        {
            "base_color": MaterialInput(source=NoiseSource(), placement=placed),
            "geometry_opacity": MaterialInput(source=ChecksSource()),
        },
        {"bump": MaterialInput(source=NoiseSource(), placement=placed), "coat_weight": even(0.5)},
        {},
        {"base_color": MaterialInput(source=ImageSource(), placement=Placement(kind="uv"))},
    ]
    for inputs in steps:
        changed = scene.model_copy(update={"materials": {"m": Material(name="M", bump=0.01, inputs=inputs)}})
        engine.apply(changed, no_files)
        film = Film(SIDE, SIDE)
        assert engine.trace(film, 4)
        assert (film.radiance() == traced(changed, asset, 4, side=SIDE, threads=1).radiance()).all()
    assert engine.compiled.counts.full == 1 and engine.compiled.counts.mesh_trees == 1
    engine.close()


def test_many_materials_with_inputs_keep_their_own():
    scene, asset = scene_of(Material(name="M"))
    values = np.linspace(0.1, 0.9, 9)
    materials = {f"m{i}": Material(name=f"M{i}", inputs={"base_color": even(float(v))}) for i, v in enumerate(values)}
    small = Part(name="P", mesh=0, material="m0", size=0.1)
    parts = {
        f"p{i}": small.model_copy(update={"material": f"m{i}", "offset": (0.1 * i - 0.4, 0.0, 0.0)}) for i in range(9)
    }
    found = means(scene.model_copy(update={"parts": parts, "materials": materials}), asset, 4).albedo
    for i, value in enumerate(values):
        assert found[SIDE // 2, int((0.1 * i + 0.1) * SIDE), 0] == pytest.approx(value, abs=0.02)


def test_clay_is_of_one_colour_and_keeps_holes():
    inputs = {"base_color": MaterialInput(source=ChecksSource(), placement=Placement(size=0.2))}
    inputs["geometry_opacity"] = MaterialInput(
        source=StripesSource(softness=0), placement=Placement(kind="plane", size=0.5)
    )
    scene, asset = scene_of(Material(name="M", inputs=inputs))
    engine = Engine(1)
    engine.open(scene, no_files, asset)
    film = Film(SIDE, SIDE)
    engine.trace(film, 16, view=View(scene.camera, way=Way.CLAY))
    found = film.means()
    seen = found.alpha > 0.99
    assert 0.3 < seen.mean() < 0.7 and np.ptp(found.albedo[seen]) < 1e-3
    engine.close()


def test_an_image_that_the_asset_lacks_is_refused_with_its_place():
    scene, asset = scene_of(painted(ImageSource(texture=3)))
    with pytest.raises(SceneError, match="materials/m/inputs/base_color/source: the asset has 0 textures"):
        CompiledScene(scene, asset, None)


def test_a_ramp_that_falls_is_refused():
    with pytest.raises(ValueError, match="must rise"):
        Ramp(stops=(Stop(at=0.6), Stop(at=0.2)))


def test_every_kind_of_source_has_a_code_and_renders():
    for kind, model in SOURCES.items():
        material = Material(
            name=kind,
            bump=0.001,
            inputs={name: MaterialInput(source=model(), placement=Placement(size=0.1)) for name in PARAMETERS},
        )
        found = means(*scene_of(material, sphere_mesh(0.4, 16), textures=[image()]), 2)
        assert np.isfinite(found.radiance).all(), kind


def test_in_clay_no_input_of_the_gloss_or_of_its_grain_is_left():
    """All that is not shaped by an input is the same there, however its index and its grain vary."""
    noise = MaterialInput(placement=Placement(size=0.05), low=1.0, high=3.0)
    odd = Material(
        name="Odd", specular_ior=2.4, specular_roughness_anisotropy=0.7,
        inputs={"specular_ior": noise, "specular_weight": noise, "tangent_rotation": noise},
    )  # fmt: skip
    found = []
    for material in (odd, Material(name="Plain")):
        scene, asset = scene_of(material, sphere_mesh(0.4, 32))
        engine, film = Engine(threads=2), Film(SIDE, SIDE)
        engine.open(scene, no_files, asset)
        assert engine.trace(film, 64, view=View(scene.camera, Way.CLAY))
        assert engine.ray_counts().not_finite == 0
        # Tangents differ, and with them the noise.
        found.append(film.means().radiance.mean())
        engine.close()
    assert found[0] == pytest.approx(found[1], rel=2e-3)
