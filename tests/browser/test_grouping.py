"""Parts together and in numbers, by hand: groups, what is strewn, what stands on a surface, clips of a file."""

import re

from playwright.sync_api import expect

from tests.browser.picture import (
    BASE,
    CHIMNEY,
    bring_in,
    eventually,
    part,
    pixels,
    place,
    scene_of,
    set_number,
    stored,
    wait_for_samples,
    wait_until_shown,
)
from tests.core.test_gltf_motion import two_clips


def selected(page):
    return page.get_by_role("region", name="Selected parts")


def test_parts_are_grouped_moved_as_one_and_let_go_again(page):
    wait_for_samples(page, 1)
    part(page, "Cap").click()
    part(page, "Chimney").click(modifiers=["Control"])
    page.get_by_role("button", name="Arrange").click()
    selected(page).get_by_role("button", name="Group", exact=True).click()
    group = page.get_by_role("grid", name="Parts").get_by_role("button", name="Group 1 2 parts")
    expect(group).to_have_attribute("aria-pressed", "true")
    wait_until_shown(page)
    before = pixels(page)
    set_number(page, "Moved by Y", "6 cm")
    stored(page, lambda scene: scene["part_groups"]["group-1"]["offset"], [0, 0.06, 0])
    wait_until_shown(page)
    eventually(page, lambda: abs(pixels(page) - before).max() > 40, 60)
    group.dblclick()
    page.get_by_label("Name of Group 1").fill("Head")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Close Head", exact=True).click()
    expect(part(page, "Cap")).to_have_count(0)
    page.get_by_role("button", name="Hide Head").click()
    stored(page, lambda scene: [scene["parts"][key]["visible"] for key in ("cap", "chimney")], [False, False])
    page.get_by_role("button", name="Open Head", exact=True).click()
    part(page, "Cap").click()
    part(page, "Chimney").click(modifiers=["Control"])
    page.get_by_role("button", name="Dissolve the group").click()
    stored(page, lambda scene: scene["part_groups"], {})
    assert scene_of(page)["parts"]["cap"]["offset"] == [0, 0.06, 0], "it stays where it stood"


def test_a_ball_is_strewn_over_the_base_and_stands_alone_again(page):
    wait_for_samples(page, 1)
    page.get_by_role("button", name=re.compile("^Set backdrop")).click()
    page.get_by_role("button", name="Add: Ball").click()
    set_number(page, "Radius", "3 mm")
    stored(page, lambda scene: scene["parts"]["ball-1"]["form"]["radius"], 0.003)
    part(page, "Base").click(modifiers=["Control"])
    page.get_by_role("button", name="Arrange").click()
    page.get_by_role("button", name="Strew over Base").click()
    expect(page.get_by_text("Over Base", exact=True)).to_be_visible()
    wait_until_shown(page)
    before = pixels(page)
    set_number(page, "Pieces a square metre", "20000")
    stored(page, lambda scene: scene["parts"]["ball-1-strewn-1"]["strewn"]["density"], 20_000)
    wait_until_shown(page)
    eventually(page, lambda: abs(pixels(page) - before).max() > 40, 60)
    page.get_by_role("button", name="Stand alone").click()
    stored(page, lambda scene: scene["parts"]["ball-1-strewn-1"]["strewn"], None)


def test_the_selection_is_stood_where_the_pointer_is(page):
    wait_for_samples(page, 8)
    page.get_by_role("button", name=re.compile("^Set backdrop")).click()
    page.get_by_role("button", name="Add: Box").click()
    stored(page, lambda scene: "box-1" in scene["parts"], True)
    wait_until_shown(page)
    page.mouse.click(*place(page, BASE[0], (CHIMNEY[1] + BASE[1]) / 2), button="right")
    page.get_by_role("menuitem", name="Stand the selection here").click()
    eventually(page, lambda: scene_of(page)["parts"]["box-1"]["offset"][1] > 0.01)
    x, _, z = scene_of(page)["parts"]["box-1"]["offset"]
    assert abs(x) < 0.08 and abs(z) < 0.08, "on the lantern, which stands in the middle"


def test_another_clip_of_a_file_is_chosen(page, tmp_path):
    file = two_clips()
    file.content["cameras"] = [{"type": "perspective", "perspective": {"yfov": 0.5, "znear": 0.01}}]
    file.content["nodes"].append({"camera": 0, "name": "Front", "translation": [0, 0, 7]})
    file.content["scenes"][0]["nodes"].append(len(file.content["nodes"]) - 1)
    bring_in(page, file.written(tmp_path))
    expect(page.get_by_role("heading", name="1 part")).to_be_visible(timeout=60_000)
    page.get_by_role("button", name="Clip: Slide").click(timeout=60_000)
    page.get_by_role("menuitem", name="Clip 2").click()
    stored(page, lambda scene: scene["asset"]["clip"], "Clip 2")
    expect(page.get_by_role("button", name="Clip: Clip 2")).to_be_visible()
    page.get_by_role("navigation", name="Walk").get_by_text("Camera", exact=True).click()
    page.get_by_role("button", name="See as a camera of the file").click()
    page.get_by_role("menuitem", name="Front").click()
    stored(page, lambda scene: scene["camera"]["position"], [0, 0, 7])


def test_parts_are_merged_and_split_into_what_they_were(page):
    wait_for_samples(page, 1)
    part(page, "Cap").click()
    part(page, "Strap Studs").click(modifiers=["Control"])
    page.get_by_role("button", name="Arrange").click()
    page.get_by_role("button", name="Merge").click()
    expect(page.get_by_role("heading", name="7 parts")).to_be_visible()
    expect(selected(page)).to_contain_text("Cap")
    stored(page, lambda scene: [piece["mesh"] for piece in scene["parts"]["cap-1"]["pieces"]], [1, 2])
    page.get_by_role("button", name="Split").click()
    expect(page.get_by_role("heading", name="8 parts")).to_be_visible()
    for _ in range(2):
        page.get_by_role("button", name="Undo").click()
    stored(page, lambda scene: "cap" in scene["parts"], True)
    part(page, "Strap Studs").click()
    page.get_by_role("button", name="Split").click()
    expect(page.get_by_role("heading", name="9 parts")).to_be_visible()
    expect(part(page, "Strap Studs 2")).to_be_visible()
