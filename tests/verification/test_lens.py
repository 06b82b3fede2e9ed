"""The lens against the formulas of photography."""

import math

import numpy as np
import pytest
from numba import njit

from lantern.kernel.memory import address
from lantern.kernel.random import path_key, uniform
from lantern.rays.layout import CAMERA
from lantern.rays.lens import aperture_table, lens_point, seen_lens_point
from lantern.scene.document import Camera, CameraKey, Material, PartKey, Shutter
from lantern.scene.framing import focus_depths
from lantern.scene.lights import RectangleLight
from tests.core.shapes import WHITE, scene_of, sphere_mesh, square_mesh, traced

GLOW = Material(name="g", base_color=(0, 0, 0), emission_luminance=1000, specular_ior=1.0)


def _spread(film, axis=1):
    """Root mean square distance [pixels] of the light from its middle, along one axis."""
    light = film.means().radiance[..., 1].sum(axis=1 - axis, dtype=np.float64)
    x = np.arange(len(light))
    middle = (light * x).sum() / light.sum()
    return math.sqrt((light * (x - middle) ** 2).sum() / light.sum())


@pytest.mark.parametrize("distance", [0.8, 1.5, 3.0])
def test_circle_of_confusion(finding, distance):
    """A tiny light out of focus: c = A |d - s| / d · f / (s - f) on the sensor, A = f / N (thin lens).

    The picture plane of the camera lies at unit distance, so `f` alone takes the place of the image distance.
    """
    focal, number, focus, size = 0.1, 2.0, 1.0, 256
    camera = Camera(
        position=(0, 0, distance), target=(0, 0, 0), focal_length=100, f_number=number, focus_distance=focus
    )
    scene, asset = scene_of((sphere_mesh(0.004), GLOW), camera=camera)
    film = traced(scene, asset, 256, side=size)
    pixel = 0.036 / size
    blur = focal / number * abs(distance - focus) / distance * focal / focus / pixel
    # A uniform disk of diameter c has the standard deviation c / 4 along an axis; add the light's and the filter's.
    own = 0.004 / distance * focal / pixel
    expected = math.sqrt((blur / 4) ** 2 + (own / 2) ** 2 + 1 / 6)
    measured = _spread(film)
    finding(f"circle of confusion at {distance} m, focus {focus} m", "thin lens formula", measured, expected)
    assert measured == pytest.approx(expected, rel=0.03)


@njit
def _lens_counts(camera, aperture, count, side):
    found = np.zeros((side, side))
    for i in range(count):
        key = path_key(i, 0, 3)
        x, y = lens_point(camera, aperture, uniform(key, 0), uniform(key, 1))
        found[min(int((y + 1) / 2 * side), side - 1), min(int((x + 1) / 2 * side), side - 1)] += 1
    return found


@pytest.mark.parametrize(("blades", "roundness"), [(0, 0.0), (5, 0.0), (7, 0.5)])
def test_aperture_is_filled_evenly(finding, blades, roundness):
    """Chi-square of lens points over a grid against the area of each cell inside the rim."""
    row, side, count = CAMERA.zeros(1), 16, 400_000
    row["bladed"] = blades >= 3
    table = aperture_table(max(blades, 3), 15.0, roundness)
    found = _lens_counts(np.uint64(address(row)), np.uint64(address(table)), count, side)
    fine = 40
    x, y = np.meshgrid(*(((np.arange(side * fine) + 0.5) / (side * fine) * 2 - 1),) * 2)
    angle, radius = np.arctan2(y, x), np.hypot(x, y)
    if blades:
        corners = np.arctan2(table[:-1, 1], table[:-1, 0])
        order = np.argsort(corners)
        rim = np.interp(angle, corners[order], np.hypot(*table[:-1].T)[order], period=2 * np.pi)
    else:
        rim = np.ones_like(angle)
    area = (radius < rim).reshape(side, fine, side, fine).mean(axis=(1, 3))
    expected = area / area.sum() * count
    used = area > 0.98
    chi_square = ((found[used] - expected[used]) ** 2 / expected[used]).sum()
    freedom = used.sum() - 1
    finding(f"aperture of {blades or 'no'} blades, chi-square", "degrees of freedom", chi_square, freedom)
    assert abs(chi_square - freedom) < 5 * math.sqrt(2 * freedom)
    assert found[area == 0].sum() < 1e-4 * count


@njit
def _seen_points(camera, aperture, count, off_x, off_y, side):
    found = np.zeros((side, side))
    for i in range(count):
        key = path_key(i, 0, 5)
        u1, u2 = uniform(key, 0), uniform(key, 1)
        x, y = seen_lens_point(camera, aperture, u1, u2, np.float32(off_x), np.float32(off_y))
        found[min(int((y + 1) / 2 * side), side - 1), min(int((x + 1) / 2 * side), side - 1)] += 1
    return found


@pytest.mark.parametrize("off", [(0.5, 0.0), (-0.6, 0.7)])
def test_what_the_barrel_leaves_of_the_aperture_is_filled_evenly(finding, off):
    """Chi-square of lens points over a grid against the area of each cell within both rims."""
    row, side, count = CAMERA.zeros(1), 16, 400_000
    found = _seen_points(np.uint64(address(row)), np.uint64(0), count, *off, side)
    fine = 40
    x, y = np.meshgrid(*(((np.arange(side * fine) + 0.5) / (side * fine) * 2 - 1),) * 2)
    both = (np.hypot(x, y) < 1) & (np.hypot(x - off[0], y - off[1]) < 1)
    area = both.reshape(side, fine, side, fine).mean(axis=(1, 3))
    expected = area / area.sum() * count
    used = area > 0.98
    chi_square = ((found[used] - expected[used]) ** 2 / expected[used]).sum()
    freedom = used.sum() - 1
    finding(f"aperture behind a rim shifted by {off}, chi-square", "degrees of freedom", chi_square, freedom)
    assert abs(chi_square - freedom) < 5 * math.sqrt(2 * freedom)
    assert found[area == 0].sum() < 1e-3 * count


def test_a_squeezed_lens_draws_ovals(finding):
    camera = Camera(position=(0, 0, 3), target=(0, 0, 0), focal_length=100, f_number=2, focus_distance=1, squeeze=2)
    scene, asset = scene_of((sphere_mesh(0.004), GLOW), camera=camera)
    film = traced(scene, asset, 256, side=256)
    ratio = _spread(film, axis=1) / _spread(film, axis=0)
    finding("oval of a squeeze of 2, width to height", "1 / squeeze", 1 / ratio, 2.0)
    assert 1 / ratio == pytest.approx(2.0, rel=0.05)


@pytest.mark.parametrize(("tilt", "height"), [(60.0, 0.12), (-60.0, -0.12)])
def test_a_tilted_plane_of_focus_is_sharp_where_it_lies(finding, tilt, height):
    """A light above the axis is sharp at the depth at which the tilted plane passes its ray: 1/d = (1 + y' tan)/F."""
    focus = 1.0
    camera = Camera(
        position=(0, 0, 0), target=(0, 0, -1), focal_length=100, f_number=0.7, focus_distance=focus, focus_tilt=tilt
    )
    depth = focus / (1 + height * math.tan(math.radians(tilt)))

    def spread(at):
        scene, asset = scene_of((sphere_mesh(0.002), GLOW), camera=camera)
        matrix = (1, 0, 0, 0, 0, 1, 0, height * at, 0, 0, 1, -at)
        parts = {"p0": scene.parts["p0"].model_copy(update={"matrix": matrix})}
        return _spread(traced(scene.model_copy(update={"parts": parts}), asset, 128, side=256))

    there, level = spread(depth), spread(focus)
    finding(f"blur at the tilted plane ({tilt:.0f}°), of that at the distance [-]", "small", there / level, 0.0)
    assert there < 0.4 * level
    depths = focus_depths(camera, 256, 256)
    row = int((1 - height / 0.18) / 2 * 256)
    assert depths[row, 128] == pytest.approx(depth, rel=0.01)


def test_shift_moves_the_picture(finding):
    """A shift of 4 mm moves the picture by 4 mm of the sensor's 36."""

    def centre(shift):
        camera = Camera(position=(0, 0, 1), target=(0, 0, 0), focal_length=100, shift_x=shift)
        scene, asset = scene_of((sphere_mesh(0.01), GLOW), camera=camera)
        light = traced(scene, asset, 16, side=128).means().radiance[..., 1].sum(axis=0, dtype=np.float64)
        return (light * np.arange(128)).sum() / light.sum()

    moved = centre(0.0) - centre(4.0)
    finding("shift of 4 mm [pixels]", "4 / 36 of the width", moved, 128 * 4 / 36)
    assert moved == pytest.approx(128 * 4 / 36, rel=0.01)


def test_barrel_distortion_is_radial(finding):
    """Brown's first term: where the undistorted picture has r, the distorted one has r' with r = r' (1 + k r'²)."""
    k, side = 0.2, 256
    camera = Camera(position=(0, 0, 1), target=(0, 0, 0), focal_length=100, distortion=k)
    scene, asset = scene_of((sphere_mesh(0.004), GLOW), camera=camera)
    parts = {"p0": scene.parts["p0"].model_copy(update={"matrix": (1, 0, 0, 0.14, 0, 1, 0, 0, 0, 0, 1, 0)})}
    light = traced(scene.model_copy(update={"parts": parts}), asset, 16, side=side).means().radiance[..., 1]
    columns = light.sum(axis=0, dtype=np.float64)
    place = ((columns * np.arange(side)).sum() / columns.sum() + 0.5 - side / 2) / (side / 2)
    ideal = 0.14 * 100 / 18
    finding("distortion 0.2, radius", "Brown 1971", place * (1 + k * place**2), ideal)
    assert place * (1 + k * place**2) == pytest.approx(ideal, rel=0.005)


@pytest.mark.parametrize("mover", ["part", "camera", "mesh"])
def test_motion_blur_is_a_box(finding, mover):
    """Something small that crosses 60 mm at an even speed while the shutter is open: a uniform streak."""
    shutter = Shutter(time=0.5, opens=-0.25, closes=0.25)
    camera = Camera(position=(0, 0, 1), target=(0, 0, 0), focal_length=100)
    mesh = sphere_mesh(0.002)
    ends = ((-0.06, 0.0), (0.06, 1.0))  # twice as far in the whole second
    if mover == "mesh":
        from lantern.assets.mesh import Mesh, MeshShapes

        moved = np.stack([mesh.positions + np.float32([x, 0, 0]) for x, _ in ends])
        shapes = MeshShapes((0.0, 1.0), moved, np.stack([mesh.normals] * 2))
        mesh = Mesh(mesh.positions, mesh.indices, mesh.normals, None, None, shapes)
    if mover == "camera":
        keys = tuple(CameraKey(time=t, position=(-x, 0, 1), target=(-x, 0, 0)) for x, t in ends)
        camera = camera.model_copy(update={"keys": keys})
    scene, asset = scene_of((mesh, GLOW), camera=camera, shutter=shutter)
    if mover == "part":
        keys = tuple(PartKey(time=t, matrix=(1, 0, 0, x, 0, 1, 0, 0, 0, 0, 1, 0)) for x, t in ends)
        scene = scene.model_copy(update={"parts": {"p0": scene.parts["p0"].model_copy(update={"keys": keys})}})
    film = traced(scene, asset, 256, side=256)
    streak = 0.06 * 100 / 36 * 256
    expected = math.sqrt(streak**2 / 12 + (0.002 * 100 / 36 * 256 / 2) ** 2)
    measured = _spread(film)
    finding(f"streak of a moving {mover}, standard deviation", "box of its length", measured, expected)
    assert measured == pytest.approx(expected, rel=0.02)


def test_a_turning_part_keeps_its_light(finding):
    """A white ball that spins a quarter turn while the shutter is open looks like one at rest."""
    light = RectangleLight(name="l", position=(0, 1, 1), target=(0, 0, 0), width=1, height=1, unit="cd/m²", amount=9)
    camera = Camera(position=(0, 0, 1), target=(0, 0, 0), focal_length=100)
    scene, asset = scene_of((sphere_mesh(0.1), WHITE), camera=camera, lights=(light,))
    rest = traced(scene, asset, 128).means().radiance[24:40, 24:40].mean()
    keys = (
        PartKey(time=0, matrix=(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0)),
        PartKey(time=1, matrix=(0, 0, 1, 0, 0, 1, 0, 0, -1, 0, 0, 0)),
    )
    spun = scene.model_copy(
        update={
            "parts": {"p0": scene.parts["p0"].model_copy(update={"keys": keys})},
            "shutter": Shutter(time=0, opens=0, closes=1),
        }
    )
    moving = traced(spun, asset, 128).means().radiance[24:40, 24:40].mean()
    finding("spinning ball", "the ball at rest", moving, rest)
    assert moving == pytest.approx(rest, rel=0.01)


def test_the_plane_of_focus_is_sharp():
    camera = Camera(position=(0, 0, 1), target=(0, 0, 0), focal_length=100, f_number=1.0, focus_distance=1.0)
    scene, asset = scene_of((sphere_mesh(0.0004), GLOW), camera=camera)
    assert _spread(traced(scene, asset, 64, side=128)) < 1.0


def test_square_seen_from_above_has_its_size(finding):
    """Perspective: a square of 0.1 m at 1 m covers 0.1 · 100 / 36 of the width."""
    camera = Camera(position=(0, 1, 0.0001), target=(0, 0, 0), focal_length=100)
    scene, asset = scene_of((square_mesh(0.05), GLOW), camera=camera)
    lit = traced(scene, asset, 64, side=128).means().radiance[..., 1].sum(dtype=np.float64) / 1000
    finding("area of a square in the picture [pixels]", "perspective", lit, (0.1 * 100 / 36 * 128) ** 2)
    assert lit == pytest.approx((0.1 * 100 / 36 * 128) ** 2, rel=0.005)
