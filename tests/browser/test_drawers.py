"""Drawers: groups that fold and sum up, finding, "changed only", maps, several materials at once, their width."""

import pytest
from playwright.sync_api import expect

from tests.browser.picture import (
    BASE,
    CHIMNEY,
    click_picture,
    expect_saved,
    go,
    group,
    revision,
    scene_of,
    set_number,
    wait_for_revision,
    wait_for_samples,
)


@pytest.fixture
def dressed(page):
    """The brass of the base in the drawer."""
    wait_for_samples(page, 1)
    go(page, "Materials")
    click_picture(page, *BASE)
    expect(page.get_by_role("spinbutton", name="Roughness", exact=True)).to_be_visible()
    return page


def test_a_group_folds_to_one_line_that_sums_it_up_and_stays_so(dressed):
    page = dressed
    at = revision(page)
    coat = group(page, "Coat")
    expect(coat).to_have_text("Coatnone")
    coat.click()
    expect(page.get_by_role("spinbutton", name="Coat roughness")).to_have_count(0)
    set_number(page, "Coat", "0.4")
    wait_for_revision(page, at + 1)
    set_number(page, "Coat roughness", "0.1")
    wait_for_revision(page, at + 2)
    coat.click()
    expect(coat).to_have_text("Coat0.4· rough 0.1")
    group(page, "Gloss").click()
    expect_saved(page)
    page.reload()
    wait_for_samples(page, 1)
    click_picture(page, *BASE)
    expect(group(page, "Gloss")).to_have_attribute("aria-expanded", "false")


def test_a_control_is_found_by_its_name_and_says_what_it_needs(dressed):
    page = dressed
    field = page.get_by_role("searchbox", name="Find a control")
    field.fill("dark")
    expect(page.get_by_text("Coat darkening")).to_be_visible()
    expect(page.get_by_text("needs Coat")).to_be_visible()
    expect(page.get_by_role("spinbutton")).to_have_count(0)
    field.fill("rough")
    expect(page.get_by_role("spinbutton", name="Roughness", exact=True)).to_be_visible()
    expect(page.get_by_role("spinbutton", name="Metalness")).to_have_count(0)
    field.press("Escape")
    expect(field).to_have_value("")
    expect(page.get_by_role("spinbutton", name="Metalness")).to_be_visible()


def test_only_what_was_changed_is_shown(dressed):
    page = dressed
    at = revision(page)
    set_number(page, "Index of refraction", "1.7")
    wait_for_revision(page, at + 1)
    page.get_by_role("button", name="Changed only").click()
    expect(page.get_by_role("spinbutton", name="Index of refraction")).to_be_visible()
    expect(page.get_by_role("spinbutton", name="Specular weight")).to_have_count(0)
    set_number(page, "Index of refraction", "1.5")
    expect(page.get_by_role("spinbutton", name="Index of refraction")).to_have_count(0)


def test_a_textured_surface_shows_its_maps_beside_what_they_multiply(dressed):
    page = dressed
    for label in ("Base colour", "Metalness", "Roughness"):
        picture = page.get_by_role("img", name=f"Map of {label}", exact=True)
        expect(picture).to_be_visible()
        assert picture.evaluate("i => i.naturalWidth") > 8
        expect(page.get_by_test_id(f"map {label}")).to_contain_text("×")
    colour = page.get_by_role("img", name="Map of Base colour").evaluate(
        """i => { const c = new OffscreenCanvas(1, 1).getContext('2d'); c.drawImage(i, 0, 0, 1, 1);
                  return [...c.getImageData(0, 0, 1, 1).data] }"""
    )
    assert colour[0] > colour[2] + 30, "brass is yellow, whatever it is multiplied by"


def test_several_materials_are_changed_at_once_and_say_where_they_differ(dressed):
    page = dressed
    page.keyboard.down("Control")
    click_picture(page, *CHIMNEY)
    page.keyboard.up("Control")
    roughness = page.get_by_role("spinbutton", name="Roughness", exact=True)
    expect(roughness).to_have_attribute("placeholder", "mixed")
    at = revision(page)
    # One of them lets light through: the group shows what that brings.
    group(page, "Transmission").click()
    expect(page.get_by_text("Tint at the surface")).to_be_visible()
    set_number(page, "Roughness", "0.25")
    wait_for_revision(page, at + 1)
    scene = scene_of(page)
    worn = {scene["parts"][part]["material"] for part in ("base", "chimney")}
    assert {scene["materials"][key]["specular_roughness"] for key in worn} == {0.25} and len(worn) == 2


def test_the_drawer_is_as_wide_as_it_is_dragged(dressed):
    page = dressed
    drawer = page.get_by_role("complementary", name="Materials")
    edge = page.get_by_role("separator", name="Width of the drawer")
    before, box = drawer.bounding_box()["width"], edge.bounding_box()
    page.mouse.move(box["x"] + 2, box["y"] + 300)
    page.mouse.down()
    page.mouse.move(box["x"] + 102, box["y"] + 300, steps=5)
    page.mouse.up()
    wide = drawer.bounding_box()["width"]
    assert wide == pytest.approx(before + 100, abs=4)
    page.reload()
    expect(drawer).to_be_visible()
    assert drawer.bounding_box()["width"] == pytest.approx(wide, abs=2)


def test_a_list_is_one_stop_of_the_tab_key_with_arrow_keys_inside(page):
    parts = page.get_by_role("grid", name="Parts")
    rows = parts.get_by_role("row")
    first = rows.first.get_by_role("button").first
    first.focus()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(rows.nth(1)).to_have_attribute("aria-selected", "true")
    page.keyboard.press("End")
    page.keyboard.press("ArrowRight")
    expect(rows.last.get_by_role("button").last).to_be_focused()
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("Tab")
    assert page.evaluate("document.activeElement.closest('[role=grid]') === null"), "the list is left"
    page.keyboard.press("Shift+Tab")
    expect(rows.last.get_by_role("button").first).to_be_focused()
    rows.first.get_by_role("button").first.click()
    rows.nth(3).get_by_role("button").first.click(modifiers=["Shift"])
    expect(parts.locator("[aria-selected=true]")).to_have_count(4)


def test_the_address_says_project_and_stop(page):
    assert "/projects/" in page.url
    go(page, "Light")
    page.wait_for_url("**/light")
    go(page, "Camera")
    page.wait_for_url("**/camera")
    page.reload()
    expect(page.get_by_role("complementary", name="Camera")).to_be_visible()
    page.go_back()
    expect(page.get_by_role("complementary", name="Light")).to_be_visible()
    page.go_forward()
    expect(page.get_by_role("complementary", name="Camera")).to_be_visible()
