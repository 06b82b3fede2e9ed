"""Inputs of materials by hand: a pattern is given, tuned, put on a ramp, exchanged and taken away again."""

from playwright.sync_api import expect

from tests.browser.picture import (
    eventually,
    go,
    pixels,
    revision,
    scene_of,
    set_number,
    stored,
    wait_for_revision,
    wait_for_samples,
)


def inputs_of(scene):
    name = next(each["material"] for each in scene["parts"].values() if each["name"] == "Felt Foot")
    return scene["materials"][name]["inputs"]


def test_a_pattern_is_given_to_a_colour_and_tuned(page):
    wait_for_samples(page, 2)
    page.get_by_role("grid", name="Parts").get_by_text("Felt Foot", exact=True).click()
    go(page, "Materials")
    at, before = revision(page), pixels(page)
    page.get_by_role("button", name="Pattern or image for Base colour").click()
    page.get_by_role("menuitem", name="Checks").click()
    wait_for_revision(page, at + 1)
    editor = page.get_by_role("region", name="Checks of Base colour")
    expect(editor).to_be_visible()
    stored(page, lambda scene: inputs_of(scene)["base_color"]["source"]["kind"], "checks")
    wait_for_samples(page, 2)
    eventually(page, lambda: abs(pixels(page) - before).max() > 20)

    set_number(page, "Size", "4 mm")
    stored(page, lambda scene: inputs_of(scene)["base_color"]["placement"]["size"], 0.004)
    editor.get_by_label("Laid on by").click()
    page.get_by_role("option", name="Cylinder").click()
    stored(page, lambda scene: inputs_of(scene)["base_color"]["placement"]["kind"], "cylinder")
    expect(page.get_by_role("spinbutton", name="Repeats in ×")).to_be_visible()

    first = editor.get_by_role("slider", name="Stop 1")
    first.scroll_into_view_if_needed()
    box = first.bounding_box()
    page.mouse.move(box["x"] + 6, box["y"] + 9)
    page.mouse.down()
    page.mouse.move(box["x"] + 66, box["y"] + 9, steps=5)
    page.mouse.up()
    stored(page, lambda scene: 0.15 < inputs_of(scene)["base_color"]["ramp"]["stops"][0]["at"] < 0.45, True)
    editor.get_by_role("button", name="Add a stop").click()
    stored(page, lambda scene: len(inputs_of(scene)["base_color"]["ramp"]["stops"]), 3)
    page.keyboard.press("Tab")

    at = revision(page)
    editor.get_by_role("button", name="Checks", exact=True).click()
    page.get_by_role("menuitem", name="Marble").click()
    wait_for_revision(page, at + 1)
    kept = inputs_of(scene_of(page))["base_color"]
    assert kept["source"]["kind"] == "marble" and kept["placement"]["kind"] == "cylinder"
    assert len(kept["ramp"]["stops"]) == 3

    page.get_by_role("button", name="Marble of Base colour").click()
    expect(page.get_by_role("region", name="Marble of Base colour")).to_have_count(0)
    page.get_by_role("button", name="Marble of Base colour").click()
    page.get_by_role("button", name="Remove the pattern of Base colour").click()
    stored(page, inputs_of, {})
    for _ in range(7):
        page.get_by_role("button", name="Undo").click()
    stored(page, inputs_of, {})
    expect(page.get_by_role("button", name="Pattern or image for Base colour")).to_be_visible()


def test_a_bump_has_a_height_at_once(page):
    wait_for_samples(page, 2)
    page.get_by_role("grid", name="Parts").get_by_text("Felt Foot", exact=True).click()
    go(page, "Materials")
    at = revision(page)
    page.get_by_role("button", name="Pattern or image for Bump").click()
    page.get_by_role("menuitem", name="Weave").click()
    wait_for_revision(page, at + 1)
    page.get_by_role("button", name="Twill").click()
    stored(page, lambda scene: inputs_of(scene)["bump"]["source"]["binding"], "twill")
    assert float(page.get_by_role("spinbutton", name="Bump in m").get_attribute("aria-valuenow")) > 0
    for _ in range(2):
        page.get_by_role("button", name="Undo").click()
    stored(page, inputs_of, {})
