"""The light desk by hand: shadows and highlights dragged in the picture, rigs, cards, conditions, faders."""

import re

import numpy as np
from playwright.sync_api import expect

from tests.browser.picture import (
    BASE,
    click_picture,
    eventually,
    expect_saved,
    go,
    group,
    held_samples,
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


def tool(page, name):
    page.get_by_role("toolbar", name="Light by hand").get_by_role("button", name=name, exact=True).click()


def drag(page, start, goal):
    page.mouse.move(*place(page, *start))
    page.mouse.down()
    for share in (0.25, 0.5, 0.75, 1.0):
        page.mouse.move(*place(page, *(a + (b - a) * share for a, b in zip(start, goal, strict=True))))
    page.wait_for_timeout(150)
    page.mouse.up()


def shelf(page, name):
    page.get_by_role("group", name="What the shelf shows").get_by_role("button", name=name).click()


def brightness(page, x, y, half=0.012):
    image = pixels(page)
    h, w = image.shape[:2]
    rows = slice(int((y - half) * h), int((y + half) * h) + 1)
    return float(image[rows, int((x - half) * w) : int((x + half) * w) + 1].mean())


def wait_until_fine(page, samples=8):
    wait_until_shown(page)
    wait_for_samples(page, samples)


def test_a_rig_lights_the_asset_and_its_shadow_is_thrown_elsewhere(page):
    go(page, "Light")
    wait_for_samples(page, 1)
    shelf(page, "Rigs")
    page.get_by_role("button", name="Rig Hard sun").click()
    stored(page, lambda scene: [light["name"] for light in scene["lights"].values()], ["Sun"])
    wait_until_fine(page)
    image = pixels(page).mean(axis=2)
    h, w = image.shape
    # The shadow is the darkest place of the ground to the left of the lantern.
    y0, x0, x1 = int(0.15 * h), int(0.05 * w), int(0.4 * w)
    left = image[y0 : int(0.8 * h), x0:x1]
    soft = np.add.reduceat(
        np.add.reduceat(left, np.arange(0, left.shape[0], 12), 0), np.arange(0, left.shape[1], 12), 1
    )
    row, column = np.unravel_index(soft[:-1, :-1].argmin(), soft[:-1, :-1].shape)
    shadow = (x0 + column * 12 + 6) / w, (y0 + row * 12 + 6) / h
    goal = 0.16, 0.86
    before = brightness(page, *goal)
    was = scene_of(page)["lights"]
    tool(page, "Throw")
    drag(page, shadow, goal)
    eventually(page, lambda: scene_of(page)["lights"] != was, 20)
    wait_until_fine(page)
    assert brightness(page, *goal) < 0.75 * before, "the shadow is where it was put"
    assert brightness(page, *shadow) > 1.15 * soft[row, column] / 144, "and no longer where it was"
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Undo").click()
    stored(page, lambda scene: scene["lights"], was)


def test_a_highlight_is_dragged_over_the_brass_and_a_light_aims_where_it_is_pressed(page):
    go(page, "Light")
    wait_for_samples(page, 1)
    at = revision(page)
    page.get_by_role("button", name="Add a light").click()
    page.get_by_role("menuitem", name="Sphere").click()
    wait_for_revision(page, at + 1)
    group(page, "Shape").click()
    set_number(page, "Radius", "20 mm")
    set_number(page, "Amount", "3")
    wait_until_shown(page)
    tool(page, "Glint")
    one, other = (0.47, 0.865), (0.535, 0.865)
    drag(page, BASE, one)
    wait_until_fine(page)
    first = brightness(page, *one), brightness(page, *other)
    drag(page, one, other)
    wait_until_fine(page)
    then = brightness(page, *one), brightness(page, *other)
    assert then[1] > first[1] + 12 and then[0] < first[0] - 12, "the highlight is where it was put"
    glinted = scene_of(page)["lights"]["light-1"]
    tool(page, "Aim")
    page.mouse.click(*place(page, 0.3, 0.9))
    eventually(page, lambda: scene_of(page)["lights"]["light-1"]["target"] != glinted["target"], 20)
    assert scene_of(page)["lights"]["light-1"]["position"] == glinted["position"]
    expect_saved(page)


def test_a_card_is_put_where_it_is_reflected_and_is_listed_shaped_and_alone(page):
    go(page, "Light")
    wait_for_samples(page, 2)
    tool(page, "Card")
    click_picture(page, *BASE)
    stored(page, lambda scene: [card["name"] for card in scene["environment"]["cards"].values()], ["Card 1"])
    wait_until_fine(page)
    lit = brightness(page, *BASE)
    page.get_by_role("button", name="Switch off Card 1").click()
    stored(page, lambda scene: scene["environment"]["cards"]["card-1"]["enabled"], False)
    wait_until_fine(page)
    assert brightness(page, *BASE) < lit - 10, "the card was seen in the brass"
    page.get_by_role("button", name="Switch on Card 1").click()
    set_number(page, "Luminance", "2")
    stored(page, lambda scene: scene["environment"]["cards"]["card-1"]["luminance"], 2)
    page.get_by_role("button", name="Remove Card 1").click()
    stored(page, lambda scene: scene["environment"]["cards"], {})


def test_conditions_are_kept_taken_in_one_click_and_shown_as_pictures(page):
    go(page, "Light")
    wait_for_samples(page, 1)
    shelf(page, "Conditions")
    page.get_by_role("button", name="Keep these conditions").click()
    stored(
        page,
        lambda scene: (
            [one["name"] for one in scene["conditions"].values() if one["name"][-1] in "123456789"][-1:] != []
        ),
        True,
    )
    kept = scene_of(page)
    key = next(k for k, one in kept["conditions"].items() if one["name"].startswith("Conditions "))
    name = kept["conditions"][key]["name"]
    shelf(page, "Rigs")
    page.get_by_role("button", name="Rig Two strips").click()
    stored(page, lambda scene: len(scene["lights"]), 3)
    shelf(page, "Conditions")
    card = page.get_by_role("button", name=f"Conditions {name}", exact=True)
    expect(card.locator("img")).to_be_visible(timeout=60_000)
    expect(card).to_have_attribute("aria-pressed", "false")
    card.click()
    stored(page, lambda scene: (scene["lights"], scene["environment"]), (kept["lights"], kept["environment"]))
    expect(card).to_have_attribute("aria-pressed", "true")


def test_faders_balance_the_picture_without_a_ray_and_are_baked(page):
    go(page, "Light")
    wait_for_samples(page, 1)
    shelf(page, "Rigs")
    page.get_by_role("button", name="Rig Key, fill and rim").click()
    stored(page, lambda scene: len(scene["lights"]), 3)
    wait_until_fine(page, 4)
    page.get_by_role("button", name="Hold").click()
    group(page, "Balance").click()
    share = page.get_by_test_id("share-Key")
    expect(share).to_have_text(re.compile(r"\d"))
    samples = held_samples(page)
    before = pixels(page).mean()
    page.get_by_role("button", name="Balance Key").click()
    set_number(page, "Level", "-6")
    stored(page, lambda scene: scene["balance"]["Key"]["stops"], -6)
    eventually(page, lambda: pixels(page).mean() < before - 4, 20)
    assert held_samples(page) == samples, "no ray was traced"
    amount = next(light["amount"] for light in scene_of(page)["lights"].values() if light["name"] == "Key")
    page.get_by_role("button", name="Bake into the lights").click()
    stored(page, lambda scene: scene["balance"], {})
    baked = next(light["amount"] for light in scene_of(page)["lights"].values() if light["name"] == "Key")
    assert abs(baked / amount - 2**-6) < 1e-6


def test_a_grey_card_a_light_from_here_and_another_environment(page):
    go(page, "Light")
    wait_for_samples(page, 2)
    tool(page, "Grey")
    click_picture(page, 0.15, 0.8)
    eventually(page, lambda: scene_of(page)["look"]["white_temperature"] is not None, 20)
    page.keyboard.press("Escape")
    wait_until_fine(page)
    image = pixels(page)
    h, w = image.shape[:2]
    grey = image[int(0.78 * h) : int(0.82 * h), int(0.13 * w) : int(0.17 * w)].mean((0, 1))
    assert np.ptp(grey) < 8, "what was pressed is neutral"
    page.get_by_role("button", name="Add a light").click()
    page.get_by_role("menuitem", name="From here").click()
    stored(
        page,
        lambda scene: scene["lights"].get("light-1", {}).get("position"),
        scene_of(page)["camera"]["position"],
    )
    before, exposure = scene_of(page)["environment"]["map"], scene_of(page)["look"]["exposure"]
    page.get_by_role("button", name="Environment Overcast Court").click()
    eventually(page, lambda: scene_of(page)["environment"]["map"] != before, 20)
    # The exposure keeps the picture as bright.
    stored(page, lambda scene: scene["look"]["exposure"] != exposure, True)


def test_arrow_keys_go_through_rigs_and_the_pointer_reads_the_light(page):
    go(page, "Light")
    wait_for_samples(page, 1)
    shelf(page, "Rigs")
    page.get_by_role("button", name="Rig Key, fill and rim").focus()
    for names in ([], ["Left edge", "Right edge", "Front"], ["Cloth"]):
        page.keyboard.press("ArrowRight")
        stored(page, lambda scene: [light["name"] for _, light in sorted(scene["lights"].items())], names)
    wait_until_fine(page, 2)
    page.mouse.click(*place(page, 0.2, 0.85), button="right")
    expect(page.get_by_test_id("meter")).to_have_text(re.compile(r"cd/m² · EV -?\d"))
    page.keyboard.press("Escape")
    page.mouse.click(*place(page, *BASE), button="right")
    expect(page.get_by_test_id("meter")).to_have_text(re.compile(r"\d lx$"))
    page.keyboard.press("Escape")


def test_all_light_turns_as_one_and_the_sun_of_a_place_goes_its_way(page):
    go(page, "Light")
    wait_for_samples(page, 1)
    was = scene_of(page)["environment"]
    page.get_by_role("button", name="Turn all light to the left").click()
    stored(page, lambda scene: scene["environment"]["rotation"], was["rotation"] + 15)
    page.get_by_role("button", name="Dim all light").click()
    eventually(page, lambda: abs(scene_of(page)["environment"]["intensity"] / was["intensity"] - 2 ** (-1 / 3)) < 1e-6)
    group(page, "Sun and sky").click()
    page.get_by_role("switch", name="Sky").click()
    stored(page, lambda scene: scene["sky"]["enabled"], True)
    page.get_by_role("switch", name="By place and time").click()
    stored(page, lambda scene: scene["sky"]["place"]["latitude"], 50)
    wait_until_fine(page, 1)
    before = pixels(page)
    set_number(page, "Hour", "7.5")
    stored(page, lambda scene: scene["sky"]["place"]["hour"], 7.5)
    wait_until_fine(page, 2)
    assert np.abs(pixels(page) - before).mean() > 3, "the light of the morning is another"
    page.get_by_label("Date").fill("2026-12-21")
    stored(page, lambda scene: scene["sky"]["place"]["date"], "2026-12-21")


def test_the_environment_is_turned_by_a_drag_and_a_cancelled_one_leaves_it(page):
    go(page, "Light")
    wait_for_samples(page, 1)
    was = scene_of(page)["environment"]
    tool(page, "Turn")
    drag(page, (0.3, 0.5), (0.55, 0.51))
    stored(page, lambda scene: abs(scene["environment"]["rotation"] - was["rotation"] - 45) < 1, True)
    assert scene_of(page)["environment"]["tilt"] == 0, "a level drag does not tilt"
    drag(page, (0.5, 0.5), (0.5, 0.3))
    stored(page, lambda scene: abs(scene["environment"]["tilt"] - 36) < 1, True)
    page.get_by_role("button", name="Undo").click()
    stored(page, lambda scene: scene["environment"]["tilt"], 0)
