"""At the stop Camera: what is sharp in metres, a focus that misses the asset; guides over the frame."""

from playwright.sync_api import expect

from tests.browser.picture import go, scene_of, set_number, stored, wait_for_samples


def test_the_depth_of_field_is_said_and_a_focus_beside_the_asset_is_mended(page):
    go(page, "Camera")
    wait_for_samples(page, 1)
    expect(page.get_by_test_id("depth-of-field")).to_be_hidden()
    page.get_by_role("switch", name="Aperture", exact=True).click()
    stored(page, lambda scene: scene["camera"]["f_number"], 2.8)
    set_number(page, "Focus distance", "0.05 m")
    said = page.get_by_test_id("depth-of-field")
    expect(said).to_contain_text("Sharp from 0.05", timeout=20_000)
    doubt = page.get_by_role("region", name="Is the focus meant?")
    expect(doubt).to_contain_text("Nothing of the asset is sharp")
    doubt.get_by_role("button", name="Focus on the asset").click()
    stored(page, lambda scene: scene["camera"]["focus_distance"] > 0.2, True)
    expect(doubt.get_by_text("Nothing of the asset is sharp")).to_be_hidden(timeout=20_000)
    middle = scene_of(page)["camera"]["focus_distance"]
    expect(said).to_contain_text(f"{middle:.1f}"[:3])


def test_guides_lie_over_the_frame_and_are_remembered(page):
    page.get_by_role("button", name="Guides").click()
    page.get_by_role("menuitemcheckbox", name="Thirds").click()
    page.get_by_role("menuitemcheckbox", name="Safe areas").click()
    page.keyboard.press("Escape")
    lines = page.get_by_test_id("guides").locator("line")
    expect(lines).to_have_count(2 * (4 + 8))
    frame, picture = page.get_by_test_id("guides").bounding_box(), page.get_by_test_id("picture").bounding_box()
    assert all(abs(frame[side] - picture[side]) < 1 for side in ("x", "y", "width", "height"))
    page.reload()
    expect(page.get_by_test_id("guides").locator("line")).to_have_count(24, timeout=30_000)
