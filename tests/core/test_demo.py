"""What the demo opens with: a picture for a cover, and three conditions of which each is a mood of its own."""

import threading
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest
from PIL import Image

from demo.editions import edition_demo
from demo.opening_film import LIFTS, film_demo
from demo.project import cached_files, demo_scene, opening_demo
from demo.takes import picture_of, rendered, wanted_of
from lantern.color import LUMINANCE
from lantern.engine.engine import Engine
from lantern.motion.dissolving import second_of
from lantern.motion.moving import Mover
from lantern.picture.develop import display_rgb
from lantern.scene.conditions import under
from lantern.scene.orders import document_of
from lantern.scene.variants import combinations

WIDTH, HEIGHT, SAMPLES = 96, 60, 64


@pytest.fixture(scope="module")
def pictures():
    """(h, w, 3) in [0, 1] as the display shows them, by the key of the conditions; "opening" as the demo opens."""
    scene, resolve = opening_demo()
    engine = Engine(2)
    engine.open(scene, resolve)
    found = {}
    states = {key: under(scene, one) for key, one in scene.conditions.items()}
    for key, state in {"opening": scene, **states}.items():
        engine.apply(state, resolve)
        film = engine.film_for(WIDTH, HEIGHT)
        engine.trace(film, SAMPLES)
        found[key] = display_rgb(engine.develop(film, denoise="high"), state.look).astype(np.float64) / 255
    engine.close()
    return found


def test_it_opens_in_the_evening():
    scene, plain = opening_demo()[0], demo_scene()[0]
    assert scene.model_copy(update={"shots": {}}) == under(plain, plain.conditions["hotel-evening"])
    assert [shot.name for shot in scene.shots.values()] == ["Whole lantern", "Chimney", "From above"]
    assert scene.shots["whole"].camera == scene.camera
    assert {light.name for light in scene.lights.values()} == {"Key", "Rim"}


def test_the_filament_is_the_brightest_and_the_backdrop_is_graded(pictures):
    light = pictures["opening"] @ LUMINANCE
    glass = light[24:46, 44:54]
    assert glass.max() > 0.9 and glass.max() > 2 * np.median(light)
    left, right = light[2:40, 2:20].mean(axis=1), light[2:40, -20:-2].mean(axis=1)
    for column in (left, right):
        assert column[-1] > 2 * column[0], "from dark above to light below"
        assert np.abs(np.diff(column)).max() < 0.06, "without an edge"
    assert light.min() < 0.1 and np.percentile(light, 99) > 0.8, "from black to white"


def test_each_of_the_conditions_is_a_mood_of_its_own(pictures):
    moods = {key: picture.mean((0, 1)) for key, picture in pictures.items() if key != "opening"}
    brightness = {key: mood @ LUMINANCE for key, mood in moods.items()}
    assert brightness["catalogue-white"] > 1.3 * brightness["workbench-morning"], brightness
    assert brightness["workbench-morning"] > 1.3 * brightness["hotel-evening"], brightness
    warmth = {key: mood[0] / mood[2] for key, mood in moods.items()}
    assert warmth["hotel-evening"] > 1.3 and warmth["catalogue-white"] < 1.1


@pytest.mark.parametrize("wanted", [0, 4, 8])
def test_the_pictures_of_the_board_are_what_the_renderer_makes_of_its_editions(wanted):
    scene, resolve = edition_demo()
    assert combinations(scene).all == 9 and combinations(scene).allowed == 8
    asked = wanted_of(scene)
    assert len(asked) == 9 and all(picture_of(scene, one).is_file() for one in asked)
    seen = document_of(scene, asked[wanted])
    engine = Engine(2)
    engine.open(seen, resolve)
    made = rendered(engine, seen, WIDTH, SAMPLES).astype(np.float64)
    engine.close()
    kept = Image.open(picture_of(scene, asked[wanted])).convert("RGB").resize((WIDTH, HEIGHT), Image.Resampling.BOX)
    assert np.abs(np.asarray(kept, np.float64) - made).mean() < 5


def test_two_who_make_the_demo_at_once_do_not_take_each_others_files(monkeypatch, tmp_path):
    """Two applications that start in a new checkout."""
    monkeypatch.setenv("LANTERN_CACHE", str(tmp_path))
    both = threading.Barrier(2)

    def slowly(path):
        path.write_bytes(b"whole")
        both.wait(timeout=20)

    with ThreadPoolExecutor(2) as two:
        made = [two.submit(cached_files, {"a.bin": slowly}) for _ in range(2)]
    assert [each.result()["a.bin"].read_bytes() for each in made] == [b"whole"] * 2
    assert [path.name for path in tmp_path.rglob("*") if path.is_file()] == ["a.bin"], "and nothing is left over"


def test_the_opening_film_is_lit_opens_and_dissolves_from_shot_to_shot():
    scene, _ = film_demo()

    def at(time):
        return scene.model_copy(update={"shutter": scene.shutter.model_copy(update={"time": time})})

    shown = {time: Mover().moved(at(time)) for time in (0.0, 3.0, 3.6, 6.4, 9.9)}
    wick = [shown[time].materials["led-wick"].emission_luminance for time in (0.0, 3.0)]
    assert wick[0] == 0 and wick[1] == scene.materials["led-wick"].emission_luminance > 0
    assert {key for key, part in shown[6.4].parts.items() if part.keys} == set(LIFTS), "what carries it, and the glass"
    assert not any(part.keys for part in shown[3.6].parts.values())
    assert shown[3.0].camera.target != shown[6.4].camera.target
    assert shown[9.9].camera.position != scene.shots["open-whole"].camera.position, "it is walked around"
    assert [second_of(at(time)) is not None for time in (1.0, 3.5, 5.0, 6.9, 9.0)] == [False, True, False, True, False]
    assert scene.motion.frames == 250
