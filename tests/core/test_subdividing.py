"""Subdivision and displacement against values worked out by hand, splines in closed form, and themselves."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lantern.assets.cage import INFINITE, Cage, Channel
from lantern.assets.mesh import Mesh
from lantern.assets.textures import REPEAT, Texture
from lantern.compile.heights import heights
from lantern.scene.texture_use import TextureUse
from lantern.shaping.density import Density, Shaper, cage_of, creased
from lantern.shaping.displacing import Relief, sampled
from lantern.shaping.nets import loop_weight, net_of
from lantern.shaping.subdividing import cut, subdivided
from tests.core.shapes import box_mesh, sphere_mesh

SCHEMES = ["catmull_clark", "loop"]


def cube():
    """Of 2 m about its middle, six quadrangles; point number 7 is (1, 1, 1)."""
    points = np.array([[x, y, z] for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)], np.float32)
    faces = [[0, 1, 3, 2], [4, 6, 7, 5], [0, 4, 5, 1], [2, 3, 7, 6], [0, 2, 6, 4], [1, 5, 7, 3]]
    return Cage(points, np.full(6, 4), np.array(faces).ravel())


def grid(n, height=lambda x, y: 0 * x, square=True):
    """n x n quadrangles of 1 m, laid out along X and Z, with texture coordinates."""
    x, z = np.meshgrid(np.arange(n + 1.0), np.arange(n + 1.0), indexing="ij")
    points = np.stack([x, height(x, z), z], -1).reshape(-1, 3).astype(np.float32)
    i, j = np.meshgrid(np.arange(n), np.arange(n), indexing="ij")
    a = (i * (n + 1) + j).ravel()
    corners = np.stack([a, a + 1, a + n + 2, a + n + 1], -1).ravel()
    uv = Channel((points[:, [0, 2]] / n).astype(np.float32), corners)
    cage = Cage(points, np.full(n * n, 4), corners, (uv,))
    return cage if square else cut(cage)


def net(cage):
    return net_of(cage.counts, cage.corners, np.zeros(len(cage.corners)), np.zeros(len(cage.points), bool))


def stepped(cage, scheme="catmull_clark"):
    """Points after one step, where it puts them and not at their limit."""
    return getattr(net(cage), scheme)(cage.points.astype(np.float64))


def at(points, wanted, atol=1e-5):
    return np.isclose(points, wanted, atol=atol).all(axis=1).any()


def test_a_cube_steps_as_its_rules_say():
    points = stepped(cube())
    # (Q + 2 R + (n - 3) v) / n at a corner of three faces: 1/3, 2/3 and 1 along each axis.
    assert points[7] == pytest.approx([5 / 9] * 3)
    assert len(points) == 8 + 12 + 6 and at(points, [1, 0, 0]), "points of faces are their middles"
    # Ends (1, 1, ±1) and the middles of the faces beside: (1 + 1 + 1 + 0) / 4.
    assert at(points, [0.75, 0.75, 0])


def test_the_limit_of_a_cube_is_the_same_after_any_number_of_levels():
    for levels in (1, 2, 4):
        surface = subdivided(cube(), "catmull_clark", levels)
        # (9 v + 4 Σ ends + Σ opposite) / 24 with sums 1 and -1 along each axis.
        assert surface.points[7] == pytest.approx([0.5] * 3)
        assert len(surface.triangles) == 2 * 24 * 4 ** (levels - 1)


def test_a_regular_net_is_a_cubic_spline():
    cage = grid(6, lambda x, z: np.sin(x) * np.cos(2 * z))
    surface = subdivided(cage, "catmull_clark", 2)
    heights = cage.points[:, 1].reshape(7, 7).astype(np.float64)
    weights = np.array([1, 4, 1]) / 6
    for i, j in ((2, 2), (3, 4), (4, 3)):
        patch = heights[i - 1 : i + 2, j - 1 : j + 2]
        assert surface.points[i * 7 + j, 1] == pytest.approx(weights @ patch @ weights)
    # In the middle of a face the basis is (1, 23, 23, 1) / 48.
    basis = np.array([1, 23, 23, 1]) / 48
    expected = basis @ heights[1:5, 2:6] @ basis
    assert at(surface.points, [2.5, expected, 3.5])


def test_a_regular_net_of_triangles_has_loops_limit():
    # The triangular net that the affine image of a regular hexagonal one is: all inner vertices have six neighbours.
    cage = grid(6, lambda x, z: np.sin(x + z * z), square=False)
    surface = subdivided(cage, "loop", 3)
    inner = net(cage)
    around = inner.across(cage.points.astype(np.float64))
    for number in (2 * 7 + 3, 4 * 7 + 4):
        assert inner.valence[number, 0] == 6 and loop_weight(np.array(6.0)) == pytest.approx(1 / 16)
        assert surface.points[number] == pytest.approx(cage.points[number] / 2 + around[number] / 12)


@pytest.mark.parametrize("scheme", SCHEMES)
@pytest.mark.parametrize("crease", [None, 60.0])
def test_what_a_level_finds_lies_on_the_surface_of_the_next(scheme, crease):
    cage = cage_of(box_mesh((-1, -1, -1), (1, 2, 1)), quads=True)
    cage = cage if crease is None else creased(cage, crease)
    coarse, fine = subdivided(cage, scheme, 1), subdivided(cage, scheme, 3)
    assert np.allclose(fine.points[: len(coarse.points)], coarse.points), "proof and print show one surface"


@pytest.mark.parametrize("scheme", SCHEMES)
def test_a_flat_sheet_stays_flat_fills_its_square_and_keeps_its_coordinates(scheme):
    mesh = subdivided(grid(3), scheme, 3).mesh()
    assert np.abs(mesh.positions[:, 1]).max() < 1e-6
    assert mesh.positions.min(axis=0) == pytest.approx([0, 0, 0], abs=1e-6)
    assert mesh.positions.max(axis=0) == pytest.approx([3, 0, 3])
    corners = mesh.positions[mesh.indices].astype(np.float64)
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1).sum() / 2
    # Corners of one face stay; those that a cut has made two triangles of are round, as the rule is by faces.
    assert area == pytest.approx(9, rel=1e-6 if scheme == "catmull_clark" else 0.03), "and no face turns over"
    # Points move inwards along the edges of the sheet; coordinates are subdivided by the same rules, so both agree.
    assert mesh.uvs[0] * 3 == pytest.approx(mesh.positions[:, [0, 2]], abs=1e-5)
    assert mesh.normals == pytest.approx(np.tile(np.sign(mesh.normals[0]), (len(mesh.normals), 1)), abs=1e-5)


@pytest.mark.parametrize("scheme", SCHEMES)
def test_a_sphere_stays_nearly_round_and_closed(scheme):
    mesh = Shaper(sphere_mesh(1.0, 16)).shaped(Density(scheme, 2), None, [], heights)
    radius = np.linalg.norm(mesh.positions, axis=1)
    assert radius.min() > 0.93 and radius.max() < 1.0 + 1e-6, "inside the hull of what it is made from"
    assert np.einsum("ni,ni->n", mesh.normals, mesh.positions / radius[:, None]).min() > 0.99
    edges = net(cage_of(mesh, quads=False)).around_edge
    assert (edges == 2).all()


def test_an_edge_that_is_always_sharp_is_a_spline_of_its_own():
    top = np.array([[2, 3], [3, 7], [7, 6], [6, 2]])
    cage = replace(cube(), creases=top, sharpness=np.full(4, INFINITE))
    surface = subdivided(cage, "catmull_clark", 3)
    # (1, 4, 1) / 6 of the corners of a square: 1 · 4/6 + (1 - 1) / 6 along X and Z, in the plane of the top.
    assert surface.points[7] == pytest.approx([2 / 3, 1, 2 / 3])
    assert (surface.points[:, 1] > 1 - 1e-9).sum() > 4
    mesh = surface.mesh()
    rim = np.isclose(mesh.positions, [2 / 3, 1, 2 / 3], atol=1e-5).all(axis=1)
    assert rim.sum() == 2, "normals differ on both sides of it"


def test_an_edge_of_sharpness_one_is_sharp_for_one_step():
    top = np.array([[2, 3], [3, 7], [7, 6], [6, 2]])
    once = replace(cube(), creases=top, sharpness=np.ones(4))
    always = replace(once, sharpness=np.full(4, INFINITE))
    first = subdivided(always, "catmull_clark", 1)
    # Its cage after that step, smooth from there on.
    after = net_of(
        always.counts, always.corners, np.where(np.isin(np.arange(24), _top_corners(always)), np.inf, 0.0),
        np.zeros(8, bool),
    )  # fmt: skip
    points, quads = after.catmull_clark(always.points.astype(np.float64)), after.quartered_quads()
    smooth = Cage(points.astype(np.float32), np.full(24, 4), quads.corners)
    found = [subdivided(once, "catmull_clark", 3).points, subdivided(smooth, "catmull_clark", 2).points]
    # The same points, whose numbers are their own business.
    apart = np.linalg.norm(found[0][:, None] - found[1], axis=2)
    assert max(apart.min(axis=0).max(), apart.min(axis=1).max()) < 1e-6
    assert not np.allclose(subdivided(once, "catmull_clark", 1).points, first.points)


def _top_corners(cage):
    """Corners from which an edge between two points of the top begins."""
    following = net(cage).following
    return [c for c in range(24) if {cage.corners[c], cage.corners[following[c]]} <= {2, 3, 6, 7}]


def test_texture_coordinates_keep_to_their_seams():
    """A tube: its coordinates end where they begin, and meet there without being blended."""
    n = 8
    turns = 2 * np.pi * np.arange(n) / n
    ring = np.column_stack([np.cos(turns), np.zeros(n), np.sin(turns)])
    points = np.concatenate([ring + np.array([0, y, 0]) for y in range(3)]).astype(np.float32)
    i = np.arange(n)
    faces, uv_faces = [], []
    for row in (0, 1):
        faces.append(
            np.column_stack([row * n + i, row * n + (i + 1) % n, (row + 1) * n + (i + 1) % n, (row + 1) * n + i])
        )
        uv_faces.append(np.column_stack([row * 9 + i, row * 9 + i + 1, row * 9 + i + 10, row * 9 + i + 9]))
    uv = np.array([[u / n, row / 2] for row in range(3) for u in range(n + 1)], np.float32)
    cage = Cage(
        points, np.full(2 * n, 4), np.concatenate(faces).ravel(), (Channel(uv, np.concatenate(uv_faces).ravel()),)
    )
    mesh = subdivided(cage, "catmull_clark", 3).mesh()
    assert (mesh.uvs.min(), mesh.uvs.max()) == (pytest.approx(0, abs=1e-6), pytest.approx(1))
    # Round the tube coordinates follow the angle: nothing is drawn across the seam.
    angle = np.mod(np.arctan2(mesh.positions[:, 2], mesh.positions[:, 0]) / (2 * np.pi), 1.0)
    off = np.abs(mesh.uvs[0, :, 0] - angle)
    assert np.minimum(off, 1 - off).max() < 0.03
    span = np.ptp(mesh.uvs[0][mesh.indices][..., 0], axis=1)
    assert span.max() < 1.6 / (n * 8)


def test_faces_that_were_cut_are_found_again():
    whole = grid(5, lambda x, z: 0.1 * np.sin(x))
    threes = cut(whole)
    mesh = Mesh(
        whole.points, threes.corners.reshape(-1, 3).astype(np.uint32), np.tile([0.0, 1, 0], (36, 1)), None, None
    )
    cage = cage_of(mesh, quads=True)
    assert (cage.counts == 4).all() and len(cage.counts) == 25
    found = {frozenset(map(tuple, face)) for face in cage.points[cage.corners].reshape(-1, 4, 3).tolist()}
    wanted = {frozenset(map(tuple, face)) for face in whole.points[whole.corners].reshape(-1, 4, 3).tolist()}
    assert found == wanted
    box = cage_of(box_mesh((0, 0, 0), (1, 2, 3)), quads=True)
    assert (box.counts == 4).all() and len(box.counts) == 6 and len(box.points) == 8


@settings(max_examples=40)
@given(st.integers(0, 2**32 - 1), st.sampled_from(SCHEMES), st.integers(1, 2))
def test_any_triangles_whatever_make_numbers(seed, scheme, levels):
    random = np.random.default_rng(seed)
    points = random.normal(size=(random.integers(3, 12), 3)).astype(np.float32)
    faces = random.integers(0, len(points), (random.integers(1, 20), 3)).astype(np.uint32)
    mesh = Mesh(points, faces, np.tile(np.float32([0, 1, 0]), (len(points), 1)), None, None)
    made = Shaper(mesh).shaped(Density(scheme, levels, random.choice([None, 40.0])), None, [], heights)
    assert np.isfinite(made.positions).all() and np.isfinite(made.normals).all()
    reach = np.abs(points).max() * 3
    assert np.abs(made.positions).max(initial=0) < reach


# Displacement

WAVES = Texture(np.full((4, 4, 1), 255, np.uint8), REPEAT, REPEAT)


def flat(n=2):
    cage = grid(n)
    return Mesh(
        cage.points, cut(cage).corners.reshape(-1, 3).astype(np.uint32),
        np.tile(np.float32([0, 1, 0]), (len(cage.points), 1)), cage.uvs[0].values[None], None,
    )  # fmt: skip


FINE = Density("catmull_clark", 4)


def lifted(texture, mesh=None, density=FINE, **relief):
    fields = {"texture": TextureUse(texture=0), "height": 0.5, "middle": 0.0, "along": "normal"} | relief
    return Shaper(mesh or flat()).shaped(density, Relief(**fields), [texture], heights)


def test_white_lifts_by_the_height_along_the_normal_and_the_middle_stays():
    up = np.sign(Shaper(flat()).shaped(Density("catmull_clark", 1), None, [], heights).normals[0, 1])
    assert lifted(WAVES).positions[:, 1] == pytest.approx(0.5 * up)
    assert lifted(WAVES, middle=1.0).positions[:, 1] == pytest.approx(0)
    assert lifted(WAVES, middle=0.25, height=-2.0).positions[:, 1] == pytest.approx(-1.5 * up)


def test_normals_are_those_of_the_moved_surface():
    ramp = Texture(np.linspace(0, 1, 256, dtype=np.float32)[None, :, None].repeat(4, 0), 1, 1)
    mesh = lifted(ramp, height=2.0)
    inner = (mesh.uvs[0, :, 0] > 0.05) & (mesh.uvs[0, :, 0] < 0.95)
    # A slope of 1: from 0 to 2 m over 2 m.
    assert np.abs(mesh.normals[inner][:, 0]) == pytest.approx(0.5**0.5, abs=0.01)
    assert np.abs(mesh.normals[inner][:, 1]) == pytest.approx(0.5**0.5, abs=0.01)


def test_a_vector_moves_along_the_axes_of_the_mesh():
    texels = np.tile(np.float32([1.0, 0.5, 0.25]), (2, 2, 1))
    before, after = (lifted(Texture(texels, 1, 1), along="vector", height=h) for h in (0.0, 2.0))
    assert after.positions - before.positions == pytest.approx(np.tile([2, 1, 0.5], (len(before.positions), 1)))


def test_a_surface_stays_whole_along_its_seams():
    noise = Texture(np.random.default_rng(1).random((16, 16, 1), np.float32), REPEAT, REPEAT)
    mesh = lifted(noise, sphere_mesh(1.0, 12), Density("loop", 2), height=0.1)
    assert (net(cage_of(mesh, quads=False)).around_edge == 2).all()


def test_texels_are_blended_as_the_renderer_blends_them():
    texels = np.array([[0.0, 1.0], [2.0, 3.0]], np.float32)[..., None]
    uv = np.array([[0.25, 0.25], [0.5, 0.25], [0.5, 0.5], [0.0, 0.25], [0.0, 0.0]])
    repeated = sampled(Texture(texels, REPEAT, REPEAT), TextureUse(texture=0), uv)[:, 0]
    assert repeated == pytest.approx([0, 0.5, 1.5, 0.5, 1.5])
    clamped = sampled(Texture(texels, 1, 1), TextureUse(texture=0), uv)[:, 0]
    assert clamped == pytest.approx([0, 0.5, 1.5, 0, 0])
    assert sampled(Texture(np.full((1, 1, 1), 51, np.uint8), 1, 1), TextureUse(texture=0), uv)[0, 0] == pytest.approx(
        0.2
    )
