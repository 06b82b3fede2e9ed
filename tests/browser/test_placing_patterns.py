"""Placing a pattern by hand in the picture, and dressing parts as others are."""

import re

from playwright.sync_api import expect

from tests.browser.picture import (
    BASE,
    CHIMNEY,
    eventually,
    go,
    pixels,
    revision,
    scene_of,
    stored,
    wait_for_revision,
    wait_for_samples,
)
from tests.browser.test_decals import at, middle_of, pulled


def worn(scene, part):
    return next(each["material"] for each in scene["parts"].values() if each["name"] == part)


def test_a_pattern_is_moved_sized_and_turned_on_the_part(page):
    wait_for_samples(page, 2)
    page.get_by_role("grid", name="Parts").get_by_text("Base", exact=True).click()
    go(page, "Materials")
    page.get_by_role("button", name="Pattern or image for Roughness").click()
    page.get_by_role("menuitem", name="Checks").click()

    def placement(scene):
        return scene["materials"][worn(scene, "Base")]["inputs"]["specular_roughness"]["placement"]

    hand = page.get_by_role("button", name="Place the pattern of Roughness by hand")
    hand.click()
    frame = page.get_by_test_id("placement-move")
    expect(frame).to_be_visible()
    first = placement(scene_of(page))
    pulled(page, middle_of(page, "placement-move"), at(page, *BASE))
    stored(page, lambda scene: placement(scene)["offset"] != first["offset"], True)
    # It lies on the surface of the base, whose foot is 12 cm wide.
    x, _, z = placement(scene_of(page))["offset"]
    assert 0.02 < (x * x + z * z) ** 0.5 < 0.07
    corner = middle_of(page, "placement-upper-right")
    pulled(page, corner, (corner[0] + 30, corner[1] - 30))
    stored(page, lambda scene: placement(scene)["size"] > 1.5 * first["size"], True)
    knob, middle = middle_of(page, "placement-turn"), middle_of(page, "placement-move")
    pulled(page, knob, (middle[0] + 40, middle[1]))
    stored(page, lambda scene: abs(placement(scene)["turn_z"]) > 20, True)
    page.get_by_role("button", name="Undo").click()
    stored(page, lambda scene: placement(scene)["turn_z"], 0)
    page.get_by_test_id("picture").hover()
    page.keyboard.press("Escape")
    expect(frame).to_have_count(0)
    expect(hand).to_have_attribute("aria-pressed", "false")


def test_the_selection_is_dressed_as_what_is_under_the_pointer(page):
    wait_for_samples(page, 2)
    first = revision(page)
    page.get_by_role("grid", name="Parts").get_by_text("Felt Foot", exact=True).click()
    page.mouse.click(*at(page, *CHIMNEY), button="right")
    page.get_by_role("menuitem", name=re.compile("Dress the selection as Chimney")).click()
    stored(page, lambda scene: worn(scene, "Felt Foot") == worn(scene, "Chimney"), True)
    # With the key down it is as it was, and nothing is stored.
    wait_for_revision(page, first + 1)
    wait_for_samples(page, 4)
    dressed = pixels(page)
    page.keyboard.down("x")
    eventually(page, lambda: abs(pixels(page) - dressed).max() > 12)
    page.keyboard.up("x")
    wait_for_samples(page, 4)
    assert revision(page) == first + 1 and worn(scene_of(page), "Felt Foot") == worn(scene_of(page), "Chimney")
    page.get_by_role("button", name="Undo").click()
    stored(page, lambda scene: worn(scene, "Felt Foot"), "moss-felt")
