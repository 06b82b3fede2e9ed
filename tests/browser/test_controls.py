"""Controls by hand: dragging, typing with units, keys; and what they must not lose."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import sign_in
from tests.browser.picture import BASE, expect_saved, go, place, scene_of, wait_for_revision, wait_for_samples


def revision_of(page):
    """Revision in the database."""
    number = page.evaluate("location.hash.match(/projects\\/(\\d+)/)?.[1] ?? '1'")
    return page.evaluate("n => fetch(`/api/v1/projects/${n}`).then(r => r.json()).then(p => p.revision)", number)


def focus_of(page):
    return scene_of(page)["camera"]["focus_distance"]


def test_a_number_is_dragged_and_typed_with_units(page):
    go(page, "Camera")
    at, first = revision_of(page), focus_of(page)
    track = page.get_by_test_id("track Focus distance").bounding_box()
    x, y = track["x"] + 40, track["y"] + track["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 10, y, steps=10)
    expect(page.get_by_text(f"was {first:.3f}".rstrip("0"))).to_be_visible()
    page.mouse.up()
    wait_for_revision(page, at + 1)
    expect_saved(page)
    assert focus_of(page) == pytest.approx(first * 1.01**10, rel=0.01), "ten pixels are a tenth"
    assert revision_of(page) == at + 1, "one drag is one step of undo"
    field = page.get_by_role("spinbutton", name="Focus distance in m")
    field.click()
    page.keyboard.type("50cm")
    page.keyboard.press("Enter")
    wait_for_revision(page, at + 2)
    assert focus_of(page) == 0.5
    field.click()
    page.keyboard.type("3")
    page.keyboard.press("Escape")
    expect(field).to_have_value("0.5")
    field.click()
    page.keyboard.type("a lot")
    page.keyboard.press("Tab")
    expect(page.get_by_role("alert").filter(has_text="is no number")).to_be_visible()
    expect(field).to_have_value("a lot")
    field.press("Escape")
    assert revision_of(page) == at + 2, "nothing of that was stored"


def test_arrow_keys_are_one_step_of_undo_until_the_control_is_left(page):
    go(page, "Camera")
    at, first = revision_of(page), scene_of(page)["look"]["exposure"]
    page.get_by_role("spinbutton", name="Exposure in EV").focus()
    for _ in range(5):
        page.keyboard.press("ArrowUp")
    page.keyboard.press("Tab")
    wait_for_revision(page, at + 1)
    expect_saved(page)
    assert scene_of(page)["look"]["exposure"] == pytest.approx(first + 0.5)
    page.keyboard.press("Control+z")
    wait_for_revision(page, at + 2)
    assert scene_of(page)["look"]["exposure"] == first


def test_a_dolly_is_kept_when_a_number_is_taken_at_once(page):
    go(page, "Camera")
    wait_for_samples(page, 1)
    at, first = revision_of(page), scene_of(page)
    page.mouse.move(*place(page, *BASE))
    page.mouse.wheel(0, -120)
    track = page.get_by_test_id("track Exposure").bounding_box()
    page.mouse.move(track["x"] + 30, track["y"] + 8)
    page.mouse.down()
    page.mouse.move(track["x"] + 60, track["y"] + 8, steps=3)
    page.mouse.up()
    wait_for_revision(page, at + 2)
    expect_saved(page)
    after = scene_of(page)
    assert after["camera"]["position"] != first["camera"]["position"]
    assert after["look"]["exposure"] == pytest.approx(first["look"]["exposure"] + 1.2)


def test_keys_of_the_camera_belong_to_the_picture(page):
    go(page, "Materials")
    at = revision_of(page)
    page.get_by_role("complementary", name="Materials").get_by_role("button").first.focus()
    page.keyboard.press("PageDown")
    page.get_by_role("combobox", name="Resolution").focus()
    page.keyboard.press("Space")
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("proof")).not_to_have_attribute("data-state", "held")
    expect_saved(page)
    assert revision_of(page) == at
    focused = page.get_by_role("button", name="All projects")
    focused.focus()
    page.keyboard.press("Tab")
    page.keyboard.press("Shift+Tab")
    assert focused.evaluate("e => getComputedStyle(e).outlineStyle") == "solid", "focus can be seen"


def test_even_white_light_can_be_chosen_back(page):
    go(page, "Light")
    at = revision_of(page)
    page.get_by_role("button", name="Even white light").click()
    wait_for_revision(page, at + 1)
    assert scene_of(page)["environment"]["map"] is None


def test_an_expired_session_says_so(browser, application):
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    page = context.new_page()
    sign_in(page, application)
    context.clear_cookies()
    page.reload()
    expect(page.get_by_role("button", name="Sign in")).to_be_visible()
    context.close()
