"""Handles over the picture: parts, lights and the whole asset are moved, turned and scaled."""

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from lantern.motion.poses import part_poses
from lantern.scene.document import Part, Shutter
from tests.browser.picture import (
    BASE,
    by_name,
    click_picture,
    place,
    revision,
    scene_of,
    wait_for_revision,
    wait_for_samples,
    wait_until_shown,
    wait_until_still,
)


def grip(page: Page, axis: str) -> tuple[float, float]:
    """Page coordinates of the end of a handle, once it stands still: it moves with the camera of the picture."""
    selector = f"[data-testid=handle-{axis}] circle, [data-testid=handle-{axis}] rect"
    wait_until_still(page, selector)
    box = page.locator(selector).first.bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def test_handles_move_turn_and_scale_parts_one_drag_one_undo(page):
    wait_for_samples(page, 1)
    at = revision(page)
    click_picture(page, *BASE)
    page.keyboard.press("m")
    x, y = grip(page, "X")
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 30, y + 6, steps=3)
    page.mouse.move(x + 70, y + 12, steps=3)
    expect(page.get_by_test_id("handle-amount")).to_contain_text("Move X 0.0")
    page.mouse.up()
    wait_for_revision(page, at + 1)
    offset = scene_of(page)["parts"]["base"]["offset"]
    assert 0.02 < offset[0] < 0.1 and offset[1] == pytest.approx(0, abs=1e-9), "along X alone"
    page.keyboard.press("Control+z")
    wait_for_revision(page, at + 2)
    assert scene_of(page)["parts"]["base"]["offset"][0] == 0, "one drag was one step"

    page.keyboard.press("t")
    ring = page.locator("[data-testid=handle-Y]").bounding_box()
    x, y = ring["x"] + ring["width"] / 2, ring["y"] + ring["height"] - 9
    page.mouse.move(x, y)
    page.mouse.down()
    page.keyboard.down("Control")
    page.mouse.move(x + 40, y - 5, steps=4)
    page.keyboard.up("Control")
    page.mouse.up()
    wait_for_revision(page, at + 3)
    angle = scene_of(page)["parts"]["base"]["turn_y"]
    assert abs(angle) >= 15 and angle == pytest.approx(round(angle / 15) * 15, abs=1e-4), "it snapped to 15°"

    page.keyboard.press("s")
    x, y = grip(page, "Z")
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 10, y + 10, steps=3)
    page.keyboard.type("1.5")
    expect(page.get_by_test_id("handle-amount")).to_contain_text("1.500 × · typed 1.5")
    page.keyboard.press("Enter")
    page.mouse.up()
    wait_for_revision(page, at + 4)
    scaled = part_poses(Part.model_validate(scene_of(page)["parts"]["base"]), Shutter())[0]
    assert np.linalg.norm(scaled[2, :3]) == pytest.approx(1.5, abs=1e-6), "the typed amount, along Z of the scene"
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("handles-0")).to_have_count(0)


def test_escape_lets_go_of_a_drag(page):
    wait_for_samples(page, 1)
    at = revision(page)
    click_picture(page, *BASE)
    page.keyboard.press("m")
    x, y = grip(page, "X")
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 60, y + 8, steps=3)
    page.keyboard.press("Escape")
    page.mouse.up()
    expect(page.get_by_test_id("handle-amount")).to_have_count(0)
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    assert scene_of(page)["parts"]["base"]["offset"][0] == 0 and revision(page) == at


def test_handles_move_a_light_and_the_whole_asset(page):
    wait_for_samples(page, 1)
    at = revision(page)
    page.mouse.click(*place(page, 0.5, 0.3), button="right")
    page.get_by_role("menuitem", name="Put a light here").click()
    wait_for_revision(page, at + 1)
    before = scene_of(page)["lights"]["light-1"]
    by_name(page, "Frame the asset")
    for _ in range(16):
        page.keyboard.press("PageDown")
    wait_until_shown(page)
    page.keyboard.press("m")
    at = revision(page)
    x, y = grip(page, "Y")
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y - 30, steps=4)
    page.mouse.up()
    wait_for_revision(page, at + 1)
    after = scene_of(page)["lights"]["light-1"]
    assert after["position"][1] > before["position"][1] and after["target"] == before["target"]
    page.keyboard.press("Control+a")
    x, y = grip(page, "X")
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 20, y + 3, steps=4)
    page.keyboard.type("0.1")
    page.keyboard.press("Enter")
    page.mouse.up()
    wait_for_revision(page, at + 2)
    assert {round(p["offset"][0], 6) for p in scene_of(page)["parts"].values()} == {0.1}
