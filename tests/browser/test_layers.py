"""Dressing by hand: a material of the library is dropped on a part, layers are laid over it, one's own are kept."""

import re

from playwright.sync_api import expect

from tests.browser.picture import (
    BASE,
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


def material_of(scene, part):
    name = next(each["material"] for each in scene["parts"].values() if each["name"] == part)
    return name, scene["materials"][name]


def choose(page, part):
    page.get_by_role("grid", name="Parts").get_by_text(part, exact=True).click()
    go(page, "Materials")


def open_library(page, words):
    page.get_by_role("button", name="Library", exact=True).click()
    page.get_by_role("textbox", name="Find a material").fill(words)


def test_a_material_of_the_library_is_seen_while_it_hovers_and_stays_when_it_is_dropped(page):
    wait_for_samples(page, 2)
    go(page, "Materials")
    open_library(page, "rusted")
    swatch = page.get_by_role("button", name="Material Rusted blue paint of the library")
    expect(swatch).to_be_visible()
    at, before, materials = revision(page), pixels(page), set(scene_of(page)["materials"])
    picture, card = page.get_by_test_id("picture").bounding_box(), swatch.bounding_box()
    x, y = (picture[a] + share * picture[b] for a, b, share in (("x", "width", BASE[0]), ("y", "height", BASE[1])))
    page.mouse.move(card["x"] + 30, card["y"] + 20)
    page.mouse.down()
    page.mouse.move(x, y - 12, steps=6)
    page.mouse.move(x, y, steps=4)
    wait_for_samples(page, 1)
    eventually(page, lambda: abs(pixels(page) - before).max() > 40)
    assert set(scene_of(page)["materials"]) == materials, "nothing is stored while it hovers"
    page.mouse.up()
    wait_for_revision(page, at + 1)
    stored(page, lambda scene: material_of(scene, "Base")[0], "worn-rusted")
    _, worn = material_of(scene_of(page), "Base")
    assert [layer["material"] for layer in worn["layers"]] == ["worn-rusted-rust"] * 2
    page.get_by_role("button", name="Undo").click()
    stored(page, lambda scene: set(scene["materials"]) == materials, True)


def test_a_worn_finish_is_made_from_nothing(page):
    wait_for_samples(page, 2)
    choose(page, "Base")
    before = pixels(page)
    page.get_by_role("button", name=re.compile("^Layers")).click()
    page.get_by_role("button", name="Lay a material over it").click()
    page.get_by_role("menuitem", name="Moss Felt").click()
    layer = page.get_by_role("region", name="Layer Moss Felt")
    expect(layer).to_be_visible()

    def laid(scene):
        return material_of(scene, "Base")[1]["layers"][0]

    stored(page, lambda scene: laid(scene)["mask"]["source"]["kind"], "edges")
    wait_for_samples(page, 2)
    eventually(page, lambda: abs(pixels(page) - before).max() > 30)
    set_number(page, "Width", "6 mm")
    stored(page, lambda scene: laid(scene)["mask"]["source"]["width"], 0.006)
    layer.get_by_role("button", name="Pattern or image for Break-up of Moss Felt").click()
    page.get_by_role("menuitem", name="Noise").click()
    stored(page, lambda scene: (laid(scene)["breakup"] or {}).get("combine"), "multiply")
    layer.get_by_role("button", name="Edges", exact=True).click()
    page.get_by_role("menuitem", name="Crevices").click()
    stored(page, lambda scene: laid(scene)["mask"]["source"]["kind"], "crevices")
    layer.get_by_role("button", name="Moss Felt", exact=True).click()
    expect(page.get_by_text("lies over others").or_(page.get_by_text("on Felt Foot"))).to_be_visible()
    page.get_by_role("button", name="Back to Brushed Brass").click()
    page.get_by_role("button", name="Hide the layer Moss Felt").click()
    stored(page, lambda scene: laid(scene)["enabled"], False)
    page.get_by_role("button", name="Remove the layer Moss Felt").click()
    stored(page, lambda scene: material_of(scene, "Base")[1]["layers"], [])
    expect(layer).to_have_count(0)


def test_ones_own_material_is_kept_found_by_its_words_and_taken_off(page):
    wait_for_samples(page, 2)
    choose(page, "Carry Strap")
    page.get_by_role("button", name="Keep Cognac Leather in the library").click()
    page.get_by_label("Words to find it by").fill("handle summer")
    page.get_by_role("button", name="Keep Cognac Leather", exact=True).click()
    expect(page.get_by_text("is kept in the library")).to_be_visible()
    open_library(page, "summer")
    own = page.get_by_role("button", name="Dress Carry Strap in Cognac Leather")
    expect(own).to_be_visible()
    own.click()
    stored(page, lambda scene: material_of(scene, "Carry Strap")[0].startswith("own-"), True)
    page.on("dialog", lambda dialog: dialog.accept())
    own.hover()
    star = page.get_by_role("button", name="Cognac Leather among the favourites")
    star.click()
    expect(star).to_have_attribute("aria-pressed", "true")
    page.get_by_label("Family").locator("..").click()
    page.get_by_role("option", name="Favourites").click()
    expect(page.get_by_role("listbox")).to_have_count(0)
    own.hover()
    page.get_by_role("button", name="Take Cognac Leather off the shelf").click()
    expect(page.get_by_text("No material of the library is called that.")).to_be_visible()
    assert material_of(scene_of(page), "Carry Strap")[0].startswith("own-"), "the project keeps what it has"


def test_what_no_real_thing_has_is_said_and_settled(page):
    wait_for_samples(page, 2)
    choose(page, "Base")
    doubts = page.get_by_role("region", name="Is it possible?")
    expect(doubts).to_have_count(0)
    set_number(page, "Metalness", "0.6")
    expect(doubts).to_contain_text("a thing is a metal or it is none")
    doubts.get_by_role("button", name="Nearest possible").click()
    stored(page, lambda scene: material_of(scene, "Base")[1]["base_metalness"], 1.0)
    expect(doubts).to_have_count(0)


def test_a_material_is_copied_to_other_parts_made_their_own_and_what_is_left_over_removed(page):
    wait_for_samples(page, 2)
    choose(page, "Felt Foot")
    page.keyboard.press("c")
    expect(page.get_by_text("Moss Felt is copied.")).to_be_visible()
    go(page, "Asset")
    choose(page, "Carry Strap")
    page.keyboard.press("Shift+C")
    worn = material_of(scene_of(page), "Felt Foot")[0]
    stored(page, lambda scene: material_of(scene, "Carry Strap")[0], worn)

    def act(words):
        page.keyboard.press("Control+k")
        page.get_by_role("textbox", name="Find an action").fill(words)
        page.keyboard.press("Enter")

    act("A material of its own")
    stored(page, lambda scene: material_of(scene, "Carry Strap")[1]["name"], "Moss Felt 2")
    assert material_of(scene_of(page), "Felt Foot")[0] == worn
    act("Remove the materials")
    stored(page, lambda scene: "Cognac Leather" in {each["name"] for each in scene["materials"].values()}, False)
