"""The stop Look: every effect in the picture, before and after, looks of the shelf, curves and wheels, files."""

import numpy as np
import pytest
from playwright.sync_api import expect

from lantern.picture.look.files import written_whole
from lantern.scene.look import EFFECTS, LABELS, Look
from lantern.scene.looks import NamedLook
from tests.browser.picture import (
    by_name,
    eventually,
    go,
    group,
    pixels,
    place,
    scene_of,
    set_number,
    stored,
    wait_for_samples,
    wait_until_shown,
)
from tests.core.test_look import CUBE_3D

SHOWS_LITTLE = {
    "fringe": {"Red, at the corner": "3"},
    "softness": {"Blur at the corner": "3"},
    "levels": {"White point": "1"},
}
"""What is set besides, of effects that are hardly seen as they come."""
NEEDS_MORE = ("table", "curve", "hues", "decision")
"""What does nothing before a file is brought or a hand has moved it."""


@pytest.fixture
def held(page):
    """The stop Look over a picture that stands still."""
    go(page, "Look")
    wait_for_samples(page, 4)
    by_name(page, "Run or hold the proof")
    return page


def shown(page):
    """The picture once it shows the last edit, whole."""
    wait_until_shown(page)
    page.wait_for_timeout(450)
    return pixels(page)


def differ(a, b):
    return float(np.abs(a - b).max(axis=-1).mean())


def switch(page, label):
    page.get_by_role("switch", name=f"{label} on", exact=True).click()


@pytest.mark.parametrize("stage", [EFFECTS[:11], EFFECTS[11:]])
def test_each_effect_is_switched_seen_and_taken_back(held, stage):
    page = held
    plain = shown(page)
    for name in (name for name in stage if name not in NEEDS_MORE):
        switch(page, LABELS[name])
        for field, value in SHOWS_LITTLE.get(name, {}).items():
            set_number(page, field, value)
        with_it = shown(page)
        assert differ(with_it, plain) > 0.1, name
        switch(page, LABELS[name])
        assert differ(shown(page), plain) < 0.05, name
        group(page, LABELS[name]).click()


def test_before_its_look_while_a_key_is_down_left_of_an_edge_and_one_effect_alone(held):
    page = held
    plain = shown(page)
    switch(page, "Contrast")
    set_number(page, "Contrast", "1.8")
    switch(page, "Vignette")
    after = shown(page)
    assert differ(after, plain) > 4
    page.mouse.move(*place(page, 0.5, 0.1))
    page.get_by_test_id("picture").focus()
    page.keyboard.down("e")
    eventually(page, lambda: differ(pixels(page), plain) < 0.5, 10)
    page.keyboard.up("e")
    eventually(page, lambda: differ(pixels(page), after) < 0.5, 10)
    page.get_by_role("button", name="Edge", exact=True).click()
    edge = page.get_by_test_id("look-edge")
    box = edge.bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 40)
    page.mouse.down()
    page.mouse.move(place(page, 0.7, 0)[0], box["y"] + 40, steps=4)
    page.mouse.up()
    expect(edge).to_have_attribute("aria-valuenow", "70")
    page.wait_for_timeout(900)
    both, width = pixels(page), plain.shape[1]
    left, right = slice(0, int(0.66 * width)), slice(int(0.75 * width), width)
    assert differ(both[:, left], plain[:, left]) < 1.0 and differ(both[:, right], after[:, right]) < 1.0
    page.get_by_role("button", name="Edge", exact=True).click()
    page.get_by_role("button", name="Vignette alone").click()
    page.wait_for_timeout(900)
    alone = pixels(page)
    assert differ(alone, after) > 1 and differ(alone, plain) > 1


def test_a_look_of_the_shelf_is_taken_as_much_as_is_wanted_and_outlives_another_light(held):
    page = held
    plain = shown(page)
    exposure = scene_of(page)["look"]["exposure"]
    first = page.get_by_role("button", name="Look Soft daylight")
    expect(first.locator("img")).to_be_visible(timeout=60_000)
    first.click()
    stored(page, lambda scene: scene["look"]["bloom"]["enabled"], True)
    taken = shown(page)
    assert differ(taken, plain) > 1 and scene_of(page)["look"]["exposure"] == exposure
    page.get_by_label("How much of a look is taken").focus()
    page.keyboard.press("Home")
    first.click()
    stored(page, lambda scene: scene["look"]["bloom"]["amount"], 0.0)
    assert differ(shown(page), plain) < 0.5
    page.keyboard.press("Control+z")
    stored(page, lambda scene: scene["look"]["bloom"]["amount"], 0.16)
    go(page, "Light")
    page.get_by_role("button", name="Overcast court").first.click()
    stored(page, lambda scene: "court" in scene["environment"]["map"]["name"], True)
    assert scene_of(page)["look"]["bloom"]["enabled"], "a look outlives a change of environment"


def test_a_curve_a_wheel_and_places_are_worked_by_hand(held):
    page = held
    switch(page, "Tone curve")
    plain = shown(page)
    sheet = page.get_by_role("group", name="Curve: Tone, all").locator("svg")
    sheet.scroll_into_view_if_needed()
    box = sheet.bounding_box()
    page.mouse.move(box["x"] + 0.4 * box["width"], box["y"] + 0.6 * box["height"])
    page.mouse.down()
    page.mouse.move(box["x"] + 0.4 * box["width"], box["y"] + 0.45 * box["height"], steps=4)
    page.mouse.up()
    stored(page, lambda scene: len(scene["look"]["curve"]["master"]), 1)
    (across, up) = scene_of(page)["look"]["curve"]["master"][0]
    assert across == pytest.approx(0.4, abs=0.02) and up == pytest.approx(0.55, abs=0.03)
    assert shown(page).mean() > plain.mean() + 8
    point = page.get_by_role("slider", name="Tone, all, point 1")
    point.focus()
    page.keyboard.press("ArrowDown")
    stored(page, lambda scene: scene["look"]["curve"]["master"][0][1] < up, True)
    page.keyboard.press("Delete")
    stored(page, lambda scene: scene["look"]["curve"]["master"], [])
    page.get_by_role("group", name="Channel of the curve").get_by_role("button", name="Blue").click()
    expect(page.get_by_role("group", name="Curve: Tone, blue")).to_be_visible()
    switch(page, "Tone curve")
    lean_a_wheel(page)
    grade_the_selection(page)
    drag_an_ellipse(page)


def lean_a_wheel(page):
    switch(page, "Slope, offset, power")
    plain = shown(page)
    wheel = page.get_by_role("slider", name="Slope: colour")
    wheel.scroll_into_view_if_needed()
    box = wheel.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y - 0.4 * box["height"], steps=4)
    page.mouse.up()
    stored(page, lambda scene: scene["look"]["decision"]["slope"][0] > 1.03, True)
    leaning = shown(page) - plain
    assert leaning[..., 0].mean() > leaning[..., 2].mean() + 3
    wheel.dblclick()
    stored(page, lambda scene: scene["look"]["decision"]["slope"], [1, 1, 1])


def grade_the_selection(page):
    """Only the selected part is graded."""
    go(page, "Asset")
    page.get_by_role("grid", name="Parts").get_by_role("button", name="Base ").first.click()
    go(page, "Look")
    plain = shown(page)
    page.get_by_role("button", name="selection", exact=True).click()
    stored(page, lambda scene: [p["mask"]["kind"] for p in scene["look"]["locals"].values()], ["parts"])
    set_number(page, "Exposure here", "3")
    graded = np.abs(shown(page) - plain).max(axis=-1)
    assert graded.max() > 40 and (graded[: graded.shape[0] // 4] < 4).mean() > 0.98
    page.get_by_role("button", name="Remove Base", exact=True).click()
    assert differ(shown(page), plain) < 0.5


def drag_an_ellipse(page):
    """A place of the picture is made, and dragged in it."""
    page.get_by_role("button", name="ellipse", exact=True).click()
    stored(page, lambda scene: [one["mask"]["kind"] for one in scene["look"]["locals"].values()], ["ellipse"])
    key = next(iter(scene_of(page)["look"]["locals"]))
    knob = page.get_by_test_id("mask-middle")
    box = knob.bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(*place(page, 0.25, 0.3), steps=4)
    page.mouse.up()
    stored(page, lambda scene: abs(scene["look"]["locals"][key]["mask"]["x"] - 25) < 1, True)
    assert abs(scene_of(page)["look"]["locals"][key]["mask"]["y"] - 30) < 1


def test_files_of_looks_come_to_the_shelf_and_into_the_look(held, tmp_path):
    page = held
    path = tmp_path / "mine.json"
    path.write_bytes(written_whole(NamedLook(name="Mine", look=Look.model_validate({"veil": {"enabled": True}}))))
    page.get_by_label("Look file").set_input_files(path)
    page.get_by_role("button", name="Look mine").click(timeout=30_000)
    stored(page, lambda scene: scene["look"]["veil"]["enabled"], True)
    switch(page, "Look-up table")
    plain = shown(page)
    broken = tmp_path / "broken.cube"
    broken.write_text("LUT_3D_SIZE 33\n0 0 0\n")
    page.get_by_label("Table file").set_input_files(broken)
    expect(page.get_by_role("alert").filter(has_text="broken.cube")).to_be_visible(timeout=30_000)
    table = tmp_path / "swap.cube"
    table.write_text(CUBE_3D)
    page.get_by_label("Table file").set_input_files(table)
    stored(page, lambda scene: (scene["look"]["table"]["file"] or {}).get("name"), "swap.cube")
    swapped = shown(page)
    # Red and blue have changed places.
    assert np.abs(swapped[..., 0] - plain[..., 2]).mean() < 8 and differ(swapped, plain) > 5
    with page.expect_download(timeout=120_000) as saved:
        page.get_by_role("button", name="Save", exact=True).click()
        page.get_by_role("menuitem", name="Its grade as a table").click()
    assert saved.value.suggested_filename.endswith(".cube")


def test_shots_are_kept_gone_to_and_stepped_through(page):
    go(page, "Camera")
    wait_for_samples(page, 1)
    keep = page.get_by_role("button", name="Keep a shot of what the camera sees")
    keep.click()
    stored(page, lambda scene: list(scene["shots"]), ["shot-1"])
    set_number(page, "Focal length", "35")
    stored(page, lambda scene: scene["camera"]["focal_length"], 35)
    keep.click()
    stored(page, lambda scene: list(scene["shots"]), ["shot-1", "shot-2"])
    expect(page.get_by_role("button", name="Shot Shot 2", exact=True)).to_have_attribute("aria-pressed", "true")
    page.get_by_test_id("picture").focus()
    page.keyboard.press("Comma")
    stored(page, lambda scene: scene["camera"]["focal_length"], 85)
    page.keyboard.press("Period")
    stored(page, lambda scene: scene["camera"]["focal_length"], 35)
    expect(page.get_by_role("button", name="Shot Shot 1", exact=True).locator("img")).to_be_visible(timeout=60_000)
    page.get_by_role("button", name="Shot Shot 1", exact=True).click()
    stored(page, lambda scene: scene["camera"]["focal_length"], 85)
    by_name(page, "Next shot")
    stored(page, lambda scene: scene["camera"]["focal_length"], 35)
    page.get_by_role("button", name="Shot Shot 2", exact=True).hover()
    page.get_by_role("button", name="More about Shot 2").click()
    page.get_by_role("menuitem", name="Earlier").click()
    stored(page, lambda scene: scene["shot_order"], ["shot-2", "shot-1"])
    page.get_by_role("button", name="More about Shot 2").click()
    page.get_by_role("menuitemcheckbox", name="Brings the look of now").click()
    stored(page, lambda scene: scene["shots"]["shot-2"]["look"] is not None, True)
    page.get_by_role("button", name="More about Shot 2").click()
    page.get_by_role("menuitem", name="Lock", exact=True).click()
    stored(page, lambda scene: scene["shots"]["shot-2"]["locked"], True)
    expect(page.get_by_role("button", name="Keep the present camera as Shot 2")).to_have_count(0)
    set_number(page, "Focal length", "50")
    page.get_by_role("button", name="Shape of the frame").click()
    page.get_by_role("menuitem", name="1:1").click()
    stored(page, lambda scene: scene["print"]["width"] == scene["print"]["height"], True)
    page.get_by_role("button", name="Middle as grey").click()
    stored(page, lambda scene: scene["look"]["exposure"] != 0.4, True)
    page.get_by_test_id("picture").focus()
    page.keyboard.press("BracketRight")
    stored(page, lambda scene: scene["camera"]["focal_length"], 58)
