"""The stop Compare: variants made by doing, taken by a click and by keys, changed, combined to editions."""

import re

import numpy as np
import pytest
from playwright.sync_api import expect

from tests.browser.picture import (
    by_name,
    eventually,
    expect_saved,
    go,
    pixels,
    place,
    scene_of,
    set_number,
    stored,
    wait_for_samples,
)
from tests.browser.test_accessible import violations
from tests.browser.test_layers import choose
from tests.browser.test_takes import kept
from tests.core.odd_asset import odd_glb


@pytest.mark.console("422")
def test_variants_are_made_by_doing_switched_changed_and_combined(page):
    go(page, "Compare")
    wait_for_samples(page, 2)
    by_name(page, "Run or hold the proof")
    page.get_by_role("button", name="Begin variants").click()
    stored(page, lambda scene: list(scene["variant_groups"]), ["group-1"])
    keep = page.get_by_role("button", name="Keep as a variant")
    expect_saved(page)
    keep.click()
    expect(page.get_by_role("alert").filter(has_text="Nothing has changed")).to_be_visible()
    go(page, "Asset")
    page.get_by_role("button", name="Hide Chimney").click()
    expect_saved(page)
    go(page, "Compare")
    keep.click()
    stored(page, lambda scene: scene["variant_groups"]["group-1"]["chosen"], "variant-2")
    expect(page.get_by_role("region", name="Chimney")).to_be_visible()
    page.get_by_role("button", name="Keep an edition of the variants that are on").click()
    stored(page, lambda scene: list(scene["editions"]), ["edition-1"])
    expect(page.get_by_role("list", name="What Variant 2 changes")).to_have_text("Chimney: hidden")
    page.get_by_role("radio", name="As it was").click()
    stored(page, lambda scene: [p["visible"] for p in scene["parts"].values() if p["name"] == "Chimney"], [True])
    page.get_by_test_id("picture").focus()
    page.keyboard.press("2")
    stored(page, lambda scene: [p["visible"] for p in scene["parts"].values() if p["name"] == "Chimney"], [False])
    expect(page.get_by_role("radio", name="Variant 2")).to_be_checked()

    # A second group, of what the light is; then the first one's place is changed under it.
    page.get_by_role("button", name="Begin variants").click()
    go(page, "Look")
    set_number(page, "Exposure", "2")
    expect_saved(page)
    go(page, "Compare")
    page.get_by_role("button", name="Keep as a variant").last.click()
    stored(page, lambda scene: scene["variant_groups"]["group-2"]["name"], "Look")
    expect(page.get_by_text("4 combinations")).to_be_visible()
    page.get_by_role("button", name="Edition Edition 1").click()
    expect(page.get_by_role("button", name="Edition Edition 1")).to_have_attribute("aria-pressed", "true")
    go(page, "Look")
    set_number(page, "Exposure", "1")
    go(page, "Compare")
    expect(page.get_by_test_id("changed-under")).to_be_visible()
    page.get_by_role("button", name="In all").click()
    expect(page.get_by_test_id("changed-under")).to_have_count(0)
    stored(
        page,
        lambda scene: [v["values"]["/look/exposure"] for v in scene["variant_groups"]["group-2"]["variants"].values()],
        [1, 1],
    )

    # A rule: what does not go together is said, and not taken.
    page.get_by_role("radio", name="As it was").first.hover()
    page.get_by_role("button", name="More about As it was").first.click()
    page.get_by_role("menuitemcheckbox", name="Look: Variant 2").click()
    expect(page.get_by_text("4 combinations, of which 3 go together")).to_be_visible()
    page.get_by_role("radio", name="As it was").first.click()
    expect(page.get_by_role("alert").filter(has_text="do not go together")).to_be_visible()

    # The default of its group, to which one press goes back.
    page.get_by_role("radio", name="As it was").last.hover()
    page.get_by_role("button", name="More about As it was").last.click()
    page.get_by_role("menuitemcheckbox", name="The default of its group").click()
    page.get_by_role("button", name="All as by default").click()
    stored(page, lambda scene: scene["variant_groups"]["group-2"]["chosen"], "variant-1")


def test_a_brand_colour_is_tied_to_the_strap_and_reached(page):
    wait_for_samples(page, 1)
    choose(page, "Carry Strap")
    go(page, "Compare")
    page.get_by_label("#rrggbb, or L* a* b*").fill("mauve")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_text("'mauve' is no colour")).to_be_visible()
    page.get_by_label("#rrggbb, or L* a* b*").fill("#7a5a4c")
    page.get_by_role("button", name="Add", exact=True).click()
    brand = page.get_by_role("group", name="Brand colour #7a5a4c")
    expect(brand).to_contain_text("Carry Strap")

    def even():
        found = re.search(r"In even lightΔE ([\d.]+)", brand.text_content())
        return float(found[1]) if found else None

    eventually(page, lambda: even() is not None)
    under_pointer = page.get_by_test_id("pixel-values")
    for down in range(30):  # from above onto the strap
        page.mouse.move(*place(page, 0.5, 0.02 + 0.01 * down))
        page.wait_for_timeout(100)
        if under_pointer.is_visible():
            break
    expect(under_pointer).to_contain_text(re.compile(r"#7a5a4cΔE \d+\.\d, "))
    before = even()
    assert before > 2
    page.get_by_role("button", name="More of #7a5a4c").click()
    page.get_by_role("menuitem", name="Take the nearest base colour").click()
    eventually(page, lambda: (even() or 99) < 0.5 * before, 60)  # a dozen pictures are made for it
    page.get_by_role("button", name="More of #7a5a4c").click()
    page.get_by_role("menuitem", name="Report over editions and light").click()
    table = page.get_by_role("dialog").get_by_role("table")
    expect(table).not_to_contain_text("…", timeout=240_000)
    assert len(re.findall(r"\d+\.\d", table.text_content())) == len(scene_of(page)["conditions"])


def test_a_pair_shows_another_light_beside_turns_along_and_is_kept(page):
    wait_for_samples(page, 1)
    go(page, "Compare")
    page.get_by_role("button", name="Show another beside").click()
    beside = page.get_by_role("toolbar", name="Beside view")
    expect(beside).to_be_visible()

    def light_beside(name):
        page.get_by_role("combobox", name="Light beside").click()
        page.get_by_role("option", name=name).click()

    def brightness():
        return pixels(page, "free-picture").mean()

    def orbit():
        """By hand, in the view beside."""
        box = page.get_by_test_id("free-picture").bounding_box()
        middle = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(*middle)
        page.mouse.down()
        page.mouse.move(middle[0] + 60, middle[1], steps=4)
        page.mouse.up()

    light_beside("Hotel Evening")
    page.wait_for_selector("[data-testid=free-picture][data-state]", timeout=60_000)
    light_beside("Catalogue White")
    eventually(page, lambda: brightness() > 150, 120)
    light_beside("Hotel Evening")
    eventually(page, lambda: brightness() < 130, 120)
    before = scene_of(page)["camera"]["position"]
    orbit()
    eventually(page, lambda: scene_of(page)["camera"]["position"] != before)
    expect_saved(page)
    page.keyboard.press("k")
    eventually(page, lambda: len(kept(page)) == 1)
    words = page.evaluate("async id => (await (await fetch(`/api/v1/takes/${id}/words`)).json())", kept(page)[0]["id"])
    assert {each["area"] for each in words["differences"]} >= {"light"}, "it has the light that it shows"
    with page.expect_download() as saving:
        page.get_by_role("button", name="Save", exact=True).click()
    assert saving.value.suggested_filename == "pair.png"
    page.get_by_role("button", name="Turn apart").click()
    at = scene_of(page)["camera"]["position"]
    orbit()
    expect(page.get_by_role("button", name="Turn together")).to_have_attribute("aria-pressed", "true")
    expect_saved(page)
    assert scene_of(page)["camera"]["position"] == at
    page.get_by_role("button", name="Close the pair").click()
    expect(beside).to_have_count(0)


def test_a_view_beside_has_a_look_of_its_own_and_costs_no_sample(page):
    wait_for_samples(page, 1)
    go(page, "Compare")
    page.get_by_role("button", name="Show another beside").click()
    beside = page.get_by_test_id("free-picture")
    eventually(page, lambda: beside.get_attribute("data-samples") is not None)
    for field in ("Edition", "Light", "Shot"):  # as it is, but for its look
        other = page.get_by_role("combobox", name=f"{field} beside")
        if other.count():
            other.click()
            page.get_by_role("option", name="As it is").click()

    def look_beside(name):
        page.get_by_role("combobox", name="Look beside").click()
        page.get_by_role("option", name=name, exact=True).click()

    def colour(picture):
        """How far red, green and blue are from one another."""
        return np.ptp(pixels(page, picture)[..., :3].astype(float), axis=-1).mean()

    look_beside("Silver")
    eventually(page, lambda: colour("free-picture") < 1 < colour("picture"))
    look_beside("As it is now, held")
    eventually(page, lambda: colour("free-picture") > 1)
    before = pixels(page, "free-picture").mean()
    go(page, "Look")
    set_number(page, "Exposure", "3")
    eventually(page, lambda: pixels(page, "picture").mean() > before + 20)
    assert abs(pixels(page, "free-picture").mean() - before) < 5, "it is held as it was"
    go(page, "Compare")
    look_beside("As it is")
    eventually(page, lambda: pixels(page, "free-picture").mean() > before + 20)


def test_up_to_four_are_seen_at_once_and_one_of_them_goes(page):
    wait_for_samples(page, 1)
    go(page, "Compare")
    for _ in range(3):
        page.get_by_role("button", name="Show another beside").click()
    expect(page.get_by_role("button", name="Show another beside")).to_have_count(0)
    beside = [page.get_by_test_id(name) for name in ("free-picture", "free-picture-2", "free-picture-3")]
    for each in beside:
        expect(each).to_have_attribute("data-state", re.compile("."), timeout=120_000)
    boxes = [each.bounding_box() for each in (page.get_by_test_id("picture"), *beside)]
    assert len({(round(box["x"]), round(box["y"])) for box in boxes}) == 4 and boxes[3]["y"] > boxes[0]["y"] + 100
    lights = [page.get_by_role("combobox", name=f"Light beside{n}", exact=True) for n in ("", " 2", " 3")]
    names = [light.text_content() for light in lights]
    assert len(set(names)) == 3, "each begins with light of its own"
    assert violations(page) == []
    page.get_by_role("button", name="Close the beside 2 view").click()
    expect(page.get_by_test_id("free-picture-3")).to_have_count(0)
    assert [light.text_content() for light in lights[:2]] == [names[0], names[2]], "the one behind it moves up"
    at = int(beside[1].get_attribute("data-serial"))
    lights[1].click()
    page.get_by_role("option", name="As it is").click()
    eventually(page, lambda: int(beside[1].get_attribute("data-serial")) > at)
    page.get_by_role("button", name="Close the pair").click()
    expect(beside[0]).to_have_count(0)


def test_another_asset_stands_in_as_a_variant_and_copies_wear_an_edition(page, tmp_path):
    """Switched by a click; and a copy of the body keeps the edition when the project goes back."""
    (tmp_path / "odd.glb").write_bytes(odd_glb())
    wait_for_samples(page, 1)
    go(page, "Compare")
    lantern = {key for key, part in scene_of(page)["parts"].items() if part["visible"]}

    def seen(scene):
        groups = scene["part_groups"]
        shown = {key for key, part in scene["parts"].items() if part["visible"]}
        return {key for key in shown if groups.get(scene["parts"][key]["group"], {"visible": True})["visible"]}

    page.get_by_label("File of the asset in its place").set_input_files(tmp_path / "odd.glb")
    stored(page, lambda scene: len(seen(scene)), 5)
    assert not seen(scene_of(page)) & lantern
    page.get_by_role("radio", name="odd").wait_for()
    page.get_by_role("radiogroup", name="Variants of Asset").get_by_role("radio").first.click()
    stored(page, seen, lantern)

    page.get_by_role("button", name="Begin variants").click()
    expect_saved(page)
    go(page, "Asset")
    page.get_by_role("button", name="Hide Chimney").click()
    expect_saved(page)
    go(page, "Compare")
    page.get_by_role("button", name="Keep as a variant").last.click()
    stored(page, lambda scene: scene["variant_groups"]["group-2"]["chosen"], "variant-2")
    page.get_by_role("button", name="Keep an edition of the variants that are on").click()
    stored(page, lambda scene: list(scene["editions"]), ["edition-1"])
    page.get_by_role("radio", name="As it was").click()
    go(page, "Asset")
    page.get_by_role("grid", name="Parts").get_by_text("Chimney", exact=True).click()
    page.get_by_role("button", name="Arrange").click()
    page.get_by_role("button", name="Duplicate").click()

    def chimneys(scene):
        return [part["visible"] for part in scene["parts"].values() if part["name"].startswith("Chimney")]

    stored(page, chimneys, [True, True])
    expect_saved(page)
    go(page, "Compare")
    page.get_by_label("Edition Edition 1").hover()
    page.get_by_role("button", name="Edition 1 on the chosen copies").click()
    stored(page, chimneys, [True, False])
