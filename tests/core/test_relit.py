"""Light that goes from one kept state to another: what dissolves, moves, how bright; against both ends rendered."""

import numpy as np
import pytest

from lantern.engine.engine import Engine
from lantern.engine.own_images import no_files
from lantern.film.film import Film
from lantern.motion.moving import Mover
from lantern.motion.relit import Dissolved, alike, relit
from lantern.scene.conditions import conditions_of, under
from lantern.scene.document import Scene, Shutter
from lantern.scene.lights import PointLight, RectangleLight, SphereLight
from lantern.scene.motion import Keyed, Motion, Relight, ValueKey
from lantern.scene.surroundings import Backdrop, Card, Environment, Graded, Ground, Haze, Sky
from tests.core.test_planning import scene as ball_scene

LAMP = PointLight(name="Lamp", position=(0.5, 0.8, 0.5), amount=50.0)


def lit(lights=(), environment=None, sky=None, haze=None, exposure=0.0, **look):
    """Conditions of a document with a ball; without ground, which shows shadow as a share and not as light."""
    scene = ball_scene()
    return conditions_of(
        scene.model_copy(
            update={
                "lights": dict(lights),
                "environment": environment or Environment(intensity=0.0),
                "sky": sky or Sky(),
                "haze": haze or Haze(),
                "backdrop": Backdrop(kind="environment"),
                "ground": Ground(enabled=False),
                "look": scene.look.model_copy(update={"exposure": exposure, **look}),
            }
        ),
        "Lit",
    )


def traced(scene: Scene, samples=64):
    engine = Engine(2)
    engine.open(scene, no_files)
    film = Film(64, 40)
    engine.trace(film, samples)
    radiance = engine.means(film).radiance
    engine.close()
    return radiance


def as_exposed(scene: Scene):
    return traced(scene) * 2.0**scene.look.exposure


ENDS = {
    "lamps of two kinds": (
        lit({"a": LAMP}, exposure=1.0),
        lit({"a": SphereLight(name="Ball", position=(-0.4, 0.6, 0.4), amount=400.0, radius=0.05)}, exposure=-2.0),
    ),
    "two environments": (
        lit(environment=Environment(intensity=2.0, tint=(1.0, 0.5, 0.2), rotation=40.0)),
        lit(environment=Environment(graded=Graded(), intensity=0.5, tilt=20.0), exposure=1.0),
    ),
    "the sun and a lamp": (
        lit(sky=Sky(enabled=True), environment=Environment(), exposure=-12.0),
        lit({"a": LAMP}, exposure=0.0),
    ),
    "a card on one side": (
        lit(environment=Environment(cards={"c": Card(name="Card", luminance=50.0, azimuth=30.0)})),
        lit(environment=Environment()),
    ),
}  # fmt: skip


@pytest.mark.parametrize("which", ENDS)
@pytest.mark.parametrize("share", [0.25, 0.6])
def test_the_picture_dissolves_as_both_ends_are_exposed(which, share):
    first, last = ENDS[which]
    scene = ball_scene()
    way = as_exposed(relit(scene, first, last, share))
    wanted = (1 - share) * as_exposed(under(scene, first)) + share * as_exposed(under(scene, last))
    assert way.mean() == pytest.approx(wanted.mean(), rel=0.02)
    assert np.median(np.abs(way - wanted)) < 0.03 * wanted.mean()


def test_at_its_ends_it_is_the_one_and_the_other():
    first, last = ENDS["the sun and a lamp"]
    scene = ball_scene()
    assert relit(scene, first, last, 0.0) == under(scene, first)
    assert relit(scene, first, last, 1.0) == under(scene, last)
    assert relit(scene, first, first, 0.5) == under(scene, first)


def test_a_lamp_that_both_have_moves_and_one_that_one_has_fades():
    other = LAMP.model_copy(update={"position": (-0.5, 0.8, 0.5), "amount": 150.0, "name": "Moved"})
    only = RectangleLight(name="Only")
    way = relit(ball_scene(), lit({"a": LAMP}), lit({"a": other, "b": only}), 0.5)
    assert way.lights["a"].position == pytest.approx((0.0, 0.8, 0.5)) and way.lights["a"].amount == 100.0
    assert way.lights["b"].amount == only.amount / 2
    colder = LAMP.model_copy(update={"temperature": 9000.0})
    both = relit(ball_scene(), lit({"a": LAMP}), lit({"a": colder}), 0.5)
    assert len(both.lights) == 2 and {light.amount for light in both.lights.values()} == {25.0}


def test_a_lamp_that_is_alone_puts_out_the_rest_of_its_own_side():
    alone = lit({"a": LAMP.model_copy(update={"solo": True}), "b": LAMP}, environment=Environment())
    way = relit(ball_scene(), alone, lit(environment=Environment()), 0.5)
    assert list(way.lights) == ["a"] and not way.lights["a"].solo and way.environment.intensity == 0.5


def test_the_same_sky_and_the_same_map_change_and_do_not_dissolve():
    low, high = Sky(enabled=True, elevation=10.0), Sky(enabled=True, elevation=30.0)
    way = relit(ball_scene(), lit(sky=low), lit(sky=high), 0.5)
    assert way.sky.enabled and way.sky.elevation == 20.0 and not isinstance(way.environment, Dissolved)
    turned = relit(
        ball_scene(), lit(environment=Environment(rotation=0.0)), lit(environment=Environment(rotation=90.0)), 0.5
    )
    assert turned.environment.rotation == 45.0 and type(turned.environment) is Environment
    cloudy = relit(ball_scene(), lit(sky=low), lit(sky=Sky(enabled=True, kind="overcast")), 0.5)
    assert isinstance(cloudy.environment, Dissolved) and not cloudy.sky.enabled


def test_air_is_blended_by_its_density():
    thick, thin = Haze(enabled=True, sight=10.0), Haze(enabled=True, sight=40.0)
    assert relit(ball_scene(), lit(haze=thick), lit(haze=thin), 0.5).haze.sight == pytest.approx(16.0)
    clearing = relit(ball_scene(), lit(haze=thick), lit(), 0.75).haze
    assert clearing.enabled and clearing.sight == pytest.approx(40.0)


def test_alike_is_what_differs_by_numbers_alone():
    assert alike(LAMP, LAMP.model_copy(update={"amount": 3.0, "name": "Other", "color": (1.0, 0.0, 0.0)}))
    assert not alike(LAMP, LAMP.model_copy(update={"temperature": 3000.0}))
    assert not alike(LAMP, LAMP.model_copy(update={"casts_shadow": False})) and not alike(
        LAMP, RectangleLight(name="L")
    )


def on_the_way(time, **moves):
    first, last = ENDS["two environments"]
    move = Relight(name="Evening comes", first="day", last="night", seconds=4.0)
    return ball_scene().model_copy(
        update={
            "conditions": {"day": first, "night": last},
            "motion": Motion(moves={"light": move, **moves}),
            "shutter": Shutter(time=time),
        }
    )


def test_the_time_line_goes_through_it_and_keys_come_on_top():
    exposed = Keyed(name="Exposure", path="/look/exposure", keys=(ValueKey(time=0.0, value=3.0),))
    assert Mover().moved(on_the_way(2.0)).look.exposure == 0.5
    assert Mover().moved(on_the_way(2.0, keys=exposed)).look.exposure == 3.0
    gone = on_the_way(2.0).model_copy(update={"conditions": {}})
    assert Mover().moved(gone).environment == gone.environment


def test_an_engine_that_is_led_through_it_shows_what_one_opened_there_shows():
    engine = Engine(1)
    engine.open(on_the_way(0.0), no_files)
    for time in (1.0, 2.0, 3.0):
        engine.apply(on_the_way(time), no_files)
    film = Film(32, 20)
    engine.trace(film, 4)
    led = engine.means(film).radiance
    engine.close()
    engine = Engine(1)
    engine.open(on_the_way(3.0), no_files)
    film = Film(32, 20)
    engine.trace(film, 4)
    assert np.array_equal(led, engine.means(film).radiance)
    engine.close()
