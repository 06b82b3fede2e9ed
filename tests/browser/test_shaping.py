"""A set built around the asset, and parts made finer and displaced, by hand."""

import re

import pytest
from playwright.sync_api import expect

from lantern.assets.reading import import_asset
from tests.browser.picture import (
    by_name,
    eventually,
    group,
    part,
    pixels,
    scene_of,
    set_number,
    stored,
    wait_for_samples,
    wait_until_shown,
)


def test_a_set_is_built_measured_and_taken_away(page):
    wait_for_samples(page, 1)
    group(page, "Set").click()
    for piece in ("Sweep", "Plinth", "Mirror ball"):
        page.get_by_role("button", name=f"Add: {piece}").click()
        expect(page.get_by_role("region", name="Selected parts")).to_contain_text(piece)
    expect(page.get_by_role("heading", name="11 parts")).to_be_visible()
    # Of the asset, without its set.
    expect(page.get_by_role("button", name="Size 12 ×")).to_be_visible()
    stored(page, lambda scene: scene["parts"]["mirror-ball-1"]["name"], "Mirror ball")
    scene = scene_of(page)
    assert not scene["ground"]["enabled"] and scene["parts"]["mirror-ball-1"]["material"] == "mirror"
    assert scene["parts"]["sweep-1"]["offset"][1] == scene["ground"]["height"] < -0.1, "the floor went down as well"
    set_number(page, "Radius", "8 cm")
    stored(page, lambda scene: scene["parts"]["mirror-ball-1"]["form"]["radius"], 0.08)
    wait_until_shown(page)
    page.get_by_role("button", name="Undo").click()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("heading", name="10 parts")).to_be_visible()
    page.keyboard.press("Control+a")
    expect(page.get_by_role("region", name="Selected parts")).to_contain_text("8 parts")


def test_a_part_is_subdivided_and_displaced_by_an_image(page):
    wait_for_samples(page, 1)
    part(page, "Carry Strap").click()
    group(page, "Density").click()
    triangles = page.get_by_test_id("triangles")
    expect(triangles).to_have_text(re.compile(r"^14 868 triangles · \d+ MB$"))
    page.get_by_role("button", name="Catmull–Clark").click()
    expect(triangles).to_contain_text("237 888 in the proof")
    page.get_by_role("switch", name="Levels of the print").click()
    expect(triangles).to_contain_text("952 thousand in the print")
    set_number(page, "Levels", "1")
    expect(triangles).to_contain_text("59 472 in the proof")
    page.get_by_role("button", name="No image").click()
    page.get_by_role("menuitem", name="Image 6").click()
    wait_until_shown(page)
    before = pixels(page)
    set_number(page, "Displacement", "12 mm")
    stored(page, lambda scene: scene["parts"]["carry-strap"]["displacement"], 0.012)
    wait_until_shown(page)
    eventually(page, lambda: abs(pixels(page) - before).max() > 40, 60)
    strap = scene_of(page)["parts"]["carry-strap"]
    assert (strap["subdivision"], strap["levels"], strap["print_levels"]) == ("catmull_clark", 1, 3)
    for _ in range(5):
        page.get_by_role("button", name="Undo").click()
    expect(triangles).to_have_text(re.compile(r"^14 868 triangles · \d+ MB$"))


def test_a_part_is_displaced_by_a_pattern_in_the_place_of_an_image(page):
    def strap(scene):
        return scene["parts"]["carry-strap"]

    def pattern(scene):
        return strap(scene)["displacement_input"] or {"source": {"kind": None}}

    wait_for_samples(page, 1)
    part(page, "Carry Strap").click()
    group(page, "Density").click()
    page.get_by_role("button", name="Catmull–Clark").click()
    page.get_by_role("button", name="No image").click()
    page.get_by_role("menuitem", name="Image 6").click()
    wait_until_shown(page)
    before = pixels(page)
    page.get_by_role("button", name="Pattern for Displacement").click()
    expect(page.get_by_role("menuitem", name="Image of the asset")).to_have_count(0)
    page.get_by_role("menuitem", name="Cells").click()
    stored(page, lambda scene: pattern(scene)["source"]["kind"], "cells")
    assert strap(scene_of(page))["displacement_texture"] is None
    set_number(page, "Displacement", "6 mm")
    # The part has a size too, and that is a factor.
    size = page.get_by_role("spinbutton", name="Size in m")
    size.fill("12 mm")
    size.press("Enter")
    stored(page, lambda scene: pattern(scene)["placement"]["size"], 0.012)
    wait_until_shown(page)
    eventually(page, lambda: abs(pixels(page) - before).max() > 40, 60)
    page.get_by_role("button", name="Place the pattern of Displacement by hand").click()
    expect(page.get_by_test_id("placement-move")).to_be_visible()
    page.get_by_role("button", name="Remove the pattern of Displacement").click()
    stored(page, lambda scene: strap(scene)["displacement_input"], None)


def test_levels_beyond_what_can_be_held_are_lowered_and_that_is_said(page):
    wait_for_samples(page, 1)
    part(page, "Carry Strap").click()
    group(page, "Density").click()
    page.get_by_role("button", name="Loop").click()
    set_number(page, "Levels", "6")
    expect(page.get_by_text("6 levels would be 61 million triangles")).to_be_visible(timeout=60_000)
    expect(page.get_by_test_id("triangles")).to_contain_text("3.81 million in the proof")


@pytest.mark.console("status of 422")
def test_what_is_seen_is_exported_and_a_refusal_is_said(page, tmp_path):
    wait_for_samples(page, 1)
    with page.expect_download(timeout=60_000) as coming:
        by_name(page, "Export what is seen")
    coming.value.save_as(tmp_path / "out.glb")
    assert coming.value.suggested_filename.endswith(".glb")
    assert {part.name for part in import_asset(tmp_path / "out.glb").parts.values()} >= {"Cap", "Carry Strap"}
    page.keyboard.press("Control+a")
    page.keyboard.press("h")
    stored(page, lambda scene: any(part["visible"] for part in scene["parts"].values()), False)
    by_name(page, "Export what is seen")
    expect(page.get_by_text("No part of this project is visible")).to_be_visible(timeout=30_000)
