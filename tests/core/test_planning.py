"""Samples where they lower the error of the finished picture: the plan itself, and what films make of it."""

import numpy as np
import pytest

from lantern.engine.engine import Engine
from lantern.engine.planning import make_plan
from lantern.film import plan
from lantern.film.film import Film
from lantern.picture.develop import display_rgb
from lantern.scene.document import Camera, Material, Part, Scene
from lantern.scene.forms import BallForm
from lantern.scene.lights import RectangleLight

SIZE = (192, 128)
STEPS = 8.0
"""Of 8 bits, that are wanted: without a denoiser a few dozen samples have as many."""


def scene():
    """A rough ball on ground under a small light: its shadow and its gloss are noisy, the ground is not."""
    light = RectangleLight(name="Lamp", position=(0.3, 0.5, 0.3), target=(0, 0, 0), width=0.05, height=0.05, amount=300)
    paint = Material(name="Paint", base_metalness=1.0, specular_roughness=0.4, fuzz_weight=0.5)
    return Scene(
        parts={"ball": Part(name="Ball", material="paint", form=BallForm(radius=0.1))},
        materials={"paint": paint},
        lights={"lamp": light},
        camera=Camera(position=(0, 0.25, 0.9), target=(0, 0.05, 0), focal_length=50),
    )


@pytest.fixture
def opened():
    engines = []

    def one(threads=2):
        engine = Engine(threads)
        engine.open(scene(), None)
        engines.append(engine)
        return engine

    yield one
    for engine in engines:
        engine.close()


def finisher(engine, denoise=None):
    return lambda film: display_rgb(engine.develop(film, denoise=denoise), engine.shown.look)


def filled(engine, film, steps=STEPS, most=64, split=lambda n: n + 1000):
    assert make_plan(engine, film, finisher(engine), steps, most, denoised=False)
    while not film.is_done(most):
        engine.trace(film, min(split(film.samples), most))
    return film


def same(one, other):
    return all((one.rows[name] == other.rows[name]).all() for name in one.rows.dtype.names)


def test_more_error_gets_more_samples_and_dearer_blocks_fewer():
    errors = np.array([[1e-6, 1e-4, 4e-4, 4e-4]])
    counts = plan.planned(errors, np.array([[1.0, 1.0, 1.0, 8.0]]), 0.005, 4096)
    assert counts[0, 0] < counts[0, 1] < counts[0, 2] and counts[0, 3] < counts[0, 2]
    left = (errors * (plan.WHOLE / counts) ** plan.DENOISED_FALL)[errors > 0.005**2].mean()
    assert left <= 0.005**2 and left > 0.6 * 0.005**2, "as good as was asked for, and hardly better"


def test_what_is_good_enough_at_once_gets_no_more_and_what_cannot_be_reached_all():
    clean = plan.planned(np.full((3, 4), 1e-6), np.ones((3, 4)), 0.01, 64)
    assert (clean == plan.WHOLE).all()
    hopeless = plan.planned(np.full((3, 4), 1.0), np.ones((3, 4)), 1e-4, 64)
    assert (hopeless == 64).all()


def test_beside_a_noisy_block_no_block_has_less_than_half():
    errors = np.full((5, 5), 1e-7)
    errors[2, 2] = 0.01
    counts = plan.planned(errors, np.ones((5, 5)), 0.01, 1000)
    assert counts[1:4, 1:4].min() >= counts[2, 2] / 2 and counts[0, 0] == plan.WHOLE


def test_two_finished_pictures_say_the_error_of_the_second():
    """Of independent noise, whose error is known: the variance of a mean over four is that of its difference."""
    generator = np.random.default_rng(4)
    samples = 128 + 20 * generator.standard_normal((4, 96, 160, 3))
    first, second = (np.clip(samples[:n].mean(axis=0), 0, 255).astype(np.uint8) for n in (2, 4))
    found = np.sqrt(plan.errors_of(first, second)) * 255
    assert found.shape == (6, 10)
    np.testing.assert_allclose(found, 20 / 2, rtol=0.1)


@pytest.mark.parametrize("split", [lambda n: n + 1, lambda n: n + 3, lambda n: 2 * n])
def test_a_planned_film_is_the_same_however_its_passes_are_split(opened, split):
    engine = opened()
    whole = filled(engine, Film(*SIZE))
    assert same(filled(engine, Film(*SIZE), split=split), whole)
    counts = whole.rows["samples"].reshape(SIZE[1], SIZE[0])
    assert (counts == np.repeat(np.repeat(whole.plan, 16, 0), 16, 1)).all() and counts.max() > 4 * counts.min()


def test_the_plan_is_the_same_on_one_thread_and_two(opened):
    assert same(filled(opened(1), Film(*SIZE)), filled(opened(2), Film(*SIZE)))


def test_a_planned_film_that_was_kept_goes_on_by_its_plan(opened):
    engine = opened()
    whole = filled(engine, Film(*SIZE))
    part = Film(*SIZE)
    make_plan(engine, part, finisher(engine), STEPS, 64, denoised=False)
    engine.trace(part, 9)
    again = Film(*SIZE)
    assert again.restore({name: array.copy() for name, array in part.arrays().items()})
    assert 0.1 < again.planned_share < 1 and not again.is_done(64)
    engine.trace(again, 64)
    assert again.is_done(64) and same(again, whole) and again.planned_share == 1
    assert not again.restore({**part.arrays(), "plan": np.ones((2, 2), np.int32)}), "a plan of another frame"


def test_a_plan_that_was_interrupted_is_made_anew_and_is_the_same(opened):
    engine = opened()
    whole = filled(engine, Film(*SIZE))
    film = Film(*SIZE)
    assert not make_plan(engine, film, lambda of: None, STEPS, 64, denoised=False) and film.plan is None
    engine.trace(film, 3)
    engine.cancel()
    assert not make_plan(engine, film, finisher(engine), STEPS, 64, denoised=False) and film.plan is None
    engine.ready()
    assert same(filled(engine, film), whole)


def test_a_part_of_the_frame_is_planned_alone(opened):
    engine = opened()
    film = Film(*SIZE)
    film.select((40, 24, 70, 50))
    filled(engine, film)
    counts = film.rows["samples"].reshape(SIZE[1], SIZE[0])
    assert counts[24:74, 40:110].min() >= plan.WHOLE and film.region == (40, 24, 70, 50)
    counts[24:74, 40:110] = 0
    assert (counts == 0).all()


def test_the_error_asked_for_is_reached_with_fewer_samples_than_everywhere_alike(opened):
    """Against a reference of another seed; where the frame is not clean at once, as root of the mean square."""
    engine = opened()
    reference = Film(*SIZE)
    engine.trace(reference, 1024, seed=9)
    truth = finisher(engine)(reference).astype(float)
    film = filled(engine, Film(*SIZE), steps=3.0, most=1024)
    hard = np.repeat(np.repeat(film.plan > plan.WHOLE, 16, 0), 16, 1)

    def error(of):
        return np.sqrt(((finisher(engine)(of).astype(float) - truth)[hard] ** 2).mean())

    found = error(film)
    assert 1.0 < found < 3.5
    even = Film(*SIZE)
    while not even.samples or error(even) > found:
        engine.trace(even, even.samples + 4)
    assert film.rows["samples"].mean() < 0.8 * even.samples
