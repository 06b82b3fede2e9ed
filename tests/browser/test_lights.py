"""Lights in the drawer: added, measured, switched, removed; sun and sky; what the picture does then."""

import numpy as np
from playwright.sync_api import expect

from demo.profiles import write_profile
from tests.browser.picture import (
    expect_saved,
    go,
    group,
    pixels,
    place,
    revision,
    scene_of,
    set_number,
    wait_for_revision,
    wait_for_samples,
)


def _brightness(page) -> float:
    wait_for_samples(page, 2)
    return float(pixels(page).mean())


def test_a_light_is_added_measured_switched_and_removed(page):
    go(page, "Light")
    before, at = _brightness(page), revision(page)
    page.get_by_role("button", name="Add a light").click()
    page.get_by_role("menuitem", name="Sphere").click()
    wait_for_revision(page, at + 1)
    expect(page.get_by_text("Sphere 1")).to_be_visible()
    set_number(page, "Amount", "400")
    wait_for_revision(page, at + 2)
    lit = _brightness(page)
    assert lit > before + 3, "the picture shows the new light"
    page.get_by_role("button", name="Switch off Sphere 1").click()
    wait_for_revision(page, at + 3)
    assert abs(_brightness(page) - before) < 2, "and is as before without it"
    page.get_by_role("button", name="More about Sphere 1").click()
    page.get_by_role("menuitem", name="Remove").click()
    wait_for_revision(page, at + 4)
    expect(page.get_by_text("No light but the environment yet.")).to_be_visible()
    expect_saved(page)


def test_sun_and_sky_take_the_place_of_the_map(page):
    go(page, "Light")
    wait_for_samples(page, 2)
    before, at = pixels(page), revision(page)
    group(page, "Sun and sky").click()
    page.get_by_role("switch", name="Sky").click()
    wait_for_revision(page, at + 1)
    wait_for_samples(page, 2)
    # As bright as before, and yet another light: shadows of the sun, a blue sky in the brass.
    assert np.abs(pixels(page) - before).mean() > 2
    set_number(page, "Sun elevation", "20")
    wait_for_revision(page, at + 2)
    expect_saved(page)


def test_a_light_takes_a_measured_profile_from_the_library_or_a_file(page, tmp_path):
    go(page, "Light")
    at = revision(page)
    page.get_by_role("button", name="Add a light").click()
    page.get_by_role("menuitem", name="Spot").click()
    wait_for_revision(page, at + 1)
    group(page, "Shape").click()
    page.get_by_role("button", name="Profile", exact=True).click()
    page.get_by_role("menuitem", name="Wall washer").click()
    wait_for_revision(page, at + 2)
    button = page.get_by_role("button", name="Profile", exact=True)
    expect(button).to_contain_text("Wall washer")
    page.get_by_role("button", name="as measured").click()
    wait_for_revision(page, at + 3)
    wait_for_samples(page, 2)
    washed = pixels(page)

    write_profile("narrow-reflector", tmp_path / "my_lamp.ies")
    page.get_by_label("IES file").set_input_files(tmp_path / "my_lamp.ies")
    wait_for_revision(page, at + 4)
    expect(button).to_contain_text("my lamp")
    wait_for_samples(page, 2)
    assert np.abs(pixels(page) - washed).mean() > 1, "the picture shows the other distribution"

    (tmp_path / "odd.ies").write_text("no numbers")
    page.get_by_label("IES file").set_input_files(tmp_path / "odd.ies")
    expect(page.get_by_text("odd.ies: has no TILT line")).to_be_visible()
    expect(button).to_contain_text("my lamp")

    button.click()
    page.get_by_role("menuitem", name="Even to all sides").click()
    wait_for_revision(page, at + 5)
    expect(button).to_contain_text("Even to all sides")
    expect_saved(page)


def test_lights_are_drawn_in_the_picture_and_picked_there(page):
    go(page, "Light")
    wait_for_samples(page, 1)
    at = revision(page)
    page.mouse.click(*place(page, 0.5, 0.3), button="right")
    page.get_by_role("menuitem", name="Put a light here").click()
    wait_for_revision(page, at + 1)
    mark = page.get_by_role("button", name="Choose Rectangle 1")
    expect(mark).to_have_attribute("aria-pressed", "true")
    assert page.get_by_test_id("light-outlines").locator("path:not([data-testid=light-beam])").count() == 1
    mark.click()
    expect(mark).to_have_attribute("aria-pressed", "false")
    expect(page.get_by_role("button", name="Move by handles")).to_have_count(0)
    mark.click()
    page.get_by_role("button", name="Move by handles").click()
    expect(page.get_by_test_id("handles-0")).to_be_visible()
    page.get_by_role("button", name="Move by handles").click()
    page.get_by_role("group", name="Unit").get_by_role("button", name="cd/m²").click()
    wait_for_revision(page, at + 2)
    set_number(page, "Amount", "2 kcd/m²")
    wait_for_revision(page, at + 3)
    assert scene_of(page)["lights"]["light-1"]["amount"] == 2000
    go(page, "Materials")
    expect(mark).to_have_count(0)
