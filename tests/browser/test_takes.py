"""Takes by hand: kept with a key at any stop, found on the sheet, drawn on, compared, taken over, restored."""

import re

import numpy as np
from playwright.sync_api import expect

from tests.browser.picture import eventually, expect_saved, go, pixels, place, revision, scene_of, wait_for_samples


def kept(page):
    """The takes of the open project, newest first."""
    return page.evaluate(
        """async () => (await (await fetch(
            `/api/v1/projects/${location.hash.split('/')[2]}/takes?limit=50`)).json()).items"""
    )


def turn(page, key="ArrowLeft"):
    before = revision(page)
    page.keyboard.press(key)
    eventually(page, lambda: revision(page) > before)
    expect_saved(page)


def test_two_takes_are_kept_compared_taken_over_and_restored(page):
    wait_for_samples(page, 2)
    first_camera = scene_of(page)["camera"]["position"]
    page.keyboard.press("k")
    eventually(page, lambda: len(kept(page)) == 1)
    turn(page)
    page.keyboard.press("n")  # an edit that is no part of what is compared in the picture
    eventually(page, lambda: not scene_of(page)["proof"]["denoise"])
    wait_for_samples(page, 2)
    page.keyboard.press("k")
    eventually(page, lambda: len(kept(page)) == 2)
    go(page, "Compare")
    page.get_by_role("button", name="Sheet (2)").click()
    sheet = page.get_by_role("region", name="Contact sheet")
    for name in kept(page):
        sheet.get_by_role("checkbox", name=f"Choose take {name['id']} to compare").click()
    page.get_by_role("button", name="Compare two").click()
    differs = page.get_by_role("complementary", name="What differs")
    expect(differs.get_by_text("Camera: stands elsewhere")).to_be_visible()
    expect(differs.get_by_text(re.compile("Proof: denoise"))).to_be_visible()
    turned = scene_of(page)["camera"]["position"]
    differs.get_by_role("button", name="As in the second: Camera: stands elsewhere").click()
    eventually(page, lambda: np.allclose(scene_of(page)["camera"]["position"], first_camera))
    assert not scene_of(page)["proof"]["denoise"], "the other difference stays"
    for way, sign in (("Wipe", "Angle of the wipe"), ("Difference in colour, ΔE2000", None)):
        page.get_by_role("combobox", name="Compared by").click()
        page.get_by_role("option", name=way).click()
        if sign:
            expect(page.get_by_role("slider", name=sign)).to_be_visible()
        else:
            expect(page.get_by_test_id("scale")).to_contain_text("ΔE2000: mean")
    page.get_by_role("button", name="Back to the sheet").click()
    newest = kept(page)[0]["id"]
    sheet.get_by_role("button", name=f"Open take {newest}").click()
    page.get_by_role("button", name="Camera as in this take").click()
    eventually(page, lambda: np.allclose(scene_of(page)["camera"]["position"], turned))
    assert kept(page)[0]["reason"] == "restore", "how it was before is kept"
    expect_saved(page)
    page.keyboard.press("Control+z")
    eventually(page, lambda: np.allclose(scene_of(page)["camera"]["position"], first_camera))


def test_what_is_said_of_a_take_hangs_on_the_sheet_and_finds_it(page, tmp_path):
    wait_for_samples(page, 1)
    page.keyboard.press("k")
    eventually(page, lambda: len(kept(page)) == 1)
    expect(page.get_by_text("Kept as a take")).to_be_visible()
    page.keyboard.press("Shift+K")
    (take,) = kept(page)
    sheet = page.get_by_role("region", name="Contact sheet")
    sheet.get_by_role("button", name="4 stars").click()
    eventually(page, lambda: kept(page)[0]["stars"] == 4)
    sheet.get_by_role("button", name=f"Open take {take['id']}").click()
    page.get_by_role("button", name="Ring").click()
    box = page.get_by_test_id("marks").bounding_box()
    page.mouse.move(box["x"] + 0.2 * box["width"], box["y"] + 0.2 * box["height"])
    page.mouse.down()
    page.mouse.move(box["x"] + 0.6 * box["width"], box["y"] + 0.7 * box["height"], steps=4)
    page.mouse.up()
    eventually(page, lambda: len(kept(page)[0]["marks"]) == 1)
    (ring,) = kept(page)[0]["marks"]
    np.testing.assert_allclose([*ring["start"], *ring["end"]], [0.2, 0.2, 0.6, 0.7], atol=0.01)
    page.get_by_label("Note").fill("Cooler at the handle")
    page.get_by_label("Board").fill("For Tuesday")
    page.get_by_label("Say something").fill("Or the ink strap?")
    page.get_by_role("button", name="Send").click()
    expect(page.get_by_role("region", name="Comments")).to_contain_text("Or the ink strap?")
    eventually(page, lambda: kept(page)[0]["board"] == "For Tuesday")
    page.keyboard.press("Escape")
    sheet.get_by_role("button", name="Board", exact=True).click()
    expect(sheet.get_by_role("region", name="For Tuesday")).to_contain_text("Cooler at the handle")
    sheet.get_by_label("Words in a take").fill("no such word")
    expect(sheet.get_by_text("No take has these words")).to_be_visible()
    sheet.get_by_label("Words in a take").fill("HANDLE")
    with page.expect_download(timeout=120_000) as saved:
        sheet.get_by_role("button", name="Save as PDF").click()
    saved.value.save_as(tmp_path / "takes.pdf")
    assert (tmp_path / "takes.pdf").read_bytes().startswith(b"%PDF")


def test_a_take_is_the_picture_that_was_seen(page):
    wait_for_samples(page, 2)
    page.keyboard.press("Space")
    page.keyboard.press("k")
    eventually(page, lambda: len(kept(page)) == 1)
    shown = pixels(page)
    (take,) = kept(page)
    values = page.evaluate(
        """async url => { const image = await createImageBitmap(await (await fetch(url)).blob());
            const canvas = new OffscreenCanvas(64, 40), to = canvas.getContext('2d');
            to.drawImage(image, 0, 0, 64, 40); return [...to.getImageData(0, 0, 64, 40).data] }""",
        take["picture"],
    )
    small = np.array(values, float).reshape(40, 64, 4)[..., :3]
    rows, columns = np.linspace(0, shown.shape[0] - 1, 40, dtype=int), np.linspace(0, shown.shape[1] - 1, 64, dtype=int)
    seen = shown[rows][:, columns]
    assert np.corrcoef(small.mean(axis=2).ravel(), seen.mean(axis=2).ravel())[0, 1] > 0.9
    assert abs(small.mean() - seen.mean()) < 6


def test_three_takes_are_compared_and_one_with_its_film_goes_on_where_it_stood(page):
    go(page, "Compare")
    wait_for_samples(page, 32)
    page.get_by_role("button", name="Keep a take with its film").click()
    eventually(page, lambda: len(kept(page)) == 1)
    (filmed,) = kept(page)
    assert filmed["film_bytes"] > 1_000_000
    for count in (2, 3):
        before = revision(page)
        page.mouse.move(*place(page, 0.4, 0.3))
        page.mouse.down()
        page.mouse.move(*place(page, 0.5, 0.3), steps=4)
        page.mouse.up()
        eventually(page, lambda before=before: revision(page) > before)
        wait_for_samples(page, 1)
        page.keyboard.press("k")
        eventually(page, lambda count=count: len(kept(page)) == count)
    page.get_by_role("button", name="Sheet (3)").click()
    sheet = page.get_by_role("region", name="Contact sheet")
    for take in reversed(kept(page)):
        sheet.get_by_role("checkbox", name=f"Choose take {take['id']} to compare").click()
    page.get_by_role("button", name="Compare three").click()
    assert page.get_by_test_id("compared").count() == 3
    page.get_by_role("combobox", name="Held against the first").click()
    page.get_by_role("option", name=re.compile("1 → 3")).click()
    expect(page.get_by_role("complementary", name="What differs")).to_contain_text("Camera: stands elsewhere")

    page.get_by_role("button", name="Back to the sheet").click()
    sheet.get_by_role("button", name=f"Open take {filmed['id']}").click()
    page.get_by_role("button", name="Hold the proof").click()
    page.get_by_role("button", name="Restore everything").click()
    wait_for_samples(page, filmed["samples"])
