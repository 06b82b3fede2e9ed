"""Lights in the drawer: added, measured, switched, removed; sun and sky; what the picture does then."""

import numpy as np
from playwright.sync_api import expect

from tests.browser.picture import expect_saved, go, pixels, revision, set_number, wait_for_revision, wait_for_samples


def _brightness(page) -> float:
    wait_for_samples(page, 2)
    return float(pixels(page).mean())


def test_a_light_is_added_measured_switched_and_removed(undone):
    page = undone
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
    page.get_by_role("button", name="Remove Sphere 1").click()
    wait_for_revision(page, at + 4)
    expect(page.get_by_text("No light but the environment yet.")).to_be_visible()
    expect_saved(page)


def test_sun_and_sky_take_the_place_of_the_map(undone):
    page = undone
    go(page, "Light")
    wait_for_samples(page, 2)
    before, at = pixels(page), revision(page)
    page.get_by_role("switch", name="Sky").click()
    wait_for_revision(page, at + 1)
    wait_for_samples(page, 2)
    assert np.abs(pixels(page) - before).mean() > 5
    set_number(page, "Sun elevation", "20")
    wait_for_revision(page, at + 2)
    expect_saved(page)
