"""Ways of looking, picking: against closed forms and against the path tracer."""

import numpy as np
import pytest

from lantern.assets.mesh import Mesh
from lantern.compile.view import LABELS, View, Way
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.light.prefilter import ROUGHNESSES, prefiltered
from lantern.picture.false_colour import DECADE_LINE, LightScale, false_colour, light_scale, with_isolines
from lantern.scene.document import Camera, Material
from lantern.scene.framing import DIRECTIONS, fit_camera, places_in_picture, point_at_depth
from lantern.scene.lights import PointLight
from lantern.scene.surroundings import Environment, Ground
from tests.core.shapes import no_files, one_part, sphere_mesh

WIDTH, HEIGHT = 64, 40
FRONT = Camera(position=(0, 0, 4), target=(0, 0, 0), focal_length=50)


def wall(half_width: float) -> Mesh:
    """A square that faces +Z."""
    positions = np.array([[-1, -1, 0], [1, -1, 0], [1, 1, 0], [-1, 1, 0]], np.float32) * half_width
    normals = np.tile(np.array([[0, 0, 1]], np.float32), (4, 1))
    return Mesh(positions, np.array([[0, 1, 2], [0, 2, 3]], np.uint32), normals, None, None)


def opened(shape, material=None, **sections) -> Engine:
    """An engine with one part under even light."""
    scene, asset = one_part(material or Material(name="m", base_color=(0.5, 0.5, 0.5)), shape)
    update = {"camera": FRONT, "ground": Ground(enabled=False)} | sections
    engine = Engine(2)
    engine.open(scene.model_copy(update=update), no_files, asset)
    return engine


def look(engine: Engine, way: Way, samples: int = 4, camera: Camera | None = None, **more) -> Film:
    film = Film(WIDTH, HEIGHT)
    engine.trace(film, samples, view=View(camera or engine.scene.camera, way, **more))
    return film


def middle(film: Film) -> np.ndarray:
    return film.radiance()[HEIGHT // 2 - 2 : HEIGHT // 2 + 2, WIDTH // 2 - 2 : WIDTH // 2 + 2].mean((0, 1))


def test_every_way_has_a_label_and_a_picture():
    assert set(LABELS) == set(Way)
    engine = opened(sphere_mesh(1.0))
    pictures = {}
    for way in Way:
        film = look(engine, way)
        assert np.isfinite(film.radiance()).all() and film.samples == 4, way
        pictures[way] = film.radiance()
    for way in (Way.DRAFT, Way.NORMALS, Way.DEPTH, Way.PARTS, Way.SPHERE, Way.CHECKER):
        assert np.abs(pictures[way] - pictures[Way.PROOF]).mean() > 0.01, way
    assert (pictures[Way.LUMINANCE] == pictures[Way.PROOF]).all(), "false colour shows the proof's own light"
    engine.close()


def test_normals_face_the_camera_where_the_sphere_does():
    engine = opened(sphere_mesh(1.0))
    film = look(engine, Way.NORMALS, 16)
    assert film.means().normal[HEIGHT // 2, WIDTH // 2] == pytest.approx([0, 0, 1], abs=0.1)
    assert np.sqrt(middle(film)) == pytest.approx([0.5, 0.5, 1.0], abs=0.03), "encoded as half plus half"
    engine.close()


def test_depth_is_light_near_and_dark_far():
    engine = opened(sphere_mesh(1.0))
    shown = look(engine, Way.DEPTH).radiance()[..., 0]
    row = shown[HEIGHT // 2]
    edge = np.flatnonzero(row > 0.06)[1]
    assert row[WIDTH // 2] > row[edge] > 0.06
    engine.close()


def test_occlusion_of_a_free_plane_is_none_and_of_a_cleft_much():
    engine = opened(wall(2.0))
    assert middle(look(engine, Way.OCCLUSION, 32)) == pytest.approx([0.9] * 3, abs=1e-6)
    engine.close()
    engine = opened(sphere_mesh(1.0), ground=Ground(height=-1.0))
    low = look(engine, Way.OCCLUSION, 64, Camera(position=(0, 0.2, 6), target=(0, -0.5, 0), focal_length=40))
    picture = low.radiance()[..., 0]
    column = picture[:, WIDTH // 2]
    assert column[HEIGHT // 3] > 0.8 and column.min() < 0.45, "dark where ball and ground meet"
    engine.close()


@pytest.mark.parametrize(
    ("color", "metal", "mark"),
    [
        ((0.5, 0.4, 0.3), 0.0, None),
        ((0.97, 0.97, 0.97), 0.0, "bright"),
        ((0.005, 0.005, 0.005), 0.0, "dark"),
        ((0.2, 0.2, 0.2), 1.0, "dark"),
        ((0.95, 0.93, 0.88), 1.0, None),
    ],
)
def test_albedo_check_marks_what_no_surface_has(color, metal, mark):
    engine = opened(wall(2.0), Material(name="m", base_color=color, base_metalness=metal))
    r, g, b = middle(look(engine, Way.ALBEDO))
    engine.close()
    if mark is None:
        assert r == pytest.approx(g) == pytest.approx(b)
    else:
        assert (b > 2 * r) if mark == "dark" else (r > 2 * g)


def test_clay_keeps_light_and_form_but_no_material():
    colored = opened(sphere_mesh(1.0), Material(name="m", base_color=(0.9, 0.05, 0.05), base_metalness=1.0))
    grey = opened(sphere_mesh(1.0), Material(name="m", base_color=(0.4, 0.4, 0.4), base_diffuse_roughness=1.0,
                                        specular_roughness=0.6))  # fmt: skip
    found, wanted = middle(look(colored, Way.CLAY, 256)), middle(look(grey, Way.PROOF, 256))
    assert found == pytest.approx(wanted, rel=0.02)
    # And the material is back when one looks at the proof again.
    r, g, _ = middle(look(colored, Way.PROOF, 64))
    assert r > 3 * g
    colored.close()
    grey.close()


def test_a_draft_of_a_matt_plane_is_exact_and_of_a_mirror_nearly():
    """Even light L: a matt plane shows albedo · L, a perfect mirror L, whatever its roughness."""
    matt = opened(wall(2.0), Material(name="m", base_color=(0.5, 0.5, 0.5), specular_weight=0.0))
    assert middle(look(matt, Way.DRAFT, 512)) == pytest.approx([0.5] * 3, rel=0.03)
    matt.close()
    for roughness in (0.05, 0.3, 0.9):
        metal = Material(name="m", base_color=(1, 1, 1), base_metalness=1.0, specular_roughness=roughness)
        mirror = opened(wall(2.0), metal, environment=Environment(intensity=2.0))
        assert middle(look(mirror, Way.DRAFT, 16)) == pytest.approx([2.0] * 3, rel=0.03), roughness
        mirror.close()


def test_a_draft_sees_a_light_and_its_shadow():
    light = PointLight(name="l", position=(0.4, 0.4, 2), target=(0, 0, 0), amount=200)
    lit = opened(wall(2.0), environment=Environment(intensity=0.0), lights={"l": light})
    assert middle(look(lit, Way.DRAFT, 64)) == pytest.approx(middle(look(lit, Way.PROOF, 256)), rel=0.05)
    lit.close()


def test_blurred_maps_keep_even_light_and_spread_a_bright_spot():
    even = prefiltered(np.full((32, 64, 3), 1.5, np.float32))
    assert even == pytest.approx(np.full(even.shape, 1.5), rel=1e-5)
    spot = np.zeros((64, 128, 3), np.float32)
    spot[20, 40] = 100
    levels = prefiltered(spot)
    peaks = [level[..., 0].max() for level in levels]
    assert peaks == sorted(peaks, reverse=True) and len(levels) == len(ROUGHNESSES)
    assert np.unravel_index(levels[0][..., 0].argmax(), (64, 128)) == (20, 40)


def test_wires_run_along_edges_alone():
    engine = opened(wall(2.0))
    alpha = look(engine, Way.PROOF, 16, wires=True).means().alpha
    engine.close()
    # The square's diagonal crosses the middle; a quarter off it there is none.
    assert alpha[HEIGHT // 2, WIDTH // 2] > 0.2
    assert alpha[HEIGHT // 2, WIDTH // 2 + 5] == 0 and alpha[HEIGHT // 2, WIDTH // 2 - 5] == 0


def test_an_orthographic_picture_is_as_wide_as_the_perspective_one_at_its_target():
    flat = FRONT.model_copy(update={"projection": "orthographic"})
    engine = opened(wall(1.0))
    wide = [look(engine, Way.NORMALS, 1, c).parts()[HEIGHT // 2] >= 0 for c in (FRONT, flat)]
    assert abs(int(wide[0].sum()) - int(wide[1].sum())) <= 1
    # Twice as far away it is as large as before.
    far = flat.model_copy(update={"position": (0, 0, 8), "focal_length": 100.0})
    assert abs(int((look(engine, Way.NORMALS, 1, far).parts()[HEIGHT // 2] >= 0).sum()) - int(wide[1].sum())) <= 1
    engine.close()


@pytest.mark.parametrize("side", DIRECTIONS)
def test_a_camera_from_the_side_sees_the_whole_box(side):
    low, high = np.array([-1.0, -2.0, -0.5]), np.array([1.0, 2.0, 3.0])
    camera = fit_camera(FRONT, low, high, 1.6, keep_direction=True, side=side)
    backwards = np.subtract(camera.position, camera.target)
    assert camera.projection == "orthographic"
    assert backwards / np.linalg.norm(backwards) == pytest.approx(DIRECTIONS[side])
    half = np.linalg.norm(backwards) * camera.sensor_width / (2 * camera.focal_length)
    size = (high - low)[[axis for axis in range(3) if not DIRECTIONS[side][axis]]]
    assert half * 2 >= size.min() and np.linalg.norm(backwards) > (high - low)[np.argmax(DIRECTIONS[side])] / 2


@pytest.mark.parametrize("projection", ["perspective", "orthographic"])
def test_picking_finds_the_exact_point(projection):
    camera = Camera(
        position=(1, 0.5, 4), target=(0, 0, 0), focal_length=60, shift_x=2, distortion=0.1, f_number=1.4,
        focus_distance=1, projection=projection,
    )  # fmt: skip
    engine = opened(sphere_mesh(1.0, 256), camera=camera)
    for x, y in ((0.5, 0.5), (0.4, 0.62), (0.55, 0.35)):
        found = engine.pick(camera, 1.6, x, y)
        assert found is not None and found.part == "part"
        assert np.linalg.norm(found.position) == pytest.approx(1.0, abs=2e-3), "on the ball"
        assert np.dot(found.normal, found.position) == pytest.approx(1.0, abs=5e-3)
        again = point_at_depth(camera, 1.6, x, y, found.depth)
        assert again == pytest.approx(found.position, abs=1e-3)
        places, depths = places_in_picture(camera, 1.6, np.array([found.position]))
        assert places[0] == pytest.approx((x, y), abs=1e-4) and depths[0] == pytest.approx(found.depth, abs=1e-4)
    assert engine.pick(camera, 1.6, 0.01, 0.01) is None
    engine.close()


def test_what_is_within_a_rectangle_is_found_though_passes_were_to_give_way():
    camera = Camera(position=(0, 0, 4), target=(0, 0, 0), focal_length=60)
    engine = opened(sphere_mesh(1.0, 256), camera=camera)
    engine.cancel()
    assert engine.parts_within(camera, 1.6, (0.6, 0.6, 0.4, 0.4)) == ("part",), "drawn from right to left"
    assert engine.parts_within(camera, 1.6, (0, 0, 0.05, 0.05)) == ()
    assert engine.parts_within(camera, 1.6, (1, 1, 1, 1)) == (), "of no size"
    engine.close()


# False colour


def test_false_colour_reads_back_on_its_scale():
    scale = LightScale(-2, 2)
    ramp = np.logspace(-2, 2, 100, dtype=np.float32)[None, :]
    shown = false_colour(ramp, scale).astype(int)[0]
    lightness = shown @ np.array([0.2126, 0.7152, 0.0722])
    assert (np.diff(lightness) >= -1).all() and lightness[-1] > lightness[0] + 150, "brighter is lighter, all the way"
    ticks = scale.ticks()
    assert [value for value, _ in ticks] == pytest.approx([0.01, 0.1, 1, 10, 100])
    middle_tick = tuple(int(ticks[2][1][i : i + 2], 16) for i in (1, 3, 5))
    one = false_colour(np.ones((1, 1), np.float32), scale)[0, 0]
    assert tuple(int(v) for v in one) == pytest.approx(middle_tick, abs=2)


def test_the_scale_holds_the_picture():
    generator = np.random.default_rng(2)
    picture = generator.lognormal(0.0, 1.0, (50, 50)).astype(np.float32)
    scale = light_scale(picture)
    assert 10.0**scale.low <= np.percentile(picture, 2) and 10.0**scale.high >= np.percentile(picture, 99)
    assert light_scale(np.zeros((4, 4), np.float32)) == LightScale(-1, 1)


def test_isolines_run_where_the_light_passes_their_values():
    ramp = np.repeat(np.logspace(-1, 1, 201, dtype=np.float32)[None, :], 4, 0)
    scale = light_scale(ramp)
    plain = false_colour(ramp, scale)
    lined = with_isolines(plain, ramp, scale)
    crossings = np.flatnonzero((lined != plain).any(axis=2)[0])
    assert ramp[0][crossings] == pytest.approx([0.2, 0.5, 1, 2, 5], rel=0.05)
    strong = (lined[0] == DECADE_LINE).all(axis=1)
    assert ramp[0][strong] == pytest.approx([1.0], rel=0.05)
    upright = with_isolines(plain.transpose(1, 0, 2), ramp.T, scale)
    assert (upright == lined.transpose(1, 0, 2)).all(), "lines across as well as upright"
