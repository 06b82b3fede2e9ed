"""Working in the picture: choosing, focusing, the three ways closer, ways of looking, two views."""

import re

import numpy as np
from playwright.sync_api import expect

from tests.browser.conftest import DOTS
from tests.browser.picture import (
    BASE,
    CHIMNEY,
    by_name,
    click_picture,
    drawn_pixels,
    eventually,
    go,
    look_at,
    overlay,
    pixels,
    place,
    revision,
    scene_of,
    set_number,
    wait_for_revision,
    wait_for_samples,
)


def test_a_click_selects_with_an_outline_a_modifier_adds_and_escape_clears(page):
    wait_for_samples(page, 1)
    click_picture(page, *BASE)
    selected = page.get_by_role("grid", name="Parts").locator("[aria-selected=true]")
    drawn_pixels(page, True)
    alone = overlay(page)[..., 3]
    expect(selected).to_have_text(re.compile("^Base"))
    page.keyboard.down("Shift")
    click_picture(page, *CHIMNEY)
    page.keyboard.up("Shift")
    expect(selected).to_have_count(2)
    drawn_pixels(page, True)
    go(page, "Light")
    drawn_pixels(page, False)
    go(page, "Asset")
    drawn_pixels(page, True)
    page.keyboard.press("Escape")
    expect(selected).to_have_count(0)
    drawn_pixels(page, False)
    rows = np.flatnonzero(alone.max(1) > 0)
    assert rows.min() > 0.6 * alone.shape[0], "the outline runs about the base and nothing else"


def test_a_double_click_frames_the_part(page):
    wait_for_samples(page, 1)
    at, before = revision(page), scene_of(page)["camera"]
    page.mouse.dblclick(*place(page, *BASE))
    wait_for_revision(page, at + 1)
    after = scene_of(page)["camera"]
    reach = [np.linalg.norm(np.subtract(c["position"], c["target"])) for c in (before, after)]
    assert reach[1] < 0.7 * reach[0] and after["target"][1] < before["target"][1]


def test_the_menu_at_the_pointer_offers_what_can_be_done_there(page):
    wait_for_samples(page, 1)

    def choose(item: str, where=BASE) -> None:
        page.mouse.click(*place(page, *where), button="right")
        page.get_by_role("menuitem", name=item).click()

    at = revision(page)
    choose("Hide Base")
    wait_for_revision(page, at + 1)
    assert not scene_of(page)["parts"]["base"]["visible"]
    choose("Show all parts")
    wait_for_revision(page, at + 2)
    choose("Show only this", CHIMNEY)
    wait_for_revision(page, at + 3)
    assert [k for k, p in scene_of(page)["parts"].items() if p["visible"]] == ["chimney"]
    choose("Show all parts", CHIMNEY)
    wait_for_revision(page, at + 4)
    choose("Focus here")
    wait_for_revision(page, at + 5)
    assert 1 < scene_of(page)["camera"]["focus_distance"] < 1.6
    choose("Add to a new part set")
    wait_for_revision(page, at + 6)
    choose("Add to Set 1", CHIMNEY)
    wait_for_revision(page, at + 7)
    assert scene_of(page)["part_sets"]["set-1"]["parts"] == ["base", "chimney"]
    page.get_by_role("grid", name="Part sets").get_by_text("Set 1").click()
    expect(page.get_by_role("grid", name="Parts").locator("[aria-selected=true]")).to_have_count(2)
    choose("Put a light here", (0.5, 0.3))
    wait_for_revision(page, at + 8)
    light = scene_of(page)["lights"]["light-1"]
    assert light["position"][1] > light["target"][1] > 0.15, "it stands off the cap and aims at it"
    choose("Edit the material of Base")
    expect(page.get_by_text("Brushed Brass").first).to_be_visible()


def test_focus_by_clicking_on_the_surface_and_the_plane_is_shown(page):
    wait_for_samples(page, 1)
    at = revision(page)
    go(page, "Camera")
    page.get_by_role("button", name="Focus on a surface").click()
    click_picture(page, *CHIMNEY)
    wait_for_revision(page, at + 1)
    expect(page.get_by_test_id("saying")).to_contain_text("Focus 1.")
    distance = scene_of(page)["camera"]["focus_distance"]
    page.get_by_role("button", name="Show the plane of focus").click()
    drawn_pixels(page, True)
    alpha = overlay(page)[..., 3]
    height, width = alpha.shape
    column = alpha[int(0.5 * height) - 8 : int(0.5 * height) + 8, int(0.48 * width) : int(0.52 * width)]
    assert (column > 0).mean() > 0.3, "the surface that was clicked lies in the plane"
    set_number(page, "Focus distance", str(distance + 5))
    wait_for_revision(page, at + 2)
    drawn_pixels(page, False)
    page.get_by_role("button", name="Show the plane of focus").click()


def test_dolly_zoom_and_magnify_are_three_things_and_say_so(page):
    wait_for_samples(page, 1)
    page.mouse.move(*place(page, *CHIMNEY))
    at, first = revision(page), scene_of(page)["camera"]
    page.mouse.wheel(0, -120)
    expect(page.get_by_test_id("saying")).to_contain_text("Dolly")
    wait_for_revision(page, at + 1)
    closer = scene_of(page)["camera"]
    assert closer["position"] != first["position"] and closer["focal_length"] == first["focal_length"]

    page.keyboard.down("Alt")
    page.mouse.wheel(0, -120)
    page.keyboard.up("Alt")
    expect(page.get_by_test_id("saying")).to_contain_text("Zoom")
    wait_for_revision(page, at + 2)
    longer = scene_of(page)["camera"]
    assert longer["position"] == closer["position"] and longer["focal_length"] > closer["focal_length"]

    wait_for_samples(page, 2)
    page.keyboard.down("Control")
    for _ in range(10):
        page.mouse.wheel(0, -120)
    page.keyboard.up("Control")
    expect(page.get_by_test_id("saying")).to_contain_text("Magnify")
    assert scene_of(page)["camera"] == longer and revision(page) == at + 2
    assert page.get_by_test_id("picture").bounding_box()["width"] > 4000
    values = page.get_by_test_id("pixel-values")
    expect(values).to_contain_text("Linear")
    expect(values).to_contain_text("Display")
    first = values.inner_text()
    page.mouse.move(*(v + 90 for v in place(page, 0.5, 0.5)))
    expect(values).not_to_have_text(first)
    expect(page.get_by_role("button", name="Stop magnifying")).to_be_visible()
    before = page.get_by_test_id("picture").bounding_box()["x"]
    page.mouse.down()
    page.mouse.move(*(v + 40 for v in place(page, 0.5, 0.5)), steps=3)
    page.mouse.up()
    assert page.get_by_test_id("picture").bounding_box()["x"] != before, "a drag moves the magnified picture"
    assert scene_of(page)["camera"] == longer, "and not the camera"
    page.keyboard.press("0")
    assert page.get_by_test_id("picture").bounding_box()["width"] < 1300
    expect(page.get_by_role("button", name="Stop magnifying")).to_have_count(0)


def test_two_views_a_locked_shot_and_a_free_one(page):
    wait_for_samples(page, 1)
    at, shot = revision(page), scene_of(page)["camera"]
    page.keyboard.press("v")
    page.wait_for_selector("[data-testid=free-picture][data-state]", timeout=60_000)
    free = page.get_by_test_id("free-picture")
    look_at(page, "Normals", "free")
    page.wait_for_function("() => document.querySelector('[data-testid=free-picture]').dataset.state === 'settled'")
    x, y = place(page, 0.5, 0.5, "free-picture")
    serial = int(free.get_attribute("data-serial"))
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 60, y, steps=4)
    page.mouse.up()
    page.wait_for_function(
        "n => Number(document.querySelector('[data-testid=free-picture]').dataset.serial) > n", arg=serial
    )
    assert scene_of(page)["camera"] == shot and revision(page) == at, "the free view moves no shot"
    page.mouse.move(*place(page, 0.5, 0.5))
    page.mouse.wheel(0, -120)
    expect(page.get_by_test_id("saying")).to_contain_text("locked")
    assert scene_of(page)["camera"] == shot
    for direction in ("front", "side", "top"):
        serial = int(free.get_attribute("data-serial"))
        by_name(page, f"from the {direction}")
        page.wait_for_function(
            "n => Number(document.querySelector('[data-testid=free-picture]').dataset.serial) > n", arg=serial
        )
    page.get_by_role("button", name="Maximise the free view").click()
    expect(page.get_by_test_id("picture")).to_have_count(0)
    page.get_by_role("button", name="All views").click()
    page.wait_for_selector("[data-testid=picture][data-state]", timeout=60_000)
    page.keyboard.press("v")
    expect(page.get_by_test_id("free-picture")).to_have_count(0)


WAYS = ["Draft", "Clay", "Lit sphere", "Normals", "UV checker", "Part colours", "Depth", "Ambient occlusion",
        "Albedo check", "Luminance", "Proof"]  # fmt: skip


def test_every_way_of_looking_shows_another_picture(page):
    wait_for_samples(page, 2)
    pictures = {}
    for label in WAYS:
        serial = int(page.get_by_test_id("picture").get_attribute("data-serial"))
        look_at(page, label)
        page.wait_for_function(
            """n => { const c = document.querySelector('[data-testid=picture]');
                      return Number(c.dataset.serial) > n && c.dataset.state !== 'coarse' }""",
            arg=serial,
            timeout=60_000,
        )
        pictures[label] = pixels(page)[100:-100, 250:-250]
        assert pictures[label].std() > 8, label
        if label == "Luminance":
            expect(page.get_by_test_id("luminance-scale")).to_contain_text("cd/m²")
    names = list(pictures)
    for i, a in enumerate(names):
        for b in names[i + 1 :]:
            assert np.abs(pictures[a] - pictures[b]).mean() > 1.5, (a, b)
    page.get_by_role("button", name="Lines of the mesh").click()
    drawn_pixels(page, True)
    expect(page.get_by_test_id("mesh-scale")).to_be_visible()
    page.get_by_role("button", name="Lines of the mesh").click()
    drawn_pixels(page, False)


def test_the_picture_alone_with_one_key_and_every_action_by_name(page):
    wait_for_samples(page, 1)
    page.keyboard.press("p")
    expect(page.get_by_role("banner")).to_have_count(0)
    expect(page.get_by_role("navigation")).to_have_count(0)
    box = page.get_by_test_id("surround").bounding_box()
    assert (box["width"], box["height"]) == (1280, 800)
    page.keyboard.press("p")
    expect(page.get_by_role("banner")).to_be_visible()
    page.keyboard.press("Control+k")
    shown = page.get_by_role("list", name="Actions").get_by_role("button")
    assert shown.count() > 50
    page.get_by_role("textbox", name="Find an action").fill("clay look")
    expect(shown).to_have_count(1)
    page.keyboard.press("Enter")
    expect(page.get_by_role("combobox", name="Way of looking, shot view")).to_have_text("Clay")
    by_name(page, "look proof")


def test_the_loupe_gets_all_computing_and_the_rest_stays(page):
    wait_for_samples(page, 2)
    page.keyboard.press("l")
    page.mouse.move(*place(page, 0.4, 0.4))
    page.mouse.down()
    page.mouse.move(*place(page, 0.6, 0.6), steps=4)
    page.mouse.up()
    picture = page.get_by_test_id("picture")
    page.wait_for_function(
        """() => { const c = document.querySelector('[data-testid=picture]');
                   return !c.dataset.region.startsWith('0,0') && Number(c.dataset.samples) >= 32 }""",
        timeout=60_000,
    )
    held = pixels(page)
    x, _, width, height = (int(v) for v in picture.get_attribute("data-region").split(","))
    share = width / (936 * DOTS), height / (585 * DOTS)
    assert min(share) > 0.17 and max(share) < 0.23 and x > 300 * DOTS
    samples = int(picture.get_attribute("data-samples"))
    page.wait_for_function(
        "n => Number(document.querySelector('[data-testid=picture]').dataset.samples) >= 2 * n", arg=samples
    )
    outside = np.abs(pixels(page) - held)[100:200, 100:300]
    assert outside.max() == 0, "outside of the loupe nothing changes"
    corner = page.get_by_test_id("loupe-right-bottom").bounding_box()
    page.mouse.move(corner["x"] + 5, corner["y"] + 5)
    page.mouse.down()
    page.mouse.move(corner["x"] + 105, corner["y"] + 55, steps=3)
    page.mouse.up()
    page.wait_for_function(
        "w => Number(document.querySelector('[data-testid=picture]').dataset.region.split(',')[2]) > w",
        arg=width + 80 * DOTS,
    )
    page.get_by_role("button", name="Release the loupe").click()
    expect(page.get_by_test_id("loupe")).to_have_count(0)
    page.wait_for_function("() => document.querySelector('[data-testid=picture]').dataset.region.startsWith('0,0')")


def test_resolution_limits_denoising_and_the_readout(page):
    wait_for_samples(page, 1)
    page.get_by_role("combobox", name="Resolution").click()
    page.get_by_role("option", name="1/4 of the print").click()
    page.wait_for_function("() => document.querySelector('[data-testid=picture]').width === 480")
    page.keyboard.press("i")
    readout = page.get_by_test_id("readout")
    for words in ("Samples", "Noise", "480 × 300", "Mrays/s", "unique", "MiB", "ready"):
        expect(readout).to_contain_text(words)
    at = revision(page)
    page.get_by_role("button", name="Limits of the proof").click()
    set_number(page, "Samples", "8")
    wait_for_revision(page, at + 1)
    page.keyboard.press("Escape")
    expect(page.get_by_role("spinbutton", name="Samples")).to_have_count(0)
    expect(page.get_by_test_id("proof")).to_have_attribute("data-state", "settled", timeout=60_000)
    expect(readout).to_contain_text(" of 8")
    page.wait_for_function(
        "() => document.querySelector('[data-testid=picture]').dataset.state === 'settled'", timeout=60_000
    )
    samples = int(page.get_by_test_id("picture").get_attribute("data-samples"))
    assert samples >= 8, "it may have had more before the limit came"
    settled = pixels(page)
    page.keyboard.press("n")
    wait_for_revision(page, at + 2)

    def unevenness():
        return np.abs(np.diff(pixels(page), axis=1)).mean()

    smooth = np.abs(np.diff(settled, axis=1)).mean()
    eventually(page, lambda: unevenness() > smooth)
    assert int(page.get_by_test_id("picture").get_attribute("data-samples")) == samples, "nothing was traced again"
    page.get_by_role("combobox", name="Resolution").click()
    page.get_by_role("option", name="Fit the view").click()
    page.keyboard.press("i")
    expect(readout).to_have_count(0)
