"""Procedural nodes of other programs' materials, rendered: against what the standard's own shaders say of a place."""

import numpy as np
import pytest

from lantern.assets.materialx.patterns import PATTERNS
from tests.core.test_inputs import SIDE, albedo, means, scene_of
from tests.core.test_materialx import foreign, worn

PLACES = (np.arange(SIDE) + 0.5) / SIDE
U, V = np.meshgrid(PLACES, PLACES[::-1])
"""Coordinates that run upwards, of the pixels of a square metre."""


def read(tmp_path, nodes, name="n", parameter="base_color", kind="color3"):
    """The material whose parameter is what a node says; nothing of it was left out."""
    shader = f'<input name="{parameter}" type="{kind}" nodename="{name}"/>'
    found = foreign(tmp_path, nodes + worn(shader, "open_pbr_surface"))
    assert found.problems == []
    return found.materials[0][0]


def node(category, kind="color3", name="n", **inputs):
    said = "".join(f'<input name="{each}" type="{t}" value="{value}"/>' for each, (t, value) in inputs.items())
    return f'<{category} name="{name}" type="{kind}">{said}</{category}>'


@pytest.mark.parametrize("category", PATTERNS)
def test_every_procedural_node_becomes_a_pattern(category, tmp_path):
    kind = "color4" if category == "ramp" else "color3" if "ramp" in category or "split" in category else "float"
    kind = "color3" if category == "checkerboard" else kind
    nodes = node(category, kind)
    if kind != "color3":
        nodes += f'<convert name="c" type="color3"><input name="in" type="{kind}" nodename="n"/></convert>'
    material = read(tmp_path, nodes, "n" if kind == "color3" else "c")
    assert set(material.inputs) == {"base_color"}
    assert np.isfinite(means(*scene_of(material), 2).radiance).all()


def test_squares_lie_where_the_standard_has_them(tmp_path):
    """floor(u × tiling - offset) + floor(v × tiling - offset) odd: the first colour."""
    nodes = node(
        "checkerboard", color1=("color3", "0.8, 0.1, 0.1"), color2=("color3", "0.1, 0.2, 0.6"),
        uvtiling=("vector2", "5, 3"), uvoffset=("vector2", "0.2, 0.4"),
    )  # fmt: skip
    odd = (np.floor(U * 5 - 0.2) + np.floor(V * 3 - 0.4)) % 2 == 1
    wanted = np.where(odd[..., None], (0.8, 0.1, 0.1), (0.1, 0.2, 0.6))
    found = albedo(read(tmp_path, nodes))
    assert (np.abs(found - wanted).max(axis=2) < 0.01).mean() > 0.8  # the others lie across an edge


@pytest.mark.parametrize(
    ("category", "ends", "share"),
    [
        ("ramplr", ("valuel", "valuer"), U), ("ramptb", ("valueb", "valuet"), V),
        ("splitlr", ("valuel", "valuer"), U >= 0.3), ("splittb", ("valueb", "valuet"), V >= 0.3),
    ],
)  # fmt: skip
def test_ramps_and_splits_go_the_way_that_the_standard_has_them(category, ends, share, tmp_path):
    inputs = {ends[0]: ("color3", "0.1, 0.2, 0.3"), ends[1]: ("color3", "0.9, 0.6, 0.3")}
    if "split" in category:
        inputs["center"] = ("float", "0.3")
    low, high = np.array((0.1, 0.2, 0.3)), np.array((0.9, 0.6, 0.3))
    wanted = low + (high - low) * np.asarray(share, float)[..., None]
    found = albedo(read(tmp_path, node(category, **inputs)))
    assert (np.abs(found - wanted).max(axis=2) < 0.02).mean() > 0.95


def test_noise_has_its_range_and_its_size(tmp_path):
    """Perlin's, about a pivot: its mean is that, and it changes sign about as often as there are lattice cells."""
    nodes = (
        '<position name="p" type="vector3"/><multiply name="m" type="vector3"><input name="in1" type="vector3" '
        'nodename="p"/><input name="in2" type="float" value="8"/></multiply><noise3d name="n" type="float">'
        '<input name="amplitude" type="float" value="0.4"/><input name="pivot" type="float" value="0.5"/>'
        '<input name="position" type="vector3" nodename="m"/></noise3d>'
        '<convert name="c" type="color3"><input name="in" type="float" nodename="n"/></convert>'
    )
    found = albedo(read(tmp_path, nodes, "c"), 16)[..., 0]
    assert found.mean() == pytest.approx(0.5, abs=0.05) and 0.1 <= found.min() < 0.3 and 0.7 < found.max() <= 0.9
    crossings = (np.diff(np.sign(found - 0.5), axis=1) != 0).sum(axis=1).mean()
    assert 4 < crossings < 12


def test_what_is_done_to_a_pattern_is_done_to_its_values(tmp_path):
    """A mix of two colours by a ramp that is multiplied, raised to a power and turned over."""
    nodes = (
        node("ramplr", "float", "r", valuel=("float", "0"), valuer=("float", "1"))
        + '<multiply name="h" type="float"><input name="in1" type="float" nodename="r"/>'
        '<input name="in2" type="float" value="0.5"/></multiply>'
        '<invert name="i" type="float"><input name="in" type="float" nodename="h"/></invert>'
        '<mix name="n" type="color3"><input name="bg" type="color3" value="0.1, 0.1, 0.5"/>'
        '<input name="fg" type="color3" value="0.9, 0.5, 0.1"/><input name="mix" type="float" nodename="i"/></mix>'
    )
    bg, fg = np.array((0.1, 0.1, 0.5)), np.array((0.9, 0.5, 0.1))
    wanted = bg + (fg - bg) * (1 - 0.5 * U)[..., None]
    inner = slice(2, -2)
    assert albedo(read(tmp_path, nodes))[inner, inner] == pytest.approx(wanted[inner, inner], abs=0.01)


def test_a_noise_that_goes_below_0_mixes_nothing_there(tmp_path):
    """Half of Perlin's values are negative: a mix by them is cut at black, not bent from end to end."""
    nodes = (
        node("noise3d", "float", "k") + '<mix name="n" type="color3"><input name="bg" type="color3" value="0, 0, 0"/>'
        '<input name="fg" type="color3" value="0.8, 0.4, 0.2"/><input name="mix" type="float" nodename="k"/></mix>'
    )
    one = read(tmp_path, nodes).inputs["base_color"]
    places = np.array([stop.at for stop in one.ramp.stops])
    colors = np.array([stop.color for stop in one.ramp.stops])
    assert colors[places < 0.45].max() == 0 and colors[-1] == pytest.approx((0.8 * 0.982, 0.4 * 0.982, 0.2 * 0.982))


def test_channels_are_taken_apart_and_put_together(tmp_path):
    checks = node("checkerboard", name="k", color1=("color3", "0.8, 0.1, 0.3"), color2=("color3", "0.2, 0.6, 0.3"))
    apart = '<extract name="n" type="float"><input name="in" type="color3" nodename="k"/>' + (
        '<input name="index" type="integer" value="1"/></extract>'
    )
    one = read(tmp_path, checks + apart, "n", "specular_roughness", "float").inputs["specular_roughness"]
    assert [stop.color[0] for stop in one.ramp.stops] == pytest.approx([0.6, 0.1])


def test_a_mix_of_surfaces_by_a_pattern_is_a_layer_with_a_mask(tmp_path):
    body = (
        node("splitlr", "float", "k", valuel=("float", "0"), valuer=("float", "1"))
        + '<open_pbr_surface name="a" type="surfaceshader"><input name="base_color" type="color3" '
        'value="0.8, 0.1, 0.1"/></open_pbr_surface><open_pbr_surface name="b" type="surfaceshader">'
        '<input name="base_color" type="color3" value="0.1, 0.1, 0.8"/></open_pbr_surface>'
        '<mix name="s" type="surfaceshader"><input name="fg" type="surfaceshader" nodename="a"/>'
        '<input name="bg" type="surfaceshader" nodename="b"/><input name="mix" type="float" nodename="k"/></mix>'
        '<surfacematerial name="Two" type="material"><input name="surfaceshader" type="surfaceshader" nodename="s"/>'
        "</surfacematerial>"
    )
    found = foreign(tmp_path, body)
    ((lowest, over),) = found.materials
    scene, asset = scene_of(lowest)
    scene = scene.model_copy(update={"materials": scene.materials | over})
    shown = means(scene, asset, 4).albedo
    assert shown[32, 8] == pytest.approx((0.1, 0.1, 0.8), abs=0.01)
    assert shown[32, 56] == pytest.approx((0.8, 0.1, 0.1), abs=0.01)
