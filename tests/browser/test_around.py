"""What lies around the asset, by hand: the map unrolled, sky by city and season, haze in a box, folders of lights."""

import re

import numpy as np
from playwright.sync_api import expect

from lantern.engine.light_images import read_map
from tests.browser.picture import (
    BASE,
    eventually,
    go,
    group,
    part,
    pixels,
    place,
    revision,
    scene_of,
    set_number,
    stored,
    wait_for_revision,
    wait_for_samples,
    wait_until_shown,
)
from tests.browser.test_light_desk import drag, shelf, tool, wait_until_fine

WITHIN = 0.02
"""Of the width of the frame: how near to the hand a highlight must lie."""


def drag_by(page, handle, across, down):
    """Drag something in the page by pixels."""
    box = handle.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + across / 2, y + down / 2)
    page.mouse.move(x + across, y + down)
    page.mouse.up()


def add_light(page, kind):
    at = revision(page)
    page.get_by_role("button", name="Add a light").click()
    page.get_by_role("menuitem", name=kind).click()
    wait_for_revision(page, at + 1)


def test_a_highlight_lies_where_it_was_put_within_a_fiftieth_of_the_frame(page):
    go(page, "Light")
    wait_for_samples(page, 1)
    add_light(page, "Sphere")
    group(page, "Shape").click()
    set_number(page, "Radius", "12 mm")
    set_number(page, "Amount", "4")
    wait_until_shown(page)
    goal = 0.53, 0.865
    tool(page, "Glint")
    drag(page, BASE, goal)
    page.keyboard.press("Escape")
    wait_until_fine(page, 16)
    lit = pixels(page).mean(axis=2)
    page.get_by_role("button", name="Switch off Sphere").click()
    stored(page, lambda scene: next(iter(scene["lights"].values()))["enabled"], False)
    wait_until_fine(page, 16)
    gain = lit - pixels(page).mean(axis=2)
    h, w = gain.shape
    y, x = int(goal[1] * h), int(goal[0] * w)
    near = gain[y - int(0.05 * w) : y + int(0.05 * w), x - int(0.05 * w) : x + int(0.05 * w)].clip(0)
    bright = near > 0.8 * near.max()
    rows, columns = np.nonzero(bright)
    middle = rows.mean() - near.shape[0] / 2, columns.mean() - near.shape[1] / 2
    assert np.hypot(*middle) < WITHIN * w, middle


def test_cards_are_dragged_on_the_unrolled_map_which_is_saved_as_a_file(page, tmp_path):
    go(page, "Light")
    wait_for_samples(page, 1)
    page.get_by_role("button", name="Add a card").click()
    page.get_by_role("menuitem", name="Rectangle").click()
    stored(page, lambda scene: len(scene["environment"]["cards"]), 1)
    page.get_by_text("Unroll the map").click()
    sheet = page.get_by_role("region", name="The map unrolled")
    expect(sheet.locator("image")).to_be_attached(timeout=20_000)
    before = next(iter(scene_of(page)["environment"]["cards"].values()))
    drag_by(page, page.get_by_test_id("card-on-map-card-1").locator("circle"), 110, -20)

    def card():
        return next(iter(scene_of(page)["environment"]["cards"].values()))

    eventually(page, lambda: card()["azimuth"] != before["azimuth"])
    turned = (card()["azimuth"] - before["azimuth"]) % 360
    assert abs(turned - 110 / 440 * 360) < 1 and abs(card()["elevation"] - before["elevation"] - 20 / 220 * 180) < 1
    with page.expect_download(timeout=120_000) as download:
        sheet.get_by_role("button", name="Save as .exr").click()
    target = tmp_path / "around.exr"
    download.value.save_as(target)
    kept, _ = read_map(target, "around.exr")
    h, w = kept.shape[:2]
    row = int((0.5 - card()["elevation"] / 180) * h)
    column = int((0.5 + card()["azimuth"] / 360) % 1 * w)
    assert kept[row, column].mean() > 0.5 * card()["luminance"], "the card is in the file where it lies"
    sheet.get_by_role("button", name="Roll the map up").click()
    expect(sheet).to_be_hidden()


def test_a_sky_keeps_the_picture_as_bright_and_goes_by_city_season_and_hour(page):
    go(page, "Light")
    wait_until_fine(page, 1)
    before, exposure = pixels(page).mean(), scene_of(page)["look"]["exposure"]
    group(page, "Sun and sky").click()
    page.get_by_role("switch", name="Sky", exact=True).click()
    stored(page, lambda scene: scene["sky"]["enabled"], True)
    stored(page, lambda scene: scene["look"]["exposure"] < exposure - 5, True)
    wait_until_fine(page, 2)
    assert 0.5 * before < pixels(page).mean() < 1.6 * before, "neither white nor black"
    page.get_by_role("switch", name="By place and time").click()
    stored(page, lambda scene: scene["sky"]["place"]["latitude"], 50)
    expect(page.get_by_text("Sun elevation")).to_be_hidden()
    page.get_by_label("City").fill("quito")
    page.get_by_role("option", name="Quito").first.click()
    stored(page, lambda scene: (round(scene["sky"]["place"]["latitude"]), scene["sky"]["place"]["zone"]), (0, -5))
    season = page.get_by_role("slider", name="Season")
    season.focus()
    page.keyboard.press("Home")
    stored(page, lambda scene: scene["sky"]["place"]["date"], "2026-01-01")
    page.get_by_role("button", name="Play the day").click()
    page.wait_for_timeout(2500)
    page.get_by_role("button", name="Stop at this hour").click()
    stored(page, lambda scene: 6 < scene["sky"]["place"]["hour"] < 12, True)
    page.get_by_role("switch", name="Sky", exact=True).click()
    stored(page, lambda scene: scene["sky"]["enabled"], False)
    # And back, but for what the season has changed.
    stored(page, lambda scene: abs(scene["look"]["exposure"] - exposure) < 0.5, True)


def test_haze_is_held_in_a_box_whose_sides_are_dragged(page):
    go(page, "Light")
    wait_for_samples(page, 1)
    group(page, "Haze").click()
    page.get_by_role("switch", name="Haze", exact=True).click()
    stored(page, lambda scene: scene["haze"]["enabled"], True)
    set_number(page, "Sight", "2")
    page.get_by_role("switch", name="Only in a box").click()
    stored(page, lambda scene: scene["haze"]["box"] is not None, True)
    box = scene_of(page)["haze"]["box"]
    wait_until_fine(page, 1)
    drag_by(page, page.get_by_test_id("haze-right"), 60, 0)
    stored(page, lambda scene: scene["haze"]["box"]["high"][0] > box["high"][0], True)
    moved = scene_of(page)["haze"]["box"]
    assert moved["low"] == box["low"] and moved["high"][1:] == box["high"][1:]
    page.get_by_role("switch", name="Only in a box").click()
    stored(page, lambda scene: scene["haze"]["box"], None)


def test_lights_of_a_group_lie_in_a_folder_and_several_are_edited_at_once(page):
    go(page, "Light")
    wait_for_samples(page, 1)
    shelf(page, "Rigs")
    page.get_by_role("button", name="Rig Two strips").click()
    stored(page, lambda scene: len(scene["lights"]), 3)
    rows = page.get_by_role("list", name="Lights")
    lights = scene_of(page)["lights"]
    strips = [key for key, light in lights.items() if light["kind"] == "rectangle"][:2]
    rows.get_by_text(lights[strips[0]]["name"], exact=True).click()
    rows.get_by_text(lights[strips[1]]["name"], exact=True).click(modifiers=["Control"])
    expect(page.get_by_test_id("edited-together")).to_contain_text("2 lights of the kind Rectangle")
    set_number(page, "Amount", "7")
    stored(page, lambda scene: [scene["lights"][key]["amount"] for key in strips], [7, 7])
    page.once("dialog", lambda dialog: dialog.accept("Pair"))
    page.get_by_role("button", name=f"More about {lights[strips[0]]['name']}").click()
    page.get_by_role("menuitem", name="Group 2 lights").click()
    stored(page, lambda scene: [scene["lights"][key]["group"] for key in strips], ["Pair", "Pair"])
    expect(rows.get_by_role("button", name=re.compile("^Pair"))).to_be_visible()
    page.get_by_role("button", name="Switch off the group Pair").click()
    stored(page, lambda scene: [scene["lights"][key]["enabled"] for key in strips], [False, False])
    rows.get_by_role("button", name=re.compile("^Pair")).click()
    expect(rows.get_by_text(lights[strips[0]]["name"], exact=True)).to_be_hidden()


def test_a_light_is_kept_off_a_part(page):
    go(page, "Light")
    wait_for_samples(page, 1)
    add_light(page, "Spot")
    key, light = next(iter(scene_of(page)["lights"].items()))
    page.keyboard.press("Escape")
    go(page, "Asset")
    part(page, "Cap").click()
    go(page, "Light")
    page.get_by_role("button", name=f"More about {light['name']}").click()
    page.get_by_role("menuitem", name="Keep off Cap").click()
    stored(page, lambda scene: len(scene["lights"][key]["unlit_parts"]), 1)
    page.get_by_role("button", name=f"More about {light['name']}").click()
    page.get_by_role("menuitem", name="Light every part again: 1 kept off").click()
    stored(page, lambda scene: scene["lights"][key]["unlit_parts"], [])


def test_a_meter_is_held_at_two_places_and_illuminance_is_shown_with_its_lines(page):
    go(page, "Light")
    wait_until_fine(page, 2)
    tool(page, "Meter")
    page.mouse.click(*place(page, *BASE))
    page.mouse.click(*place(page, 0.3, 0.9))
    expect(page.get_by_test_id("meter-A")).to_contain_text("lx", timeout=20_000)
    expect(page.get_by_test_id("meter-B")).to_contain_text("cd/m²")
    expect(page.get_by_test_id("meter-ratio")).to_contain_text(": 1")
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("meter-A")).to_be_hidden()
    page.get_by_role("combobox", name="Way of looking, shot view").click()
    page.get_by_role("option", name="Illuminance").click()
    scale = page.get_by_test_id("illuminance-scale")
    expect(scale).to_contain_text("lx", timeout=30_000)
    wait_until_fine(page, 8)
    plain = pixels(page)
    scale.get_by_role("button", name="Lines").click()
    eventually(page, lambda: np.abs(pixels(page).astype(int) - plain).max() > 60)
    page.keyboard.press("i")
    expect(page.get_by_role("img", name="Histogram of the picture")).to_be_visible(timeout=20_000)
    expect(page.get_by_test_id("clipped")).to_contain_text("At white")
