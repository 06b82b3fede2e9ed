"""Decals by hand: put where the picture is pressed, dragged over the surface, sized, turned, written, taken away."""

import re

import numpy as np
from PIL import Image
from playwright.sync_api import expect

from tests.browser.picture import BASE, eventually, go, pixels, scene_of, stored, wait_for_samples


def at(page, x, y):
    """The place on the screen of shares of the picture."""
    box = page.get_by_test_id("picture").bounding_box()
    return box["x"] + x * box["width"], box["y"] + y * box["height"]


def middle_of(page, name):
    box = page.get_by_test_id(name).bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def pulled(page, start, end):
    page.mouse.move(*start)
    page.mouse.down()
    for share in (0.3, 0.6, 0.9, 1.0):
        page.mouse.move(*(a + (b - a) * share for a, b in zip(start, end, strict=True)))
        page.wait_for_timeout(40)
    page.mouse.up()


def decal(scene):
    (found,) = scene["decals"].values()
    return found


def put(page, kind):
    """Take a decal into the hand and press on the base of the lantern."""
    wait_for_samples(page, 2)
    page.get_by_role("grid", name="Parts").get_by_text("Base", exact=True).click()
    go(page, "Materials")
    page.get_by_role("button", name=re.compile("^Decals")).click()
    page.get_by_role("button", name="Put a decal on it").click()
    page.get_by_role("menuitem", name=kind, exact=True).click()
    expect(page.get_by_text("Press in the picture where it is to lie")).to_be_visible()
    page.mouse.click(*at(page, *BASE))
    stored(page, lambda scene: len(scene["decals"]), 1)


def test_lettering_is_put_on_a_part_dragged_sized_turned_and_taken_away(page):
    wait_for_samples(page, 4)
    bare = pixels(page)
    put(page, "Lettering")
    first = decal(scene_of(page))
    parts = scene_of(page)["parts"]
    assert [parts[key]["name"] for key in first["parts"]] == ["Base"]
    wait_for_samples(page, 4)
    eventually(page, lambda: abs(pixels(page) - bare).max() > 30)
    page.get_by_label("Words").fill("")
    expect(page.get_by_text("Lettering has one letter at least")).to_be_visible()
    page.get_by_label("Words").blur()
    expect(page.get_by_label("Words")).to_have_value(first["content"]["text"])
    page.get_by_label("Words").fill("Moss & Brass")
    page.get_by_label("Words").blur()
    stored(page, lambda scene: decal(scene)["content"]["text"], "Moss & Brass")

    x, y = middle_of(page, "decal-move")
    pulled(page, (x, y), (x + 14, y + 8))
    stored(page, lambda scene: decal(scene)["middle"] != first["middle"], True)
    corner = middle_of(page, "decal-lower-right")
    pulled(page, corner, (corner[0] + 14, corner[1] + 3))
    stored(page, lambda scene: decal(scene)["width"] > 1.1 * first["width"], True)
    knob, (x, y) = middle_of(page, "decal-turn"), middle_of(page, "decal-move")
    reach = float(np.hypot(knob[0] - x, knob[1] - y))
    pulled(page, knob, (x + reach, y))
    stored(page, lambda scene: -125 < decal(scene)["turn"] < -55, True)

    page.get_by_role("button", name="Hide Lettering 1").click()
    stored(page, lambda scene: decal(scene)["enabled"], False)
    page.get_by_role("button", name="Remove Lettering 1").click()
    stored(page, lambda scene: scene["decals"], {})
    expect(page.get_by_test_id("decal-move")).to_have_count(0)
    for _ in range(2):
        page.get_by_role("button", name="Undo").click()
    stored(page, lambda scene: decal(scene)["enabled"], True)


def test_a_decal_is_dragged_from_one_part_to_another(page):
    put(page, "Lettering in foil")
    x, y = middle_of(page, "decal-move")
    glass = at(page, 0.5, 0.5)
    pulled(page, (x, y), glass)
    parts = scene_of(page)["parts"]
    stored(page, lambda scene: [parts[key]["name"] for key in decal(scene)["parts"]], ["Chimney"])
    # The drawer goes along.
    expect(page.get_by_text("on Chimney").first).to_be_visible()
    expect(page.get_by_role("region", name="Decal Lettering 1")).to_be_visible()


def test_a_picture_is_brought_and_lies_where_it_was_pressed(page, tmp_path):
    path = tmp_path / "green-label.png"
    Image.fromarray(np.tile(np.array([0, 255, 0], np.uint8), (64, 128, 1))).save(path)
    put(page, "A picture")
    wait_for_samples(page, 2)
    before = pixels(page)
    page.get_by_role("button", name="Image", exact=True).click()
    expect(page.get_by_role("menuitem", name="Porcelain by a window")).to_have_count(0)
    page.keyboard.press("Escape")
    page.get_by_label("File for Image").set_input_files(path)
    stored(page, lambda scene: (decal(scene)["content"]["file"] or {}).get("name"), "green-label.png")
    wait_for_samples(page, 2)

    def is_green():
        change = pixels(page).astype(int) - before.astype(int)
        return (change[..., 1] - change[..., 0]).max() > 40

    eventually(page, is_green)
    expect(page.get_by_role("button", name="Image", exact=True)).to_have_text("green-label")


def test_a_lit_ball_and_an_image_of_ones_own_drive_a_colour(page, tmp_path):
    wait_for_samples(page, 2)
    page.get_by_role("grid", name="Parts").get_by_text("Wick Holder", exact=True).click()
    go(page, "Materials")
    page.get_by_role("button", name="Pattern or image for Base colour").click()
    page.get_by_role("menuitem", name="Lit ball").click()

    def source(scene):
        part = next(each for each in scene["parts"].values() if each["name"] == "Wick Holder")
        return scene["materials"][part["material"]]["inputs"].get("base_color", {}).get("source") or {}

    stored(page, lambda scene: source(scene).get("kind"), "lit_ball")
    page.get_by_role("button", name="Ball", exact=True).click()
    page.get_by_role("menuitem", name="Plaster at dusk").click()
    stored(page, lambda scene: (source(scene).get("file") or {}).get("name"), "ball-dusk.png")
    path = tmp_path / "no image.png"
    path.write_text("hello")
    page.get_by_label("File for Ball").set_input_files(path)
    expect(page.get_by_text("no image.png: is of no kind that can be read").first).to_be_visible()
    assert source(scene_of(page))["file"]["name"] == "ball-dusk.png", "what was there stays"
