"""The stop Camera by hand: focus, turning, walking, exposing by the shutter, a layout, matching a photograph."""

import math

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.browser.picture import (
    by_name,
    eventually,
    go,
    pixels,
    place,
    scene_of,
    set_number,
    stored,
    wait_for_samples,
    wait_until_shown,
)


@pytest.fixture
def held(page):
    """The stop Camera over a picture that stands still."""
    go(page, "Camera")
    wait_for_samples(page, 4)
    by_name(page, "Run or hold the proof")
    return page


def drag(page, start, end, **keys):
    """From one place of the picture to another; `key` is held down all the while."""
    key = keys.get("key")
    if key:
        page.keyboard.down(key)
    page.mouse.move(*place(page, *start))
    page.mouse.down()
    page.mouse.move(*place(page, *end), steps=6)
    page.mouse.up()
    if key:
        page.keyboard.up(key)


def camera(page):
    return scene_of(page)["camera"]


def test_the_focus_follows_a_part_is_let_go_and_lies_between_two_places(held):
    page = held
    page.get_by_label("Then follow that part").check()
    page.get_by_role("button", name="Focus on a surface").click()
    page.mouse.click(*place(page, 0.5, 0.5))
    stored(page, lambda scene: scene["camera"]["focus_on"] is not None, True)
    expect(page.get_by_test_id("focus-follows")).to_have_text("Focus follows Chimney")
    expect(page.get_by_label("Focus distance in m")).to_have_count(0)
    before = camera(page)["focus_distance"]
    page.get_by_role("button", name="Let go").click()
    stored(page, lambda scene: scene["camera"]["focus_on"], None)
    assert camera(page)["focus_distance"] == pytest.approx(before, rel=0.01)
    page.get_by_role("button", name="Focus on a surface").click()
    drag(page, (0.5, 0.5), (0.5, 0.86))
    stored(page, lambda scene: scene["camera"]["f_number"] is not None, True)
    expect(page.get_by_test_id("depth-of-field")).to_contain_text("Sharp from")
    page.get_by_label("Then follow that part").uncheck()


def test_the_camera_is_rolled_turned_freely_about_what_is_pressed_and_walked(held):
    page = held
    start = camera(page)
    drag(page, (0.5, 0.2), (0.7, 0.3), key="Alt")
    stored(page, lambda scene: scene["camera"]["roll"] < -10, True)
    assert camera(page)["position"] == start["position"], "the picture follows the hand, the camera stays"
    page.keyboard.press("Control+z")
    stored(page, lambda scene: scene["camera"]["roll"], 0)
    page.get_by_role("button", name="Camera back").click()
    page.get_by_role("button", name="The hand", exact=True).click()
    page.get_by_role("button", name="Free", exact=True).click()
    drag(page, (0.45, 0.25), (0.6, 0.45))
    stored(page, lambda scene: scene["camera"]["position"] != start["position"], True)
    turned = camera(page)
    assert turned["target"] != start["target"] and turned["roll"] != 0
    for name in ("The asset", "Kept"):
        page.get_by_role("button", name=name, exact=True).click()
    page.keyboard.press("Control+z")
    stored(page, lambda scene: scene["camera"]["position"], start["position"])
    page.get_by_role("button", name="Walk", exact=True).click()
    page.get_by_test_id("picture").hover()
    page.keyboard.down("ArrowUp")
    page.wait_for_timeout(400)
    page.keyboard.up("ArrowUp")
    stored(page, lambda scene: scene["camera"]["position"] != start["position"], True)
    walked = camera(page)
    assert walked["position"][1] == start["position"][1], "on the level"
    assert math.dist(walked["position"], walked["target"]) == pytest.approx(
        math.dist(start["position"], start["target"]), rel=1e-4
    )
    drag(page, (0.5, 0.5), (0.6, 0.5))
    stored(page, lambda scene: scene["camera"]["target"] != walked["target"], True)
    assert camera(page)["position"] == walked["position"], "who looks around stays where he is"
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Walk", exact=True)).to_have_attribute("aria-pressed", "false")


def test_shutter_and_iso_expose_as_bright_and_the_f_number_then_counts(held):
    page = held
    wait_until_shown(page)
    before = pixels(page).mean()
    page.get_by_role("button", name="Shutter and ISO").click()
    stored(page, lambda scene: scene["camera"]["exposure_time"] is not None, True)
    wait_until_shown(page)
    assert pixels(page).mean() == pytest.approx(before, abs=2)
    set_number(page, "ISO", "200")
    stored(page, lambda scene: scene["camera"]["iso"], 200)
    eventually(page, lambda: pixels(page).mean() > 1.1 * before)
    set_number(page, "Shutter", "1/125")
    stored(page, lambda scene: scene["camera"]["exposure_time"], 1 / 125)
    expect(page.get_by_label("Shutter in s")).to_have_value("1/125")
    eventually(page, lambda: pixels(page).mean() < 0.5 * before)
    page.get_by_role("button", name="By EV").click()
    stored(page, lambda scene: scene["camera"]["exposure_time"], None)


def test_a_layout_lies_over_the_picture_as_much_as_is_wanted(held, tmp_path):
    page = held
    drawing = np.zeros((100, 160, 4), np.uint8)
    drawing[10:30, 20:140] = (255, 255, 255, 255)
    Image.fromarray(drawing).save(tmp_path / "layout.png")
    page.get_by_role("button", name="Layout over the picture").click()
    with page.expect_file_chooser() as chooser:
        page.get_by_role("menuitem", name="Add one").click()
    chooser.value.set_files(tmp_path / "layout.png")
    drawn = page.get_by_test_id("layout")
    expect(drawn).to_be_visible(timeout=60_000)
    stored(page, lambda scene: scene["layout"]["name"], "layout.png")
    page.get_by_role("slider", name="How much of the layout is seen").press("End")
    expect(drawn).to_have_css("opacity", "1")


def test_a_photograph_is_matched_by_lines_and_what_cannot_be_is_said(held):
    page = held
    before = camera(page)
    page.get_by_role("button", name="Match a photograph").click()
    expect(page.get_by_test_id("match-lines")).to_be_visible()
    foot = page.get_by_test_id("match-foot").bounding_box()
    page.mouse.move(foot["x"] + 5, foot["y"] + 5)
    page.mouse.down()
    page.mouse.move(*place(page, 0.4, 0.7), steps=4)
    page.mouse.up()
    page.get_by_role("button", name="Match", exact=True).click()
    stored(page, lambda scene: scene["camera"]["focal_length"] != before["focal_length"], True)
    expect(page.get_by_test_id("match-lines")).to_have_count(0)
    page.get_by_role("button", name="Match a photograph").click()
    # Both lines of a direction laid upon one another.
    for line, end, to in ((0, 0, (0.3, 0.3)), (0, 1, (0.6, 0.6)), (1, 0, (0.4, 0.4)), (1, 1, (0.7, 0.7))):
        knob = page.get_by_test_id(f"match-along-{line}-{end}")
        knob.hover(force=True)
        page.mouse.down()
        page.mouse.move(*place(page, *to), steps=3)
        page.mouse.up()
    page.get_by_role("button", name="Match", exact=True).click()
    expect(page.get_by_role("alert").filter(has_text="direction").first).to_be_visible()
    page.get_by_role("button", name="Leave it").click()
