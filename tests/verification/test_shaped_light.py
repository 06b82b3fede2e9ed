"""What shapes light, against closed forms and brute force: grids, doors, gates, cards, turned maps, thinning air."""

import math

import numpy as np
import pytest

from lantern.color import encode_srgb
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.light.cards import paint, with_rows
from lantern.light.environment import turning
from lantern.light.light_row import blackbody
from lantern.light.shaping import gate_image
from lantern.picture.stills import write_png
from lantern.scene.compass import direction_of
from lantern.scene.document import Camera, Material
from lantern.scene.lights import BarnDoors, DiskLight, PointLight, RectangleLight, SpotLight
from lantern.scene.model import FileRef
from lantern.scene.surroundings import FREE_PATHS_OF_SIGHT, Backdrop, Box, Card, Environment, Ground, Haze
from tests.core.shapes import WHITE, one_part, scene_of, spot_radiance, square_mesh, traced
from tests.verification.test_lights import PATCH, TABLE, L, irradiance


def small_lamp(**fields):
    """A lamp of 4 mm that hangs 1 m above the place `at` and shines straight down."""
    x = fields.pop("at", 0.0)
    return DiskLight(name="l", position=(x, 1.0, 0), target=(x, 0, 0), radius=0.002, unit="cd/m²", amount=1e6, **fields)


@pytest.mark.parametrize("aside", [0.0, 0.2, 0.5, 0.7])
def test_a_grid_lets_out_what_passes_its_cells(finding, aside):
    """E = L A cos⁴ θ / h² times 1 - tan θ / tan γ."""
    grid = 40.0
    theta = math.atan(aside)
    bare = 1e6 * math.pi * 0.002**2 * math.cos(theta) ** 4
    expected = bare * max(1 - math.tan(theta) / math.tan(math.radians(grid)), 0.0)
    measured, error = irradiance((small_lamp(at=aside, grid=grid),), 256)
    finding(f"lamp behind a grid of 40°, {math.degrees(theta):.0f}° off its axis", "closed form", measured, expected)
    # The few millimetres that are looked at are not all straight below.
    assert measured == pytest.approx(expected, rel=0.01 + 4 * error, abs=1e-6)


@pytest.mark.parametrize(("opening", "share"), [(90.0, 1.0), (45.0, 1.0), (0.0, 0.875), (-60.0, None)])
def test_a_barn_door_cuts_where_it_stands(finding, opening, share):
    """A lamp 0.2 m square, 1 m above and 0.2 m to the side of a place, with one door towards that place.

    The door stands straight ahead (0°): a ray from x on the lamp leaves it if it passes the end of the door. That end
    is 0.2 m ahead at x = -0.1; the place is 1 m ahead at x = -0.2, so a ray is at x - 0.2 (0.2 + x) there: all from
    x > -0.075 pass, seven eighths. Closed further, the share is counted.
    """
    doors = BarnDoors(upper=90, lower=90, left=opening, right=opening)
    lamp = RectangleLight(
        name="l", position=(0.2, 1.0, 0), target=(0.2, 0, 0), width=0.2, height=0.2, unit="cd/m²", amount=L, doors=doors
    )
    whole, _ = irradiance((lamp.model_copy(update={"doors": None}),), 256)
    measured, error = irradiance((lamp,), 1024)
    rng = np.random.default_rng(5)
    x, z = rng.uniform(-0.1, 0.1, (2, 400_000))
    a = math.radians(opening)
    slope = -0.2 - x  # a metre down, towards the place at -0.2 from the lamp's middle
    left = slope * -1
    passes = ~((left * math.cos(a) > math.sin(a)) & (0.1 + x <= 0.2 * (left * math.cos(a) - math.sin(a))))
    weight = 1 / (1 + slope**2 + z**2) ** 2
    expected = whole * float((weight * passes).sum() / weight.sum())
    if share is not None:
        assert (weight * passes).sum() / weight.sum() == pytest.approx(share, abs=0.02)
    finding(f"barn door at {opening:g}°", "rays counted", measured, expected, error)
    assert measured == pytest.approx(expected, rel=0.01 + 4 * error)


def test_the_mirror_and_the_camera_agree_on_a_shaped_lamp():
    """A rectangle with grid and doors is aimed at, met by a mirror, and seen: all show the same light."""
    lamp = RectangleLight(
        name="l", position=(0, 0.5, 0), target=(0, 0, 0), width=0.3, height=0.3, unit="cd/m²", amount=L, grid=60.0,
        doors=BarnDoors(upper=20, lower=60, left=10, right=30), seen_by_camera=True,
    )  # fmt: skip
    mirror = Material(name="m", base_metalness=1.0, base_color=(1, 1, 1), specular_roughness=0.0)
    scene, asset = scene_of((square_mesh(0.3), mirror), camera=TABLE, lights=(lamp,))
    mirrored, _ = spot_radiance(traced(scene, asset, 256), 12)
    below = Camera(position=(0, 0.0001, 0), target=(0, 1, 0.0001), focal_length=800)
    scene, asset = scene_of((square_mesh(0.001), mirror), camera=below, lights=(lamp,))
    parts = {key: part.model_copy(update={"visible": False}) for key, part in scene.parts.items()}
    seen, _ = spot_radiance(traced(scene.model_copy(update={"parts": parts}), asset, 64), 12)
    assert seen[1] == pytest.approx(L, rel=0.02), "straight ahead nothing is stopped"
    assert mirrored[1] == pytest.approx(L, rel=0.03)


def test_a_gel_multiplies_and_a_conversion_gel_shifts_the_temperature(finding):
    def measured(**fields):
        scene, asset = scene_of((PATCH, WHITE), camera=TABLE, lights=(small_lamp(**fields),))
        return spot_radiance(traced(scene, asset, 64), 12)[0]

    bare = measured()
    assert measured(gel="amber") / bare == pytest.approx([0.95, 0.45, 0.06], rel=1e-3)
    assert measured(gel="nd_6") / bare == pytest.approx([0.25] * 3, rel=1e-3)
    warm = measured(gel="cto", temperature=5500.0)
    expected = blackbody(1e6 / (1e6 / 5500 + 159))
    finding("daylight behind a full CTO, red over blue", "Planck", warm[0] / warm[2], expected[0] / expected[2])
    assert warm / warm[1] == pytest.approx(expected / expected[1], rel=1e-3)


def test_watts_are_lumens_by_their_efficacy():
    lamp = PointLight(name="l", position=(0, 2.0, 0), target=(0, 0, 0), unit="W", amount=8.0, efficacy=110.0)
    measured, error = irradiance((lamp,), 64)
    assert measured == pytest.approx(8 * 110 / (4 * math.pi) / 4, rel=0.002 + 4 * error)


def stored(folder, image):
    """(reference to an image of linear colours that is written as sRGB, what finds it)."""
    path = folder / "image.png"
    write_png(path, np.rint(encode_srgb(image) * 255).astype(np.uint8))
    return FileRef(sha256="a" * 64, name=path.name), lambda reference: path


def test_an_image_in_the_gate_lies_on_the_ground_as_in_the_slide(tmp_path):
    """A spot straight above throws a quarter that is red: it lies where the slide has it, seen along the beam."""
    image = np.ones((64, 64, 3), np.float32)
    image[:32, 32:] = (1, 0, 0)  # upper right
    file, resolve = stored(tmp_path, image)
    spot = SpotLight(
        name="l", position=(0, 1, 0), target=(0, 0, 0), cone=60, softness=0, unit="cd", amount=100, gobo=file
    )
    camera = Camera(position=(0, 2, 0.0001), target=(0, 0, 0), focal_length=60)
    scene, asset = scene_of((square_mesh(2.0), WHITE), camera=camera, lights=(spot,))
    engine, film = Engine(2), Film(64, 64)
    assert engine.open(scene, resolve, asset) == []
    assert engine.trace(film, 64)
    engine.close()
    picture = film.radiance()
    red = picture[..., 0] > 4 * picture[..., 1] + 1e-6
    lit = picture[..., 1] + picture[..., 0] > 1
    # The camera looks down with -Z up in its picture, as the spot does: what it sees is mirrored about the vertical no
    # more than the slide is, seen from behind the lamp.
    halves = slice(16, 30), slice(34, 48)
    quarters = [float(red[y, x][lit[y, x]].mean()) for y in halves for x in halves]
    assert quarters == pytest.approx([0, 1, 0, 0], abs=0.02)
    assert gate_image(image).max() == 1.0


@pytest.mark.parametrize("blend", ["add", "replace", "darken"])
def test_a_card_gives_what_its_solid_angle_gives(finding, blend):
    """E of a card of 40 x 20° straight above on even white: π L plus or minus the part of the card."""
    card = Card(
        name="c", elevation=90, width=40, height=20, edge=0.0, luminance=50.0, blend=blend, azimuth=0.0
    )  # fmt: skip
    a, b = math.tan(math.radians(20)), math.tan(math.radians(10))
    rng = np.random.default_rng(3)
    x, y = rng.uniform(-a, a, 400_000), rng.uniform(-b, b, 400_000)
    # dω = dx dy / (1 + r²)^1.5 and cos θ = (1 + r²)^-0.5 on the plane that touches the sphere straight above.
    within = float((1 / (1 + x * x + y * y) ** 2).mean() * 4 * a * b)
    inside = {"add": 51.0, "replace": 50.0, "darken": 0.0}[blend]
    expected = math.pi + (inside - 1) * within
    scene, asset = scene_of((PATCH, WHITE), camera=TABLE, environment=Environment(intensity=1.0, cards={"c": card}))
    mean, error = spot_radiance(traced(scene, asset, 1024), 12)
    measured = float(mean[1]) * math.pi
    finding(f"card that is to {blend}, on level ground [lx]", "its projected solid angle", measured, expected, error)
    assert measured == pytest.approx(expected, rel=0.01 + 4 * error)


def test_a_card_is_seen_in_a_mirror_where_it_was_put():
    card = Card(name="c", azimuth=30, elevation=35, width=8, height=8, luminance=90.0, edge=0.0)
    pixels = with_rows(np.zeros((2, 4, 3), np.float32), 512)
    paint(pixels, [card], {})
    rows, columns = np.nonzero(pixels[..., 1] > 45)
    elevation = 90 - (rows + 0.5) / 512 * 180
    azimuth = (columns + 0.5) / 1024 * 360 - 180
    assert (azimuth.mean(), elevation.mean()) == pytest.approx((30, 35), abs=0.4)
    assert np.ptp(elevation) == pytest.approx(8, abs=0.8)
    assert direction_of(90, 0) == pytest.approx([1, 0, 0]), "east is +X"


@pytest.mark.parametrize(
    ("tilt", "mirrored", "rotation"), [(35.0, False, 0.0), (-50.0, True, 70.0), (180.0, False, 20.0)]
)
def test_a_map_turned_any_way_gives_ground_what_its_sun_gives(finding, tilt, mirrored, rotation):
    """A broad light low in the map, turned up by the tilt: irradiance by brute force over the turned map."""
    pixels = np.full((64, 128, 3), 0.2, np.float32)
    pixels[20:30, 60:80] = 30.0
    turn = turning(rotation, tilt, mirrored)
    theta = (np.arange(64) + 0.5) / 64 * math.pi
    phi = ((np.arange(128) + 0.5) / 128 - 0.5) * 2 * math.pi
    sine, cosine = np.sin(theta)[:, None], np.repeat(np.cos(theta)[:, None], 128, 1)
    d = np.stack([sine * np.sin(phi), cosine, -sine * np.cos(phi)], -1)
    up = (d @ turn)[..., 1]
    weight = np.sin(theta)[:, None] * (math.pi / 64) ** 2
    expected = float((pixels[..., 1] * np.maximum(up, 0) * weight).sum())
    scene, asset = scene_of(
        (PATCH, WHITE), camera=TABLE,
        environment=Environment(intensity=1.0, rotation=rotation, tilt=tilt, mirrored=mirrored),
    )  # fmt: skip
    mean, error = spot_radiance(traced(scene, asset, 1024, environment=pixels), 12)
    measured = float(mean[1]) * math.pi
    finding(f"map tilted by {tilt:g}° on level ground [lx]", "sum over the turned map", measured, expected, error)
    assert measured == pytest.approx(expected, rel=0.012 + 4 * error)
    # Open ground that catches shadow knows the same irradiance: nothing on it, so it shows its backdrop.
    floor, asset = scene_of(
        (square_mesh(0.001), WHITE), camera=Camera(position=(0, 1, 0.5), target=(0, 0, 0), focal_length=200),
        environment=scene.environment, ground=Ground(enabled=True, height=-0.001, reflectance=(0.4, 0.4, 0.4)),
        backdrop=Backdrop(color=(0.3, 0.3, 0.3)),
    )  # fmt: skip
    parts = {key: part.model_copy(update={"visible": False}) for key, part in floor.parts.items()}
    shown, error = spot_radiance(traced(floor.model_copy(update={"parts": parts}), asset, 512, environment=pixels), 20)
    assert shown[1] == pytest.approx(0.3, rel=0.01 + 4 * error)


def test_grounded_light_lies_where_the_map_says_and_mirrors_show_it():
    """A map that is red below the horizon towards -Z and green elsewhere: the ground is, too, and so it is mirrored."""
    pixels = np.ones((64, 128, 3), np.float32)
    pixels[32:] = (0.1, 0.3, 0.1)
    pixels[32:, 32:96] = (0.3, 0.1, 0.1)  # the half towards -Z
    camera = Camera(position=(0, 1.0, 2.0), target=(0, 0, 0), focal_length=50)
    scene, asset = scene_of(
        (square_mesh(0.001), WHITE), camera=camera, environment=Environment(intensity=1.0, grounded=1.5),
        ground=Ground(enabled=True, height=-0.001), backdrop=Backdrop(kind="environment"),
    )  # fmt: skip
    picture = traced(scene, asset, 64, environment=pixels).radiance()
    top, bottom = picture[22:26, 20:44].mean((0, 1)), picture[50:60, 20:44].mean((0, 1))
    # Beyond the origin the ground is red, before it green: not where the camera's own horizon would cut the map.
    assert top == pytest.approx([0.3, 0.1, 0.1], rel=0.03) and bottom == pytest.approx([0.1, 0.3, 0.1], rel=0.03)
    mirror = Material(name="m", base_metalness=1.0, base_color=(1, 1, 1), specular_roughness=0.0, specular_weight=1.0)
    wall = square_mesh(0.4)
    upright = (1, 0, 0, 0, 0, 0, 1, 0.5, 0, 1, 0, 0.0)  # a level square turned to face +Z
    scene, asset = scene_of(
        (wall, mirror), camera=Camera(position=(0, 0.6, 2.0), target=(0, 0.4, 0), focal_length=60),
        environment=Environment(intensity=1.0, grounded=1.5), ground=Ground(enabled=True),
        backdrop=Backdrop(kind="environment"),
    )  # fmt: skip
    parts = {"p0": scene.parts["p0"].model_copy(update={"matrix": upright})}
    shown = traced(scene.model_copy(update={"parts": parts}), asset, 256, environment=pixels).radiance()
    seen = shown[34:38, 30:34].mean((0, 1))  # a mirror that looks back at the ground before it
    assert seen[1] > 2 * seen[0]


def test_air_that_thins_out_dims_by_its_closed_form(finding):
    """Light of a lamp straight above through air of density exp(-y / H): T = exp(-σ H (1 - exp(-h / H)))."""
    lamp, height, falls = small_lamp(), 1.0, 0.3
    clear, _ = irradiance((lamp,), 64)
    haze = Haze(enabled=True, sight=FREE_PATHS_OF_SIGHT * 0.8, color=(0, 0, 0), falls_off=falls)
    measured, error = irradiance((lamp,), 64, haze=haze, ground=Ground(enabled=False, height=0.0))
    # The camera looks down through the same air.
    through = math.exp(-falls / 0.8 * (1 - math.exp(-height / falls)))
    expected = clear * through * through
    finding("through air that thins out", "exp(-σ H (1 - exp(-h/H)))", measured, expected, error)
    assert measured == pytest.approx(expected, rel=0.005 + 4 * error)


def test_white_air_that_thins_out_keeps_all_energy(finding):
    """Air that absorbs nothing, before even white light: whatever it scatters, all around is white."""
    scene, asset = one_part(Material(name="m", base_color=(1, 1, 1), specular_ior=1.0))
    haze = Haze(
        enabled=True,
        sight=FREE_PATHS_OF_SIGHT * 0.4,
        color=(1, 1, 1),
        anisotropy=0.4,
        falls_off=0.2,
        box=Box(low=(-0.4, -0.4, -0.4), high=(0.4, 0.4, 0.4)),
    )
    scene = scene.model_copy(update={"haze": haze, "backdrop": Backdrop(kind="environment")})
    mean = traced(scene, asset, 512).radiance().mean((0, 1))
    finding("white air that thins out, in white light", "energy", float(mean[1]), 1.0)
    assert mean == pytest.approx([1, 1, 1], rel=0.01)


def test_a_backdrop_in_the_frame_fits_it_and_stays_behind(tmp_path):
    """A photograph of two halves: wholly seen it has a border, filling the frame it has none."""
    image = np.zeros((40, 80, 3), np.float32)
    image[:, :40], image[:, 40:] = (0.5, 0, 0), (0, 0.5, 0)
    file, resolve = stored(tmp_path, image)

    def shown(**fields):
        scene, asset = scene_of(
            (square_mesh(0.01), WHITE), backdrop=Backdrop(kind="photograph", file=file, color=(0, 0, 0.5), **fields)
        )
        engine, film = Engine(2), Film(64, 64)
        assert engine.open(scene, resolve, asset) == []
        assert engine.trace(film, 16)
        engine.close()
        return film.radiance()

    cover, contain = shown(), shown(fit="contain", exposure=1.0)
    assert cover[4, 8] == pytest.approx([0.5, 0, 0], abs=0.01) and cover[60, 60] == pytest.approx([0, 0.5, 0], abs=0.01)
    assert contain[4, 8] == pytest.approx([0, 0, 0.5], abs=0.01), "above a wide picture is the plain backdrop"
    assert contain[20, 8] == pytest.approx([1.0, 0, 0], abs=0.02) and contain[20, 60] == pytest.approx(
        [0, 1.0, 0], abs=0.02
    )


MIRROR = Material(name="m", base_metalness=1.0, base_color=(1, 1, 1), specular_roughness=0.0)
SATIN = Material(name="m", base_metalness=1.0, base_color=(1, 1, 1), specular_roughness=0.3)


@pytest.mark.parametrize(("light", "gloss"), [(20.0, 0.0), (0.0, 20.0)])
def test_gloss_sees_the_map_blurred_by_its_own_amount_and_matt_by_that_of_the_light(light, gloss):
    """A bright band of a map: a mirror and satin see it as with one blur, a matt wall is lit as with the other."""
    pixels = np.full((64, 128, 3), 0.2, np.float32)
    pixels[4:14] = (30, 20, 10)
    camera = Camera(position=(0, 2.0, 0.6), target=(0, 0, 0), focal_length=50)

    def seen(material, **blurs):
        scene, asset = scene_of(
            (square_mesh(0.5), material), camera=camera, environment=Environment(**blurs),
            ground=Ground(enabled=False), backdrop=Backdrop(color=(0, 0, 0)),
        )  # fmt: skip
        return spot_radiance(traced(scene, asset, 1024, environment=pixels), 6)

    both = {"blur": light, "reflection_blur": gloss}
    for material, alone in ((MIRROR, gloss), (SATIN, gloss), (WHITE, light)):
        (found, error), (wanted, other) = seen(material, **both), seen(material, blur=alone)
        assert found == pytest.approx(wanted, rel=0.01 + 4 * (error + other) / wanted[1]), (material, alone)
    sharp, soft = (seen(MIRROR, blur=blur)[0][1] for blur in (light, gloss))
    assert sharp != pytest.approx(soft, rel=0.1), "they differ at all"
