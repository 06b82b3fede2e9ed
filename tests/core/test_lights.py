"""Samplers of shapes and of the light tree against their own densities, and what the tree knows."""

import math
from dataclasses import replace

import numpy as np
import pytest
from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import address
from lantern.kernel.random import path_key, uniform
from lantern.light.emitters import build_emitters
from lantern.light.profiles import SOLID_PLANES, SOLID_POINTS, Profile, ProfileError, profile_solid, read_profile
from lantern.light.shapes import meet_shape, sample_shape, shape_pdf
from lantern.light.tree import Bounds, build_tree
from lantern.light.tree_kernels import LANE_BITS, WIDE, pick_light, pick_probability
from lantern.scene.lights import DiskLight, RectangleLight, SphereLight, TubeLight

SHAPES = {
    "rectangle": RectangleLight(name="l", position=(0.1, 0.6, 0.1), target=(0, 0, 0), width=0.7, height=0.4),
    "far rectangle": RectangleLight(name="l", position=(2, 6, 1), target=(0, 0, 0), width=0.3, height=0.4),
    "disk": DiskLight(name="l", position=(0.2, 0.5, 0), target=(0, 0, 0), radius=0.3),
    "sphere": SphereLight(name="l", position=(0.2, 0.5, 0), target=(0, 0, 0), radius=0.3),
    "tube": TubeLight(name="l", position=(0.2, 0.5, 0), target=(0, 0, 0), radius=0.1, length=0.8),
}


def emitters(*lights):
    return build_emitters([(light, 0, -1) for light in lights], [None] * len(lights), [], None)


@njit
def _histogram(row, p, count, bins):
    found, differing = np.zeros((bins, 2 * bins)), 0
    for i in range(count):
        key = path_key(i, 0, 9)
        wi, _, density = sample_shape(row, 0, p, uniform(key, 0), uniform(key, 1))
        if density > f32(0):
            hit, facing = meet_shape(row, 0, p, wi)
            if hit > f32(0):
                again = shape_pdf(row, 0, p, wi, hit, facing)
                differing += abs(again - density) > 0.02 * density
            column = min(int((np.arctan2(wi[2], wi[0]) / (2 * np.pi) + 0.5) * 2 * bins), 2 * bins - 1)
            found[min(int((wi[1] + 1) / 2 * bins), bins - 1), column] += 1
    return found, differing / count


@njit
def _expected(row, p, count, bins, fine):
    expected = np.zeros((bins, 2 * bins))
    for a in range(bins):
        for b in range(2 * bins):
            total = 0.0
            for i in range(fine):
                for j in range(fine):
                    y = (a + (i + 0.5) / fine) / bins * 2 - 1
                    phi = ((b + (j + 0.5) / fine) / (2 * bins) - 0.5) * 2 * np.pi
                    r = np.sqrt(1 - y * y)
                    wi = (f32(r * np.cos(phi)), f32(y), f32(r * np.sin(phi)))
                    hit, facing = meet_shape(row, 0, p, wi)
                    if hit > f32(0):
                        total += shape_pdf(row, 0, p, wi, hit, facing)
            expected[a, b] = total / fine**2 * (2 / bins) * (np.pi / bins) * count
    return expected


@pytest.mark.parametrize("name", SHAPES)
def test_points_on_a_shape_follow_their_density(name):
    """Chi-square of the directions towards a light against the density that rays which meet it are weighed by."""
    table = emitters(SHAPES[name]).lights
    row, p, count, bins = np.uint64(address(table)), (f32(0.05), f32(0), f32(-0.03)), 200_000, 24
    found, differing = _histogram(row, p, count, bins)
    expected = _expected(row, p, count, bins, 60)
    used = expected > 200
    # The edge of a light cuts through cells, and along a tube's the density has no bound: sums over cells have errors.
    blur = 0.05 if name == "tube" else 0.01
    chi_square = ((found[used] - expected[used]) ** 2 / (expected[used] + (blur * expected[used]) ** 2)).sum()
    freedom = used.sum() - 1
    assert chi_square < freedom + 6 * math.sqrt(2 * freedom) + 10
    assert found.sum() > 0.4 * count
    # Where a ray grazes a shape the meeting point is rounded, and so is its density.
    assert differing < 0.005


@njit
def _picks(nodes, shares, lights, p, n, weights, count, size):
    found, worst = np.zeros(size), 0.0
    for i in range(count):
        number, chance = pick_light(nodes, shares, p, n, True, uniform(path_key(i, 0, 2), 0), weights)
        if number >= 0:
            found[number] += 1
            worst = max(
                worst, abs(pick_probability(nodes, shares, lights, p, n, True, number, weights) - chance) / chance
            )
    return found, worst


def _scattered(count, reach):
    """Spheres of many powers, those far out further and further apart: such a tree is lopsided."""
    generator = np.random.default_rng(1)
    return [
        SphereLight(name=f"{i}", radius=0.01, target=(0, 0, 0), amount=float(generator.uniform(1, 50)),
              position=tuple(generator.uniform(-1, 1, 3) * reach ** (i / count)))
        for i in range(count)
    ]  # fmt: skip


@pytest.mark.parametrize(("count", "reach"), [(1, 1), (5, 1), (9, 1), (60, 1), (500, 1e4)])
def test_lights_are_picked_as_often_as_the_tree_says(count, reach):
    found = emitters(*_scattered(count, reach))
    p, n, draws = (f32(0.1), f32(-0.2), f32(0.3)), (f32(0), f32(1), f32(0)), 200_000
    weights = np.zeros(WIDE, np.float32)
    room = np.uint64(address(weights))
    tables = tuple(np.uint64(address(t)) for t in (found.nodes, found.shares, found.lights))
    picks, worst = _picks(*tables, p, n, room, draws, found.local)
    assert worst < 1e-4
    chances = np.array([pick_probability(*tables, p, n, True, i, room) for i in range(found.local)])
    assert chances.sum() == pytest.approx(1, abs=1e-4)
    used = chances * draws > 10
    chi_square = ((picks[used] - chances[used] * draws) ** 2 / (chances[used] * draws)).sum()
    assert chi_square < used.sum() + 6 * math.sqrt(2 * used.sum())


def _bounds(count, meshed, decades):
    generator = np.random.default_rng(2)
    centre = generator.uniform(-1, 1, (count, 3)) * 10 ** generator.uniform(-decades / 2, decades / 2, (count, 1))
    cluster, ones = np.where(np.arange(count) < meshed, 7, -1), np.ones(count)
    return Bounds(centre - 1e-4, centre + 1e-4, np.tile([0.0, 1, 0], (count, 1)), -ones, 0 * ones, ones, cluster)


def test_every_light_is_reached_by_its_trail():
    """Also in a lopsided tree, whose lights of one mesh share leaves; moving lights keep their trails."""
    bounds = _bounds(4000, 3000, decades=7)
    tree = build_tree(bounds)
    again = build_tree(replace(bounds, low=bounds.low + 1, high=bounds.high + 1), tree)
    assert (again.trails == tree.trails).all()
    _reaches_every_light(tree, 4000)


def test_the_lights_of_a_mesh_are_not_sorted_anew_when_lamps_come_and_go():
    bounds = _bounds(3100, 3000, decades=0)
    backwards = bounds.of(np.arange(3100)[::-1])
    tree = build_tree(bounds)
    fewer = build_tree(bounds.of(np.arange(3010)), tree)
    alone = build_tree(bounds.of(np.arange(3000)), fewer)
    more = build_tree(backwards, alone)
    assert tree.meshed is not None and all(each.meshed is tree.meshed for each in (fewer, alone, more))
    for each, count in ((tree, 3100), (fewer, 3010), (alone, 3000), (more, 3100), (build_tree(backwards), 3100)):
        _reaches_every_light(each, count)
    assert build_tree(bounds.of(np.arange(500, 3100)), more).meshed is not tree.meshed, "fewer triangles glow"


def _reaches_every_light(tree, count):
    assert sorted(tree.order) == list(range(count))
    for light, trail in enumerate(tree.trails):
        node, lane = 0, 0
        while (child := tree.nodes["child"][node, lane]) >= 0:
            node, lane, trail = child, trail & (WIDE - 1), trail >> LANE_BITS
        first = -1 - child
        assert trail == 0 and first <= light < first + tree.nodes["count"][node, lane]
    leaf_power = tree.nodes["power"][tree.nodes["count"] > 0]
    assert leaf_power.sum() == pytest.approx(count), "no light is in two leaves"


@pytest.mark.parametrize(
    ("text", "complaint"),
    [
        ("hello", "has no TILT line"),
        ("TILT=INCLUDE\n1 2", "only TILT=NONE"),
        ("TILT=NONE\n1 -1 1 2 1 1", "ends after 6 numbers"),
        ("TILT=NONE\n1 -1 1 2 1 3 2 0 0 0\n1 1 0\n0 90\n0\n1 1", "only C"),
        ("TILT=NONE\n1 -1 1 2 1 1 2 0 0 0\n1 1 0\n90 0\n0\n1 1", "do not rise"),
        ("TILT=NONE\n1 -1 1 2 1 1 2 0 0 0\n1 1 0\n0 90\n0\n1 -1", "negative"),
        ("TILT=NONE\n1 -1 1 two", "cannot be read"),
    ],
)
def test_bad_profiles_are_refused_with_a_reason(text, complaint):
    with pytest.raises(ProfileError, match=complaint):
        read_profile(text, "lamp.ies")


def test_the_solid_of_a_profile_shows_its_intensity_in_every_direction():
    """A cosine along the axis: a ball that touches the light (Lambert)."""
    theta = np.radians(np.arange(181.0))
    candela = np.repeat((300 * np.maximum(np.cos(theta), 0))[:, None], 73, axis=1).astype(np.float32)
    planes, largest = profile_solid(Profile(candela))
    assert largest == pytest.approx(300) and planes.shape == (SOLID_PLANES, SOLID_POINTS, 3)
    assert planes[:, 0] == pytest.approx(np.tile([0, 0, 1.0], (SOLID_PLANES, 1)))
    front = planes[:, :18]
    assert np.linalg.norm(front - [0, 0, 0.5], axis=-1) == pytest.approx(0.5, abs=1e-3)
    assert planes[0, 9, 0] > 0 and planes[SOLID_PLANES // 4, 9, 1] > 0, "across first, then along"
