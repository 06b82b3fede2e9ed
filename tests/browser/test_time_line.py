"""The time line by hand: a turntable and an exploded view in two clicks, scrubbed, played, dragged, made a film."""

import io
import re
import zipfile
from itertools import pairwise

import av
import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.browser.picture import (
    at_moment,
    eventually,
    expect_saved,
    go,
    pixels,
    scene_of,
    set_number,
    stored,
    wait_for_samples,
    wait_until_shown,
    wait_until_still,
)
from tests.browser.test_accessible import violations

PRINTED_SECONDS = 300


def add(page, what):
    page.get_by_role("button", name="Add a move").click()
    page.get_by_role("menuitem", name=what).click()


def unfold(page):
    page.get_by_role("button", name="Unfold the time line").click()


def settled(page):
    """Until the picture has the size that the time line leaves it."""
    wait_until_still(page, "[data-testid=picture]")
    page.wait_for_function(
        """() => { const c = document.querySelector('[data-testid=picture]');
                  return c.dataset.drawn === `${c.width}x${c.height}`
                         && Math.abs(c.height - c.parentElement.clientHeight * devicePixelRatio) < 3 }""",
        timeout=60_000,
    )
    wait_until_still(page, "[data-testid=picture]")


def moves_of(scene):
    return {move["name"]: move for move in scene["motion"]["moves"].values()}


def test_an_exploded_view_is_made_scrubbed_dragged_switched_off_and_taken_back(page):
    wait_for_samples(page, 1)
    unfold(page)
    settled(page)
    together = pixels(page)
    add(page, "Upwards")
    stored(page, lambda scene: moves_of(scene)["Exploded along Y"]["pace"], "soft")
    wait_until_shown(page)
    wait_for_samples(page, 1)
    eventually(page, lambda: np.abs(pixels(page) - together).max() > 60)
    assert (
        scene_of(page)["shutter"]["time"] == 2.0 and "frame 50 of 100" in page.get_by_test_id("moment").text_content()
    )
    assert violations(page) == []

    moment = page.get_by_role("slider", name="Moment")
    moment.focus()
    page.keyboard.press("Home")
    stored(page, lambda scene: scene["shutter"]["time"], 0)
    eventually(page, lambda: np.abs(pixels(page) - together).mean() < 6, 120)

    span = page.get_by_test_id("span-move-1").bounding_box()
    page.mouse.move(span["x"] + 60, span["y"] + 5)
    page.mouse.down()
    page.mouse.move(span["x"] + 60 + span["width"] / 4, span["y"] + 5, steps=4)
    page.mouse.up()
    stored(page, lambda scene: abs(moves_of(scene)["Exploded along Y"]["start"] - 1.0) < 0.06, True)
    page.get_by_role("button", name="Switch off Exploded along Y").click()
    stored(page, lambda scene: moves_of(scene)["Exploded along Y"]["enabled"], False)
    page.get_by_role("button", name="Remove Exploded along Y").click()
    stored(page, lambda scene: scene["motion"]["moves"], {})
    page.keyboard.press("Control+z")
    stored(page, lambda scene: len(scene["motion"]["moves"]), 1)


def test_a_time_line_plays_and_keeps_the_moment_at_which_it_is_stopped(page):
    wait_for_samples(page, 1)
    unfold(page)
    add(page, "The camera turns")
    stored(page, lambda scene: list(moves_of(scene)), ["Turntable of the camera"])
    wait_until_shown(page)
    before = pixels(page)
    page.get_by_role("button", name="Play").click()
    eventually(page, lambda: np.abs(pixels(page) - before).max() > 60)
    page.get_by_role("button", name="Stop playing").click()
    expect_saved(page)
    time = scene_of(page)["shutter"]["time"]
    assert 0 < time < 4 and time * 25 == pytest.approx(round(time * 25), abs=1e-3), "at a frame"
    assert scene_of(page)["camera"]["keys"] == [], "the shot's own camera is as it was"


def test_shots_dissolve_into_one_another_in_the_live_view(page):
    go(page, "Camera")
    wait_for_samples(page, 1)
    for length in ("60", "150"):
        set_number(page, "Focal length", length)
        page.get_by_role("button", name="Keep a shot of what the camera sees").click()
        expect_saved(page)
    stored(page, lambda scene: len(scene["shots"]), 2)
    unfold(page)
    settled(page)
    add(page, "All shots, dissolving")
    stored(page, lambda scene: [move["dissolve"] for move in scene["motion"]["moves"].values()], [0, 1])
    assert scene_of(page)["motion"]["seconds"] == 6.0
    wide, both, long = (at_moment(page, time, 8) for time in (1.0, 3.48, 5.0))
    for one in (wide, long):
        assert np.abs(both - one).mean() > 2, "it is neither"
    between = (np.minimum(wide, long) - 12 <= both) & (both <= np.maximum(wide, long) + 12)
    assert between.mean() > 0.97, "and something of both everywhere"


def test_the_camera_pushes_in_and_the_shutter_has_an_angle(page):
    wait_for_samples(page, 1)
    unfold(page)
    settled(page)
    add(page, "Pushes in")
    stored(
        page, lambda scene: [shot["name"] for shot in scene["shots"].values()], ["Pushes in, begins", "Pushes in, ends"]
    )
    first, last = (at_moment(page, time, 4).astype(float) for time in (0, 3.96))
    assert np.abs(first - last).mean() > 3
    page.get_by_role("list", name="Moves").get_by_role("button", name="Pushes in", exact=True).click()
    set_number(page, "Shutter angle", "180")
    stored(page, lambda scene: [scene["shutter"][name] for name in ("opens", "closes")], [-0.01, 0.01])


def test_light_goes_from_morning_to_evening_and_says_who_leads_it(page):
    wait_for_samples(page, 1)
    names = [one["name"] for one in scene_of(page)["conditions"].values()]
    unfold(page)
    settled(page)
    add(page, "From conditions to conditions")
    stored(page, lambda scene: list(moves_of(scene)), [f"{names[0]} to {names[1]}"])
    first, between, last = (at_moment(page, time, 4).astype(float) for time in (0, 2, 3.96))
    apart = np.abs(first - last).mean()
    assert apart > 5 and max(np.abs(between - end).mean() for end in (first, last)) < apart
    page.get_by_role("combobox", name="To the conditions").click()
    page.get_by_role("option", name=names[2]).click()
    stored(
        page, lambda scene: next(iter(scene["motion"]["moves"].values()))["last"], list(scene_of(page)["conditions"])[2]
    )
    assert violations(page) == []
    go(page, "Light")
    expect(page.get_by_role("note")).to_contain_text(f"The time line leads the light: {names[0]} to {names[1]}")
    page.get_by_role("button", name=f"Switch off {names[0]} to {names[1]}").click()
    expect(page.get_by_role("note")).to_have_count(0)


def test_a_turntable_becomes_a_film_in_a_few_clicks(page):
    wait_for_samples(page, 1)
    page.get_by_role("button", name="Hold the proof").click()
    unfold(page)
    set_number(page, "Length", "0.5")
    set_number(page, "Frames a second", "8")
    add(page, "The camera turns")
    stored(page, lambda scene: moves_of(scene)["Turntable of the camera"]["seconds"], 0.5)
    go(page, "Print")
    for name, value in (("Width", "96"), ("Height", "60"), ("Samples", "2")):
        set_number(page, name, value)
    expect_saved(page)
    expect(page.get_by_role("region", name="Film")).to_contain_text("4 frames of 2 samples")
    page.get_by_role("button", name="Print the film").click()
    card = page.locator("[data-testid^=print-]").first
    expect(card).to_have_attribute("data-state", "done", timeout=PRINTED_SECONDS * 1000)
    with page.expect_download() as saving:
        card.get_by_role("link", name="Download").click()
    with av.open(str(saving.value.path())) as film:
        frames = [frame.to_ndarray(format="rgb24") for frame in film.decode(video=0)]
        assert float(film.streams.video[0].average_rate) == 8
    assert len(frames) == 4 and frames[0].shape == (60, 96, 3)
    assert all(np.abs(a.astype(int) - b).max() > 60 for a, b in pairwise(frames))

    page.get_by_role("combobox", name="As").click()
    page.get_by_role("option", name="Frames, TIFF in a zip").click()
    page.get_by_role("button", name="Print the film").click()
    newest = page.locator("[data-testid^=print-]").first
    eventually(page, lambda: page.locator("[data-testid^=print-]").count() == 2)
    expect(newest).to_have_attribute("data-state", "done", timeout=PRINTED_SECONDS * 1000)
    with page.expect_download() as saving:
        newest.get_by_role("link", name="Download").click()
    with zipfile.ZipFile(saving.value.path()) as found:
        assert len(found.namelist()) == 4
        assert Image.open(io.BytesIO(found.read("frame-00002.tif"))).size == (96, 60)


def test_keys_are_set_by_hand_moved_shaped_and_the_control_shows_the_moment(page):
    wait_for_samples(page, 1)
    go(page, "Look")
    page.keyboard.press("Shift+M")

    def keys(scene):
        return [(key["time"], key["value"]) for move in scene["motion"]["moves"].values() for key in move["keys"]]

    page.get_by_role("button", name="Set a key: Exposure").click()
    stored(page, lambda scene: len(keys(scene)), 1)
    began = keys(scene_of(page))[0][1]
    moment = page.get_by_role("slider", name="Moment")
    moment.focus()
    page.keyboard.press("End")
    stored(page, lambda scene: scene["shutter"]["time"], 4)
    before = pixels(page).mean()
    set_number(page, "Exposure", f"{began + 2}")
    stored(page, keys, [(0, began), (4, began + 2)])
    eventually(page, lambda: pixels(page).mean() > before + 10)
    exposure = page.get_by_role("spinbutton", name=re.compile("^Exposure"))
    moment.focus()
    page.keyboard.press("Home")
    eventually(page, lambda: float(exposure.input_value()) == began)
    line = page.get_by_role("list", name="Moves")
    page.get_by_role("button", name="Key 2 of Look: exposure").click()
    stored(page, lambda scene: scene["shutter"]["time"], 4)
    way = page.get_by_role("group", name="How it goes on to the next")
    page.get_by_role("button", name="Key 1 of Look: exposure").click()
    way.get_by_role("button", name="Curve").click()
    stored(
        page, lambda scene: [m["keys"][0]["to_next"] for m in scene["motion"]["moves"].values()], [[0.42, 0, 0.58, 1]]
    )
    page.get_by_role("slider", name="Begins, by time").focus()
    page.keyboard.press("ArrowUp")
    stored(page, lambda scene: [m["keys"][0]["to_next"][1] for m in scene["motion"]["moves"].values()], [0.02])
    box = line.get_by_role("button", name="Key 2 of Look: exposure").bounding_box()
    page.mouse.move(box["x"] + 4, box["y"] + 8)
    page.mouse.down()
    page.mouse.move(box["x"] - 100, box["y"] + 8, steps=5)
    page.mouse.up()
    eventually(page, lambda: 0.5 < keys(scene_of(page))[1][0] < 3.5)
    place = next(iter(scene_of(page)["motion"]["moves"]))
    span = page.get_by_test_id(f"span-{place}").bounding_box()
    end = page.get_by_test_id(f"end-{place}").bounding_box()
    last = keys(scene_of(page))[1][0]
    page.mouse.move(end["x"] + 2, end["y"] + 6)
    page.mouse.down()
    page.mouse.move(end["x"] + 2 - span["width"] / 2, end["y"] + 6, steps=4)
    page.mouse.up()
    eventually(page, lambda: abs(keys(scene_of(page))[1][0] - last / 2) < 0.1)
    page.keyboard.press("Control+z")
    eventually(page, lambda: keys(scene_of(page))[1][0] == last)
    copied = page.get_by_role("button", name="Key 1 of Look: exposure")
    copied.click()
    page.get_by_role("button", name="Copy", exact=True).click()
    moment.fill("3.2")
    stored(page, lambda scene: scene["shutter"]["time"], 3.2)
    page.get_by_role("button", name="Paste here").click()
    stored(page, lambda scene: keys(scene)[2], (3.2, began))
    box = copied.bounding_box()
    page.keyboard.down("Alt")
    page.mouse.move(box["x"] + 4, box["y"] + 8)
    page.mouse.down()
    page.mouse.move(box["x"] + 4 + span["width"] / 3, box["y"] + 8, steps=5)
    page.mouse.up()
    page.keyboard.up("Alt")
    stored(page, lambda scene: len(keys(scene)), 4)
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    stored(page, lambda scene: len(keys(scene)), 2)
    page.get_by_role("button", name="Key 2 of Look: exposure").click()
    page.get_by_role("button", name="Take the key away: Exposure").click()
    stored(page, keys, [(0, began)])
