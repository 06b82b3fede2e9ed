"""Read and render: a file made by hand for each feature of glTF that touches how a surface looks, against pixel values
computed by hand (glTF 2.0, sections 3.7 to 3.9, and the extensions named)."""

import numpy as np
import pytest

from lantern.color import decode_srgb
from lantern.scene.lights import DirectionalLight
from lantern.scene.surroundings import Backdrop, Environment
from tests.core.quad_files import MATT, NORMALS, POSITIONS, UVS, Picture, Quad

GLOW = {
    "pbrMetallicRoughness": {"baseColorFactor": [0, 0, 0, 1], "metallicFactor": 0},
    "emissiveFactor": [1, 1, 1],
    **MATT,
}
DARK = {"environment": Environment(intensity=0.0)}
FOUR = np.array([[[255, 0, 0, 255], [0, 255, 0, 255]], [[0, 0, 255, 255], [188, 188, 188, 255]]], np.uint8)
"""Red, green over blue, linear half grey."""
REPEAT, CLAMP, MIRROR = 10497, 33071, 33648


def glowing(**texture):
    return GLOW | {"emissiveTexture": {"index": 0, **texture}}


def matt(**pbr):
    return {"pbrMetallicRoughness": {"metallicFactor": 0, "roughnessFactor": 1, **pbr}, **MATT}


def linear(*encoded):
    return decode_srgb(np.array(encoded) / 255)


def test_texels_are_where_they_belong(tmp_path):
    shown = Picture(Quad(glowing(), (FOUR,)), tmp_path, **DARK)
    for (u, v), expected in {(0.25, 0.25): (1, 0, 0), (0.75, 0.25): (0, 1, 0), (0.25, 0.75): (0, 0, 1)}.items():
        assert shown.color(u, v) == pytest.approx(expected, abs=1e-3)
    assert shown.color(0.75, 0.75) == pytest.approx(linear(188, 188, 188), abs=1e-3)


def test_transparent_texels_keep_their_colour(tmp_path):
    """Alpha is no part of an emissive image, nor of the base colour of what is opaque."""
    clear = FOUR.copy()
    clear[..., 3] = (0, 128), (255, 10)
    shown = Picture(Quad(glowing(), (clear,)), tmp_path, **DARK)
    assert shown.color(0.25, 0.25) == pytest.approx((1, 0, 0), abs=1e-3)
    assert shown.color(0.75, 0.25) == pytest.approx((0, 1, 0), abs=1e-3)
    shown = Picture(Quad(matt(baseColorTexture={"index": 0}), (clear,)), tmp_path)
    assert shown.color(0.25, 0.25) == pytest.approx((1, 0, 0), abs=0.01)


def test_colours_are_decoded_before_they_are_blended(tmp_path):
    """Half way between black and white is half the light: 0.5, and not the light of the middle code, 0.214."""
    steps = np.zeros((1, 2, 3), np.uint8)
    steps[:, 1] = 255
    linear_filter = Quad(glowing(), (steps,), ({"magFilter": 9729, "wrapS": CLAMP},))
    shown = Picture(linear_filter, tmp_path, **DARK)
    assert shown.color(0.5, 0.5) == pytest.approx((0.5,) * 3, abs=0.01)
    nearest = Picture(Quad(glowing(), (steps,)), tmp_path, **DARK)
    assert nearest.color(0.45, 0.5)[0] < 0.01 and nearest.color(0.55, 0.5)[0] > 0.99


@pytest.mark.parametrize("channels", [1, 2, 3, 4])
def test_sixteen_bits_stay_sixteen(tmp_path, channels):
    fine = np.full((2, 2, channels), 65535, np.uint16)
    fine[..., : min(channels, 3) if channels != 2 else 1] = 300
    shown = Picture(Quad(glowing(), (fine,)), tmp_path, **DARK)
    assert shown.color(0.5, 0.5) == pytest.approx(decode_srgb(np.full(3, 300 / 65535)), rel=0.01)


def test_grey_images_are_grey(tmp_path):
    grey = np.full((2, 2, 1), 188, np.uint8)
    assert Picture(Quad(glowing(), (grey,)), tmp_path, **DARK).color(0.5, 0.5) == pytest.approx(
        linear(*[188] * 3), abs=1e-3
    )


@pytest.mark.parametrize(
    ("wrap", "expected"),
    [(REPEAT, [(1, 0, 0), (0, 1, 0), (1, 0, 0), (0, 1, 0)]), (MIRROR, [(0, 1, 0), (1, 0, 0), (1, 0, 0), (0, 1, 0)]),
     (CLAMP, [(1, 0, 0), (1, 0, 0), (1, 0, 0), (0, 1, 0)])],
    ids=["repeat", "mirror", "clamp"],
)  # fmt: skip
@pytest.mark.parametrize("axis", ["S", "T"])
def test_wraps(tmp_path, wrap, expected, axis):
    """Coordinates from -1 to 1 over a red and a green texel."""
    pair = np.array([[[255, 0, 0], [0, 255, 0]]], np.uint8)
    uvs = UVS * [2, 1] - [1, 0]
    image, places = pair, [(x, 0.5) for x in (0.125, 0.375, 0.625, 0.875)]
    if axis == "T":
        image, places = pair.transpose(1, 0, 2).copy(), [(0.5, y) for _, y in enumerate((0.125, 0.375, 0.625, 0.875))]
        uvs = UVS * [1, 2] - [0, 1]
    quad = Quad(glowing(), (image,), ({f"wrap{axis}": wrap},), {"TEXCOORD_0": (uvs.astype(np.float32), False)})
    shown = Picture(quad, tmp_path, **DARK)
    for place, color in zip(places, expected, strict=True):
        assert shown.color(*place) == pytest.approx(color, abs=1e-3), place


def test_texture_transform_turns_scales_and_shifts(tmp_path):
    """KHR_texture_transform: scale, then rotate, then offset. A quarter turn puts u where v was, from the other end."""
    transform = {"offset": [0.0, 1.0], "rotation": np.pi / 2, "scale": [1.0, 1.0]}
    shown = Picture(Quad(glowing(extensions={"KHR_texture_transform": transform}), (FOUR,)), tmp_path, **DARK)
    # uv' = (v, 1 - u)
    assert shown.color(0.25, 0.25) == pytest.approx((0, 0, 1), abs=1e-3)
    assert shown.color(0.75, 0.25) == pytest.approx((1, 0, 0), abs=1e-3)
    assert shown.color(0.75, 0.75) == pytest.approx((0, 1, 0), abs=1e-3)


@pytest.mark.parametrize("how", ["texCoord", "KHR_texture_transform"])
def test_the_second_uv_set(tmp_path, how):
    mirrored = {"TEXCOORD_1": (UVS * [-1, 1] + [1, 0], False)}
    mirrored = {name: (array.astype(np.float32), flag) for name, (array, flag) in mirrored.items()}
    use = {"texCoord": 1} if how == "texCoord" else {"extensions": {how: {"texCoord": 1}}}
    shown = Picture(Quad(glowing(**use), (FOUR,), attributes=mirrored), tmp_path, **DARK)
    assert shown.color(0.25, 0.25) == pytest.approx((0, 1, 0), abs=1e-3)
    assert shown.problems == []


def test_coordinates_of_bytes_are_shares_of_their_range(tmp_path):
    bytes_ = (UVS * 255).astype(np.uint8)
    padded = np.ascontiguousarray(bytes_)
    shown = Picture(Quad(glowing(), (FOUR,), attributes={"TEXCOORD_0": (padded, True)}), tmp_path, **DARK)
    assert shown.color(0.75, 0.25) == pytest.approx((0, 1, 0), abs=1e-3)


def test_interleaved_attributes(tmp_path):
    shown = Picture(Quad(glowing(), (FOUR,), interleaved=True), tmp_path, **DARK)
    assert shown.color(0.25, 0.75) == pytest.approx((0, 0, 1), abs=1e-3)


def test_sparse_positions(tmp_path):
    """One corner moved inwards by a sparse accessor: nothing is left at the old one."""
    shown = Picture(Quad(GLOW, sparse=([2], np.array([[0.5, 0.5, 0]]))), tmp_path, **DARK)
    assert shown.color(0.25, 0.75)[0] == pytest.approx(1, abs=1e-3)
    assert shown.alpha(0.85, 0.15) == 0


@pytest.mark.parametrize("kind", ["vec3 floats", "vec4 bytes", "vec4 shorts"])
def test_colours_of_vertices_tint_the_base_colour(tmp_path, kind):
    """Linear values, interpolated, times the factor (section 3.9.2)."""
    left, right = (0.2, 0.4, 0.8), (0.6, 0.2, 0.4)
    rows = np.array([left, right, right, left])
    arrays = {
        "vec3 floats": (rows.astype(np.float32), False),
        "vec4 bytes": (np.rint(np.column_stack([rows, np.ones(4)]) * 255).astype(np.uint8), True),
        "vec4 shorts": (np.rint(np.column_stack([rows, np.ones(4)]) * 65535).astype(np.uint16), True),
    }
    quad = Quad(matt(baseColorFactor=[1, 0.5, 1, 1]), attributes={"COLOR_0": arrays[kind]})
    shown = Picture(quad, tmp_path, samples=256)
    for u in (0.25, 0.75):
        expected = (np.array(left) + (np.subtract(right, left)) * u) * (1, 0.5, 1)
        assert shown.color(u, 0.5) == pytest.approx(expected, abs=0.012)


WHITE_BEHIND = {"backdrop": Backdrop(color=(1, 1, 1)), "environment": Environment(intensity=0.0)}
HALF = np.full((1, 2, 4), 255, np.uint8)
HALF[0, 0, 3] = 128
"""Alpha 0.502 on the left, 1 on the right."""


def _behind(mode, factor, cutoff=None, image=HALF, **pbr):
    """What is left of a white backdrop behind black of an alpha mode."""
    material = matt(
        baseColorFactor=[0, 0, 0, factor], **({"baseColorTexture": {"index": 0}} if image is not None else {})
    )
    material["alphaMode"] = mode
    if cutoff is not None:
        material["alphaCutoff"] = cutoff
    return Quad(material, (image,) if image is not None else (), **pbr)


@pytest.mark.parametrize(
    ("quad", "left", "right"),
    [
        (_behind("OPAQUE", 0.1), 0, 0),
        (_behind("BLEND", 1.0), 1 - 128 / 255, 0),
        (_behind("BLEND", 0.5), 1 - 64 / 255, 0.5),
        (_behind("MASK", 1.0), 0, 0),
        (_behind("MASK", 1.0, 0.6), 1, 0),
        (_behind("MASK", 0.6), 1, 0),
        (_behind("MASK", 0.6, 0.7), 1, 1),
        (_behind("MASK", 0.4, image=None), 1, 1),
        (_behind("MASK", 0.6, image=None), 0, 0),
        (_behind("BLEND", 1.0, image=None,
                 attributes={"COLOR_0": (np.array([[1, 1, 1, 0.25]] * 4, np.float32), False)}), 0.75, 0.75),
    ],
    ids=["opaque", "blend", "blend × factor", "mask", "mask, cut-off", "mask × factor", "mask × factor, cut-off",
         "mask without image, cut", "mask without image, kept", "blend × vertex alpha"],
)  # fmt: skip
def test_alpha_modes(tmp_path, quad, left, right):
    shown = Picture(quad, tmp_path, samples=1024, **WHITE_BEHIND)
    assert shown.color(0.25, 0.5) == pytest.approx((left,) * 3, abs=0.03)
    assert shown.color(0.75, 0.5) == pytest.approx((right,) * 3, abs=0.03)


OBLIQUE = DirectionalLight(
    name="l",
    position=(0.5, 0.5 + 0.7, 0.7),
    target=(0.5, 0.5, 0),
    unit="lx",
    amount=np.pi * 2**0.5,
    spread=0,
)
"""Light of π lx on the square, from 45° above: matt shows its base colour, a polished metal nothing."""
LIT = {"lights": {"l": OBLIQUE}, "environment": Environment(intensity=0.0)}


def test_metalness_is_blue_and_roughness_green(tmp_path):
    image = np.zeros((2, 2, 3), np.uint8)
    image[0, :, 1] = 30  # smooth above
    image[1, :, 1] = 255
    image[:, 1, 2] = 255  # metal on the right
    material = {
        "pbrMetallicRoughness": {"metallicRoughnessTexture": {"index": 0}, "baseColorFactor": [0.5, 0.5, 0.5, 1]},
        **MATT,
    }
    shown = Picture(Quad(material, (image,)), tmp_path, **LIT)
    assert shown.color(0.25, 0.25) == pytest.approx((0.5,) * 3, abs=0.01)
    assert shown.color(0.75, 0.25)[0] < 0.01, "a polished metal sends the light past the camera"
    assert 0.05 < shown.color(0.75, 0.75)[0] < 0.45, "a rough one spreads it"


LEANING = np.array([[[218, 128, 218]]], np.uint8)
"""45° towards red."""


def test_a_normal_map_leans_along_its_coordinates(tmp_path):
    """Red is where u grows, green where v falls (section 3.9.3); the scale shrinks x and y and not z."""
    shown = Picture(Quad(matt() | {"normalTexture": {"index": 0}}, (LEANING,)), tmp_path, **DARK)
    assert shown.normal(0.5, 0.5) == pytest.approx((0.707, 0, 0.707), abs=0.01)
    half = Picture(Quad(matt() | {"normalTexture": {"index": 0, "scale": 0.5}}, (LEANING,)), tmp_path, **DARK)
    assert half.normal(0.5, 0.5) == pytest.approx((0.447, 0, 0.894), abs=0.01)
    green = np.ascontiguousarray(LEANING[..., [1, 0, 2]])
    up = Picture(Quad(matt() | {"normalTexture": {"index": 0}}, (green,)), tmp_path, **DARK)
    assert up.normal(0.5, 0.5) == pytest.approx((0, 0.707, 0.707), abs=0.01)


def test_made_tangents_follow_turned_coordinates(tmp_path):
    """Coordinates turned by a quarter: u grows upwards."""
    turned = np.array([[0, 0], [0, 1], [1, 1], [1, 0]], np.float32)
    quad = Quad(matt() | {"normalTexture": {"index": 0}}, (LEANING,), attributes={"TEXCOORD_0": (turned, False)})
    assert Picture(quad, tmp_path, **DARK).normal(0.5, 0.5) == pytest.approx((0, 0.707, 0.707), abs=0.01)


@pytest.mark.parametrize("hand", [1.0, -1.0])
def test_given_tangents_are_used(tmp_path, hand):
    """A tangent along +Y, whatever the coordinates say; green leans along cross(normal, tangent) times its hand."""
    tangents = np.tile(np.float32([0, 1, 0, hand]), (4, 1))
    green = np.ascontiguousarray(LEANING[..., [1, 0, 2]])
    for image, expected in ((LEANING, (0, 0.707, 0.707)), (green, (-0.707 * hand, 0, 0.707))):
        quad = Quad(matt() | {"normalTexture": {"index": 0}}, (image,), attributes={"TANGENT": (tangents, False)})
        assert Picture(quad, tmp_path, **DARK).normal(0.5, 0.5) == pytest.approx(expected, abs=0.01)


def test_a_mirrored_node_keeps_its_front_and_its_greens(tmp_path):
    green = np.ascontiguousarray(LEANING[..., [1, 0, 2]])
    node = {"scale": [-1, 1, 1], "translation": [1, 0, 0]}
    shown = Picture(Quad(matt() | {"normalTexture": {"index": 0}}, (green,), node=node), tmp_path, **DARK)
    assert shown.normal(0.5, 0.5) == pytest.approx((0, 0.707, 0.707), abs=0.01)
    red = Picture(Quad(matt() | {"normalTexture": {"index": 0}}, (LEANING,), node=node), tmp_path, **DARK)
    assert red.normal(0.5, 0.5) == pytest.approx((-0.707, 0, 0.707), abs=0.01)
    assert Picture(Quad(glowing(), (FOUR,), node=node), tmp_path, **DARK).color(0.25, 0.25) == pytest.approx(
        (0, 1, 0), abs=1e-3
    )


def test_a_coats_own_normal_and_its_scale(tmp_path):
    """A clear coat on black, leaning as far as the light's half vector: it mirrors the light into the camera."""
    lean = np.tan(np.radians(22.5))
    image = np.array([[[128, 128 + 127 * np.sin(np.pi / 4), 128 + 127 * np.cos(np.pi / 4)]]]).astype(np.uint8)
    found = []
    for scale in (lean, 1.0):
        coat = {
            "clearcoatFactor": 1, "clearcoatRoughnessFactor": 0.3,
            "clearcoatNormalTexture": {"index": 0, "scale": float(scale)},
        }  # fmt: skip
        material = matt(baseColorFactor=[0, 0, 0, 1])
        material["extensions"] = {**MATT["extensions"], "KHR_materials_clearcoat": coat}
        found.append(Picture(Quad(material, (image,)), tmp_path, **LIT).color(0.5, 0.5)[0])
    assert found[0] > 5 * found[1] > 0


def test_transmission_is_red_and_tinted_by_the_base_colour(tmp_path):
    image = np.zeros((1, 2, 3), np.uint8)
    image[0, 1, 0] = 255
    material = matt(baseColorFactor=[1, 0.5, 0.25, 1], roughnessFactor=0)
    material["extensions"] = {
        **MATT["extensions"],
        "KHR_materials_transmission": {"transmissionFactor": 1, "transmissionTexture": {"index": 0}},
    }
    shown = Picture(Quad(material, (image,)), tmp_path, samples=256, backdrop=Backdrop(kind="environment"))
    assert shown.color(0.75, 0.5) == pytest.approx((1, 0.5, 0.25), abs=0.02)
    assert shown.color(0.25, 0.5) == pytest.approx((1, 0.5, 0.25), abs=0.02), "matt in even light shows it too"
    dark = Picture(Quad(material, (image,)), tmp_path, backdrop=Backdrop(color=(1, 1, 1)), **LIT)
    assert dark.color(0.25, 0.5)[0] > 0.9 and dark.material.transmission_tint == (1, 0.5, 0.25)


@pytest.mark.parametrize("double_sided", [False, True])
def test_double_sided(tmp_path, double_sided):
    shown = Picture(Quad(GLOW | {"doubleSided": double_sided}), tmp_path, back=True, **DARK)
    assert shown.color(0.5, 0.5)[0] == pytest.approx(1.0 if double_sided else 0.0, abs=1e-3)


@pytest.mark.parametrize(
    ("field", "value"),
    [
        ("extensions", {"KHR_materials_clearcoat": "shiny"}),
        ("extensions", {"KHR_materials_ior": {"ior": "high"}}),
        ("emissiveFactor", "bright"),
        ("alphaCutoff", [1]),
    ],
)
def test_materials_that_do_not_follow_the_standard_are_refused(tmp_path, field, value):
    from lantern.assets.errors import AssetError

    with pytest.raises(AssetError, match=r"quad\.glb"):
        Picture(Quad({"name": "bad", "alphaMode": "MASK", field: value}), tmp_path)


def test_positions_fill_the_frame(tmp_path):
    """What the other tests rest on: the square is the frame, and nothing else is in it."""
    shown = Picture(Quad(GLOW), tmp_path, **DARK)
    assert shown.means.alpha[1:-1, 1:-1].min() == 1 and POSITIONS.max() == 1 and (NORMALS == [0, 0, 1]).all()


def test_what_is_unlit_is_as_bright_as_it_is_coloured_in_any_light(tmp_path):
    material = {
        "pbrMetallicRoughness": {"baseColorFactor": [0.5, 1, 1, 1], "baseColorTexture": {"index": 0}},
        "extensions": {"KHR_materials_unlit": {}},
    }
    for light in (0.0, 3.0):
        shown = Picture(Quad(material, (FOUR,)), tmp_path, environment=Environment(intensity=light))
        assert shown.color(0.25, 0.25) == pytest.approx((0.5, 0, 0), abs=0.01), "red, halved"
        assert shown.color(0.25, 0.75) == pytest.approx((0, 0, 1), abs=0.01), light
