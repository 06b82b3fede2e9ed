"""Light put by hand: shadows and highlights fall where they were put, rigs fit any asset, conditions come back."""

import math

import numpy as np
import pytest

from lantern.color import LUMINANCE
from lantern.engine.engine import Engine
from lantern.engine.lighting import (
    SUN,
    aim_at,
    copied_light,
    day_of,
    glint,
    grip,
    haze_boxed,
    light_from_here,
    new_card,
    sky_switched,
    throw,
)
from lantern.engine.press import Press
from lantern.engine.relighting import by_grey_card, lit_picture, read_meter
from lantern.film.film import Film
from lantern.picture.files import ImageError, write_radiance_hdr
from lantern.picture.white import white_matrix
from lantern.scene import balancing, conditions, rigs
from lantern.scene.document import Asset, Camera, Fader, Material, Scene
from lantern.scene.lights import DirectionalLight, PointLight, RectangleLight, SphereLight
from lantern.scene.making import Made
from lantern.scene.model import FileRef
from lantern.scene.patching import apply_operations
from lantern.scene.printing import PrintSettings
from lantern.scene.reading import read_scene
from lantern.scene.standing import rescaled
from lantern.scene.starts import fitted, setup_of
from lantern.scene.surroundings import Card, Environment, Graded, Sky, SunPlace
from lantern.shelf.rigs import RIGS
from tests.core.shapes import WHITE, no_files, scene_of, sphere_mesh, square_mesh

CAMERA = Camera(position=(0, 1.6, 1.6), target=(0, 0, 0), focal_length=50)
GLOSS = Material(name="gloss", base_metalness=1.0, base_color=(0.9, 0.9, 0.9), specular_roughness=0.08)
BALL_AT = (0.0, 0.35, 0.0)
FILE = FileRef(sha256="0" * 64, name="a.glb")


def stage(*lights, scale=1.0, ball=WHITE, **changes):
    """An engine with a ball above a table under some lights, all `scale` times as large."""
    scene, asset = scene_of(
        (square_mesh(3.0 * scale), WHITE),
        (sphere_mesh(0.1 * scale, 24), ball),
        lights=lights,
        camera=CAMERA.model_copy(
            update={name: tuple(v * scale for v in getattr(CAMERA, name)) for name in ("position", "target")}
        ),
        **changes,
    )
    lifted = scene.parts["p1"].model_copy(update={"offset": tuple(v * scale for v in BALL_AT)})
    engine = Engine(2)
    engine.open(scene.model_copy(update={"parts": {**scene.parts, "p1": lifted}}), no_files, asset)
    return engine


def place_of(engine, point):
    """Shares of a square picture at which a point of the scene is seen."""
    camera = engine.scene.camera
    eye, target = np.array(camera.position), np.array(camera.target)
    ahead = (target - eye) / np.linalg.norm(target - eye)
    right = np.cross(ahead, [0, 1, 0])
    right /= np.linalg.norm(right)
    to = np.array(point) - eye
    half = camera.sensor_width / (2 * camera.focal_length)
    x, y = to @ right / (to @ ahead) / half, to @ np.cross(right, ahead) / (to @ ahead) / half
    return 0.5 + x / 2, 0.5 - y / 2


def pressed(engine, point):
    return Press(engine.scene.camera, 1.0, *place_of(engine, point))


def take(engine, made):
    """The document with a patch."""
    assert made is not None
    engine.apply(read_scene(apply_operations(engine.scene.plain(), made.patch)[0]), no_files)


def picture(engine, side=96, samples=48):
    film = Film(side, side)
    assert engine.trace(film, samples)
    return film.radiance() @ LUMINANCE


@pytest.mark.parametrize("scale", [0.002, 1.0, 300.0])
@pytest.mark.parametrize("kind", ["point", "directional", "sun"])
def test_a_shadow_falls_where_it_was_dragged(kind, scale):
    at, aims = (0.4 * scale, 1.2 * scale, 0.1 * scale), (0.0, 0.0, 0.0)
    common = {"name": "l", "position": at, "target": aims, "unit": "lx", "amount": 100.0}
    if kind == "sun":
        engine = stage(
            scale=scale, sky=Sky(enabled=True, azimuth=75, elevation=70), environment=Environment(intensity=1e-3)
        )
    else:
        engine = stage((PointLight if kind == "point" else DirectionalLight)(**common), scale=scale)
    key = SUN if kind == "sun" else "l0"
    # The shadow of the ball's middle: follow the light through it to the table.
    light = np.array([math.cos(math.radians(70)) * math.sin(math.radians(75)), math.sin(math.radians(70)),
                      -math.cos(math.radians(70)) * math.cos(math.radians(75))])  # fmt: skip
    ball = np.array(BALL_AT) * scale
    if kind != "sun":
        light = np.array(at) - (ball if kind == "point" else np.array(aims))
    shadow = ball - light * ball[1] / light[1]
    taken = grip(engine, pressed(engine, shadow), None if kind != "sun" else SUN)
    assert taken is not None and taken.light == key
    goal = np.array([-0.3, 0.0, 0.25]) * scale
    take(engine, throw(engine, pressed(engine, goal), key, taken.caster))
    shown = picture(engine)
    x, y = place_of(engine, goal)
    row, column = int(y * 96), int(x * 96)
    lit = np.median(shown[shown > 0])
    assert shown[row - 1 : row + 2, column - 1 : column + 2].mean() < 0.3 * lit, "the shadow is where it was put"
    if kind == "point":
        before = math.dist(at, taken.caster)
        assert math.dist(engine.scene.lights["l0"].position, taken.caster) == pytest.approx(before, rel=1e-4)
    engine.close()


@pytest.mark.parametrize("subject", ["light", "card", "turned card"])
def test_a_highlight_is_seen_where_it_was_put(subject):
    lamp = SphereLight(name="l", position=(1, 1, 0.5), target=BALL_AT, radius=0.05, unit="cd/m²", amount=5e3)
    if subject == "light":
        engine = stage(lamp, ball=GLOSS)
    else:
        turned = {"rotation": 70.0, "tilt": 25.0, "mirrored": True} if subject == "turned card" else {}
        card = Card(name="c", azimuth=10, elevation=80, width=5, height=5, luminance=3000.0)
        engine = stage(ball=GLOSS, environment=Environment(intensity=1.0, cards={"card": card}, **turned))
    goal = np.array(BALL_AT) + 0.1 * np.array([-0.35, 0.75, math.sqrt(1 - 0.35**2 - 0.75**2)])
    take(engine, glint(engine, pressed(engine, goal), "l0" if subject == "light" else "card"))
    shown = picture(engine)
    # The table shines as well: only the ball is looked at.
    film = Film(96, 96)
    engine.trace(film, 1)
    shown = np.where(film.parts() == 1, shown, 0)
    bright = np.argwhere(shown > 0.5 * shown.max()).mean(axis=0)
    x, y = place_of(engine, goal)
    assert np.abs(bright + 0.5 - np.array([y, x]) * 96).max() < 0.02 * 96
    engine.close()


def test_aim_points_there_and_what_is_locked_stays():
    lamp = PointLight(name="l", position=(1, 1, 1), target=(0, 0, 0))
    engine = stage(lamp, lamp.model_copy(update={"locked": True}))
    press = pressed(engine, (0.3, 0, -0.2))
    take(engine, aim_at(engine, press, "l0"))
    assert engine.scene.lights["l0"].target == pytest.approx((0.3, 0, -0.2), abs=2e-3)
    assert aim_at(engine, press, "l1") is None and glint(engine, press, "l1") is None
    assert aim_at(engine, press, "gone") is None
    engine.close()


def test_a_light_from_here_a_mirrored_one_and_a_new_card_are_where_they_say():
    engine = stage(RectangleLight(name="l", position=(0.5, 1, 0.3), target=(0.1, 0, 0), roll=30))
    made = light_from_here(engine, "spot", CAMERA, None)
    take(engine, made)
    assert engine.scene.lights[made.key].position == CAMERA.position
    assert copied_light(engine.scene, "gone", None, mirrors=False) is None
    made = copied_light(engine.scene, "l0", None, mirrors=False)
    assert made.patch[0]["value"]["position"] == [0.5, 1, 0.3] and made.patch[0]["value"]["name"] == "l copy"
    made = copied_light(engine.scene, "l0", ((-1, 0, -1), (2, 1, 1)), mirrors=True)
    take(engine, made)
    other = engine.scene.lights[made.key]
    assert other.position == pytest.approx((0.5, 1, 0.3)) and other.roll == -30, "x = 0.5 is the middle"
    made = new_card(engine, pressed(engine, (0.0, 0.0, 0.0)), "strip")
    take(engine, made)
    assert engine.scene.environment.cards[made.key].elevation == pytest.approx(45, abs=1), "the table mirrors the eye"
    engine.close()


def test_the_sun_of_a_place_is_dragged_along_its_day():
    place = SunPlace(latitude=50, longitude=10, zone=1, date="2026-06-21", hour=12)
    engine = stage(sky=Sky(enabled=True, place=place), environment=Environment(intensity=1e-3))
    day = day_of(engine.scene.sky)
    noon = max(day, key=lambda each: each[1][1])
    assert noon[0] == pytest.approx(12.33, abs=0.2), "10° east of Greenwich the sun is highest 20 min after noon"
    assert math.degrees(math.asin(noon[1][1])) == pytest.approx(90 - 50 + 23.44, abs=0.3)
    evening = next(each for each in day if each[0] == 18.0)
    goal = np.array(BALL_AT) - np.array(evening[1]) * BALL_AT[1] / evening[1][1]
    take(engine, throw(engine, pressed(engine, goal), SUN, BALL_AT))
    assert engine.scene.sky.place.hour == pytest.approx(18.0, abs=0.1)
    engine.close()


def test_meters_read_what_is_there_and_a_grey_card_becomes_grey():
    lamp = PointLight(name="l", position=(0, 2.0, 0), target=(0, 0, 0), unit="lx", amount=500.0, temperature=3200.0)
    engine = stage(lamp)
    press = pressed(engine, (0.7, 0, 0))
    read = read_meter(engine, press)
    expected = 500 * 4 * 2.0 / (4 + 0.49) ** 1.5
    assert read.illuminance == pytest.approx(expected, rel=0.03)
    assert read.luminance == pytest.approx(read.illuminance / math.pi, rel=0.03), "the table is white"
    assert read.ev == pytest.approx(math.log2(read.luminance * 8), abs=1e-6)
    exposure, kelvin, tint = by_grey_card(engine, press)
    assert kelvin == pytest.approx(3200, rel=0.02) and abs(tint) < 3
    film = Film(96, 96)
    engine.trace(film, 16)
    x, y = place_of(engine, (0.7, 0, 0))
    shown = white_matrix(kelvin, tint) @ film.radiance()[int(y * 96), int(x * 96)] * 2**exposure
    assert shown == pytest.approx([0.18] * 3, rel=0.06)
    engine.close()


def test_conditions_come_back_whole():
    lamp = PointLight(name="l", position=(1, 1, 1), target=(0, 0, 0))
    scene = Scene(lights={"l0": lamp}, environment=Environment(intensity=0.4))
    made = conditions.kept(scene)
    evening = read_scene(apply_operations(scene.plain(), made.patch)[0])
    assert conditions.taken(evening, made.key).patch == []
    other = evening.model_copy(
        update={
            "lights": {},
            "sky": Sky(enabled=True),
            "look": evening.look.model_copy(update={"exposure": 2.0, "white_temperature": 3000.0}),
        }
    )
    assert conditions.taken(other, made.key).patch != []
    back = read_scene(apply_operations(other.plain(), conditions.taken(other, made.key).patch)[0])
    assert back == evening
    with pytest.raises(KeyError):
        conditions.taken(other, "gone")


@pytest.mark.parametrize("size", [0.002, 0.5, 300.0])
@pytest.mark.parametrize("key", RIGS)
def test_a_rig_fits_an_asset_of_any_size(key, size):
    """What arrives at the middle of the asset is the same whatever its size."""
    rig = RIGS[key]()
    assert read_scene(rigs.with_rig(Scene(), rig, None).plain()).lights == rigs.with_rig(Scene(), rig, None).lights
    half = size / (2 * 3**0.5)
    box = ((5 - half, 1.0, -half), (5 + half, 1.0 + 2 * half, half))
    lit = rigs.with_rig(Scene(), rig, box)
    for light, own in zip(lit.lights.values(), rig.lights.values(), strict=True):
        reach, own_reach = math.dist(light.position, light.target), math.dist(own.position, own.target)
        assert reach == pytest.approx(own_reach * size / 0.5, rel=1e-2)
        assert light.unit == "lx" and light.amount == own.amount
    back = rigs.rig_of(lit, rig.name, box)
    for one, own in zip(back.lights.values(), rig.lights.values(), strict=True):
        assert one.position == pytest.approx(own.position, abs=2e-3)


def test_a_rig_replaces_or_is_added_and_turns_as_one():
    scene = Scene(lights={"l0": PointLight(name="Own")}, environment=Environment(intensity=3.0))
    rig = RIGS["three-lamps"]()
    assert [light.name for light in rigs.with_rig(scene, rig, None).lights.values()] == ["Key", "Fill", "Rim"]
    added = rigs.with_rig(scene, rig, None, adds=True)
    assert len(added.lights) == 4 and added.environment == scene.environment
    lit = rigs.with_rig(scene, rig, None)
    turned = read_scene(apply_operations(lit.plain(), rigs.turned_lights(lit, None, 90.0, -1.0))[0])
    key, now = lit.lights["light-1"], turned.lights["light-1"]
    assert now.position == pytest.approx((key.position[2], key.position[1], -key.position[0]), abs=1e-5)
    assert now.amount == pytest.approx(key.amount / 2) and turned.environment.rotation == 90.0


def test_balance_is_the_picture_of_lights_as_bright_and_is_baked_into_them():
    """Faders on a film without a new ray; the same lights so bright; the faders baked: one picture."""
    lamps = [
        PointLight(name="a", group="a", position=(0.5, 1, 0.5), target=(0, 0, 0), unit="lx", amount=50.0),
        RectangleLight(name="b", group="b", position=(-0.6, 1, 0), target=(0, 0, 0), unit="lx", amount=30.0),
    ]
    engine = stage(*lamps, environment=Environment(intensity=2.0))
    film = engine.film_for(48, 48, groups=True)
    assert engine.trace(film, 256)
    faders = {"a": Fader(stops=1.0), "b": Fader(enabled=False), "environment": Fader(stops=-1.0, tint=(1.0, 0.5, 0.25))}
    balanced = engine.scene.model_copy(update={"balance": faders})
    assert not engine.apply(balanced, no_files).restarts, "no ray is traced"
    shown = engine.develop(film, denoise=None).radiance
    # As rendering: the same samples carry each group's light, so that only rounding is between them.
    parts = film.groups()
    names = engine.compiled.light_groups
    sums = sum(parts[i] * np.array(balancing.factor_of(faders.get(name))) for i, name in enumerate(names))
    assert shown == pytest.approx(sums, rel=1e-4, abs=1e-5)
    baked = read_scene(apply_operations(balanced.plain(), balancing.baked(balanced).patch)[0])
    assert baked.balance == {} and baked.lights["l1"].amount == 0.0
    engine.apply(baked, no_files)
    fresh = engine.film_for(48, 48)
    assert engine.trace(fresh, 256)
    own = engine.develop(fresh, denoise=None).radiance
    assert own.mean((0, 1)) == pytest.approx(shown.mean((0, 1)), rel=0.01)
    assert own[30:40, 5:15].mean((0, 1)) == pytest.approx(shown[30:40, 5:15].mean((0, 1)), rel=0.03)
    engine.close()


def test_a_small_picture_of_other_light_leaves_all_as_it_was():
    engine = stage(PointLight(name="l", position=(0, 2, 0), target=(0, 0, 0), unit="lx", amount=3.0),
                   print=PrintSettings(width=160, height=160))  # fmt: skip
    before = engine.scene
    dark = before.model_copy(update={"lights": {}})
    pictures = [lit_picture(engine, scene, CAMERA, 1.0, no_files) for scene in (dark, before)]
    assert pictures[0].max() == 0 and pictures[1].mean() > 30
    assert engine.scene == before
    engine.close()


def test_conditions_grow_with_the_asset_that_they_light():
    """A set-up for another asset, and another unit: kept conditions light it as the document's own light does."""
    lamp = PointLight(name="l", position=(1, 1, 1), target=(0, 0, 0), unit="lm", amount=100.0, unlit_parts=("gone",))
    scene = Scene(lights={"l0": lamp}, environment=Environment(grounded=1.5))
    scene = read_scene(apply_operations(scene.plain(), conditions.kept(scene).patch)[0])
    small, large = ((-1, 0, -1), (1, 2, 1)), ((4, 1, -2), (8, 5, 2))
    for after in (fitted(setup_of(scene), small, large), rescaled(scene, Asset(file=FILE, name="a"), 2.0)):
        (kept,) = after.conditions.values()
        assert kept.lights == after.lights and kept.environment == after.environment
        assert after.lights["l0"].amount == pytest.approx(400.0) and after.environment.grounded == 3.0
    assert fitted(setup_of(scene), small, large).conditions["conditions-1"].lights["l0"].unlit_parts == ()


def test_light_whose_file_cannot_be_had_leaves_the_picture_as_it_is(tmp_path):
    """A rig with a map that is not here: no picture of it, and the proof goes on in the light that it had."""
    engine = stage(PointLight(name="l", position=(0, 2, 0), target=(0, 0, 0), unit="lx", amount=3.0))
    before = picture(engine)
    lit = rigs.with_rig(engine.scene, rigs.Rig(name="r", environment=Environment(map=FILE)), None)
    with pytest.raises(ImageError):
        lit_picture(engine, lit, CAMERA, 1.0, lambda reference: tmp_path / "gone" / reference.name)
    assert (picture(engine) == before).all()
    engine.close()


def test_maps_are_known_by_their_content_and_gone_back_to(tmp_path):
    """Two maps in turns: each shows its own light, one is made latitude and longitude, its name without any suffix."""
    files = {}
    for name, side in (("red", (16, 32)), ("green", (32, 32))):
        pixels = np.zeros((*side, 3), np.float32)
        pixels[..., ("red", "green").index(name)] = 1.0
        write_radiance_hdr(tmp_path / f"{name}.hdr", pixels)
        files[name] = FileRef(sha256=name[0].replace("r", "a").replace("g", "b") * 64, name=name)
    engine = stage(environment=Environment(intensity=1.0))
    for name in ("red", "green", "red"):
        lit = engine.scene.model_copy(update={"environment": Environment(map=files[name])})
        assert engine.apply(lit, lambda reference: tmp_path / f"{reference.name}.hdr").problems == []
        assert engine.compiled.environment.pixels.mean((0, 1)).argmax() == ("red", "green").index(name)
    assert engine.compiled.environment.pixels.shape == (16, 32, 3)
    engine.close()


def test_a_sky_is_switched_on_and_off_without_changing_how_bright_the_picture_is():
    """In the sun of ten thousand times as much light a white table is as bright as before, within two stops."""
    graded = Graded(zenith=(0.3, 0.3, 0.3), horizon=(0.3, 0.3, 0.3), ground=(0.3, 0.3, 0.3))
    engine = stage(environment=Environment(graded=graded), sky=Sky(azimuth=0.0, elevation=45.0))
    before = engine.scene

    def switched(on, keeps=True):
        patch = sky_switched(engine, on=on, keeps=keeps)
        take(engine, Made("", "", patch))
        return float(picture(engine, 16, 16).mean() * 2.0**engine.scene.look.exposure)

    was = float(picture(engine, 16, 16).mean())
    assert was / 4 < switched(True) < was * 4 and engine.scene.look.exposure < -8
    assert engine.scene.backdrop.exposure == 0.0, "the sky is no brighter when it is shown behind"
    assert engine.scene.backdrop.color_exposure == pytest.approx(-engine.scene.look.exposure, abs=0.002)
    assert switched(False) == pytest.approx(was, rel=0.05)
    assert engine.scene.environment == before.environment
    assert switched(True, keeps=False) > 1000 * was and engine.scene.look.exposure == pytest.approx(0, abs=0.002)
    engine.close()


@pytest.mark.parametrize("scale", [0.002, 1.0, 300.0])
def test_a_box_of_haze_begins_around_the_asset(scale):
    asset = (-scale, 0.0, -scale), (scale, 4 * scale, scale)
    scene = read_scene(apply_operations(Scene().plain(), haze_boxed(asset, on=True).patch)[0])
    assert scene.haze.box.low == pytest.approx((-1.4 * scale, -0.4 * scale, -1.4 * scale))
    assert scene.haze.box.high == pytest.approx((1.4 * scale, 4.4 * scale, 1.4 * scale))
    again = read_scene(apply_operations(scene.plain(), haze_boxed(asset, on=False).patch)[0])
    assert again.haze.box is None
    alone = read_scene(apply_operations(Scene().plain(), haze_boxed(None, on=True).patch)[0])
    assert all(low < high for low, high in zip(alone.haze.box.low, alone.haze.box.high, strict=True))
