"""Asset by hand: what came is looked over, put right, sorted and arranged."""

import pytest
from playwright.sync_api import expect

from tests.browser.picture import (
    bring_in,
    eventually,
    overlay,
    part,
    place,
    scene_of,
    set_number,
    stored,
    wait_for_samples,
    wait_until_shown,
)
from tests.core.odd_asset import odd_glb


@pytest.fixture
def odd(page, tmp_path):
    """A project of an asset that needs to be put right."""
    (tmp_path / "odd.glb").write_bytes(odd_glb())
    bring_in(page, tmp_path / "odd.glb")
    expect(page.get_by_text("odd.glb")).to_be_visible(timeout=60_000)
    page.wait_for_selector("canvas[data-state]", timeout=60_000)
    expect(page.get_by_role("button", name="Size 46 × 36 × 38 m")).to_be_visible(timeout=60_000)
    return page


def wait_for_fault_lines(page, wanted):
    """Until lines in the colour of faults are drawn over the picture, or are not any more."""

    def is_drawn():
        drawn = overlay(page)
        return ((drawn[..., 0] > 240) & (drawn[..., 2] < 90) & (drawn[..., 3] > 60)).sum() > 50

    eventually(page, lambda: is_drawn() == wanted)


def parts_by_name(page):
    return {each["name"]: each for each in scene_of(page)["parts"].values()}


def test_the_report_says_what_is_odd_and_puts_it_right(odd):
    report = odd.get_by_role("list").filter(has_text="An unusual size")
    for text in (
        "Closed parts that face inwards",
        "Open edges",
        "Meshes that are there twice",
        "Materials like others",
    ):
        expect(report.get_by_text(text)).to_be_attached()
    report.get_by_role("button", name="Take them as cm").click()
    expect(odd.get_by_role("button", name="Size 46 × 36 × 38 cm")).to_be_visible(timeout=30_000)
    report.get_by_role("button", name="Turn them round").click()
    report.get_by_role("button", name="Make them one").click()
    report.get_by_role("button", name="Share them").click()
    expect(report.get_by_text("Done")).to_have_count(4)
    stored(odd, lambda scene: len(scene["materials"]), 3)
    scene, parts = scene_of(odd), parts_by_name(odd)
    assert scene["asset"]["scale"] == 0.01 and parts["Mesh_0425"]["inside_out"]
    assert parts["Mesh_0423"]["mesh"] == parts["Mesh_0422"]["mesh"]
    assert 0.1 < scene["camera"]["focus_distance"] < 3, "focus has come along"
    for _ in range(4):
        odd.get_by_role("button", name="Undo").click()
    expect(odd.get_by_role("button", name="Size 46 × 36 × 38 m")).to_be_visible(timeout=30_000)
    expect(report.get_by_text("Done")).to_have_count(0)
    open_edges = report.get_by_role("listitem").filter(has_text="Open edges")
    open_edges.get_by_role("button", name="Show").click()
    expect(part(odd, "Mesh_0424")).to_have_attribute("aria-pressed", "true")
    wait_for_fault_lines(odd, True)
    odd.keyboard.press("Escape")
    open_edges.get_by_role("button", name="Hide").click()
    wait_for_fault_lines(odd, False)


def test_the_upright_axis_is_chosen_and_the_asset_stands(odd):
    odd.get_by_role("button", name="Size 46 × 36 × 38 m").click()
    expect(odd.get_by_role("img", name="The asset beside a door, to scale")).to_be_visible()
    odd.get_by_role("group", name="Axis that is up").get_by_role("button", name="Z", exact=True).click()
    expect(odd.get_by_text("46 × 38 × 36 m")).to_be_visible(timeout=30_000)
    stored(odd, lambda scene: scene["asset"]["up"], "+z")


def test_parts_are_renamed_sorted_and_found_by_what_they_share(odd):
    part(odd, "Mesh_0422").dblclick()
    odd.get_by_label("Name of Mesh_0422").fill("Ball")
    odd.keyboard.press("Enter")
    expect(part(odd, "Ball")).to_be_visible()
    part(odd, "Mesh_0424").focus()
    odd.keyboard.press("F2")
    odd.get_by_label("Name of Mesh_0424").fill("Lid")
    odd.keyboard.press("Escape")
    expect(part(odd, "Mesh_0424")).to_be_visible()
    odd.get_by_role("group", name="Make sets by").get_by_role("button", name="material").click()
    expect(odd.get_by_role("grid", name="Part sets").get_by_role("row")).to_have_count(4)
    part(odd, "Mesh_0421").click()
    odd.get_by_role("button", name="Same material").click()
    expect(part(odd, "Mesh_0425")).to_have_attribute("aria-pressed", "true")
    expect(odd.get_by_role("region", name="Selected parts")).to_contain_text("2 parts")
    assert "Ball" in parts_by_name(odd)


def test_parts_are_copied_in_a_row_dropped_aligned_and_mirrored(odd):
    part(odd, "Mesh_0424").click()
    odd.get_by_role("button", name="Arrange").click()
    for label, text in (("Step X", "30 m"), ("Copies", "3")):
        set_number(odd, label, text)
    odd.get_by_role("button", name="Duplicate").click()
    expect(odd.get_by_role("heading", name="8 parts")).to_be_visible()
    expect(odd.get_by_role("region", name="Selected parts")).to_contain_text("3 parts")
    odd.get_by_role("button", name="To the ground").click()
    stored(odd, lambda scene: {round(p["offset"][1], 4) for p in scene["parts"].values()}, {0, -6})
    odd.get_by_role("button", name="Align X middle").click()
    stored(odd, lambda scene: sorted({round(p["offset"][0], 4) for p in scene["parts"].values()}), [0, 60])
    odd.get_by_role("button", name="Mirror along X").click()
    stored(odd, lambda scene: [p["mirror"] for p in scene["parts"].values()].count("x"), 3)
    odd.get_by_role("region", name="Selected parts").get_by_role("button", name="Remove").click()
    expect(odd.get_by_role("heading", name="5 parts")).to_be_visible()


def test_a_part_is_placed_by_numbers_and_the_picture_follows(page):
    """The strap of the demo's lantern is moved out of the picture and comes back by undo."""
    part(page, "Carry Strap").click()
    set_number(page, "Moved by X", "5 m")
    size = page.get_by_role("button", name="Size 5.")
    expect(size).to_be_visible(timeout=30_000)
    set_number(page, "Turn about Y", "90")
    stored(page, lambda scene: {(p["turn_y"], p["offset"][0]) for p in scene["parts"].values()}, {(0, 0), (90, 5)})
    page.get_by_role("button", name="Undo").click()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="Size 12 ×")).to_be_visible(timeout=30_000)


def test_a_newer_version_takes_the_place_of_the_one_before(odd, tmp_path):
    part(odd, "Mesh_0422").dblclick()
    odd.get_by_label("Name of Mesh_0422").fill("Ball")
    odd.keyboard.press("Enter")
    (tmp_path / "odd-2.glb").write_bytes(odd_glb(names=("Mesh_0421", "Mesh_0422", "Mesh_0423", None, "Mesh_0425")))
    odd.get_by_label("File of the newer version").set_input_files(tmp_path / "odd-2.glb")
    offered = odd.get_by_role("dialog", name="A newer version")
    expect(offered).to_contain_text("1 gone · 4 as before", timeout=60_000)
    expect(offered.get_by_role("row").filter(has_text="Mesh_0424")).to_contain_text("gone")
    offered.get_by_role("button", name="Take it").click()
    expect(odd.get_by_role("heading", name="4 parts")).to_be_visible()
    expect(part(odd, "Ball")).to_be_visible()
    expect(odd.get_by_text("odd-2.glb")).to_be_visible()
    odd.get_by_role("button", name="Undo").click()
    expect(odd.get_by_role("heading", name="5 parts")).to_be_visible()


def test_a_part_that_is_called_otherwise_now_is_matched_by_hand(odd, tmp_path):
    newer = odd_glb(names=("Mesh_0421", "Mesh_0422", "Mesh_0423", "Cover", "Mesh_0425"), open_size=1.25)
    (tmp_path / "odd-2.glb").write_bytes(newer)
    odd.get_by_label("File of the newer version").set_input_files(tmp_path / "odd-2.glb")
    offered = odd.get_by_role("dialog", name="A newer version")
    expect(offered).to_contain_text("1 gone · 1 new", timeout=60_000)
    offered.get_by_role("button", name="Which part is Mesh_0424 now").click()
    odd.get_by_role("menuitem", name="It is Cover").click()
    expect(offered.get_by_role("row").filter(has_text="Cover").last).to_contain_text("is Mesh_0424")
    offered.get_by_role("button", name="Take it").click()
    expect(odd.get_by_text("odd-2.glb")).to_be_visible(timeout=30_000)
    expect(part(odd, "Mesh_0424")).to_be_visible()
    expect(odd.get_by_role("heading", name="5 parts")).to_be_visible()


def test_another_asset_is_added_beside_the_one_that_is_there(page, tmp_path):
    (tmp_path / "odd.glb").write_bytes(odd_glb())
    page.get_by_label("File of another asset").set_input_files(tmp_path / "odd.glb")
    expect(page.get_by_role("heading", name="13 parts")).to_be_visible(timeout=60_000)
    expect(page.get_by_role("region", name="Selected parts")).to_contain_text("5 parts")
    expect(page.get_by_role("grid", name="Part sets").get_by_role("row")).to_have_count(1)
    page.get_by_role("button", name="Arrange").click()
    set_number(page, "Size of all", "0.002")
    page.get_by_role("button", name="Move by that").click()
    # Beside the lantern of 12 cm a thing of 46 m is now one of 9 cm.
    stored(page, lambda scene: [group["size"] for group in scene["part_groups"].values()], [0.002])
    page.get_by_role("button", name="Undo").click()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("heading", name="8 parts")).to_be_visible()


def test_parts_are_selected_by_a_rectangle_in_the_picture(page):
    """Over the lower half of the demo's lantern its foot is seen, and not its strap; over all of it both are."""
    wait_for_samples(page, 1)
    wait_until_shown(page)

    def drawn(left, top, right, bottom, key):
        page.keyboard.down(key)
        page.mouse.move(*place(page, left, top))
        page.mouse.down()
        page.mouse.move(*place(page, right, bottom), steps=4)
        expect(page.get_by_test_id("area")).to_be_visible()
        expect(page.get_by_test_id("loupe")).to_have_count(0)
        page.mouse.up()
        expect(page.get_by_test_id("area")).to_have_count(0)
        page.keyboard.up(key)

    drawn(0.3, 0.72, 0.7, 0.95, "Control")
    expect(part(page, "Base")).to_have_attribute("aria-pressed", "true")
    expect(part(page, "Carry Strap")).to_have_attribute("aria-pressed", "false")
    drawn(0.2, 0.02, 0.8, 0.95, "Control")
    expect(part(page, "Carry Strap")).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("r")
    drawn(0.01, 0.02, 0.1, 0.1, "Alt")
    expect(part(page, "Base")).to_have_attribute("aria-pressed", "false")
