"""The path through the product, as a person walks it."""

import base64
import io
import os
import signal

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import expect

from lantern.picture.files import write_radiance_hdr
from tests.browser.picture import (
    bring_in,
    click_picture,
    eventually,
    expect_saved,
    go,
    group,
    pixels,
    revision,
    roughness,
    scene_of,
    set_color,
    set_number,
    wait_for_revision,
    wait_for_samples,
)
from tests.core.gltf_files import damaged_files, glb


def test_the_demo_opens_and_its_proof_refines(page):
    expect(page.get_by_role("heading", name="test_the_demo_opens")).to_be_visible()
    page.get_by_role("button", name="Hide Wick", exact=True).wait_for()
    early_samples = int(page.get_by_test_id("picture").get_attribute("data-samples"))
    wait_for_samples(page, 1)
    early = pixels(page)
    wait_for_samples(page, 16)
    late = pixels(page)
    assert int(page.get_by_test_id("picture").get_attribute("data-samples")) > early_samples
    assert np.abs(late - early).mean() > 0.05, "the pixels change"
    background = np.s_[20:200, 20:300]
    assert roughness(late[background]) <= roughness(early[background]) + 0.05, "and the noise falls"
    # The lantern stands in the middle: brass and glass there, plain backdrop at the sides.
    assert late[:, 420:520].std() > 3 * late[:, :150].std()


def test_noise_falls_without_the_denoiser_too(page):
    before = revision(page)
    page.get_by_role("button", name="Limits of the proof").click()
    page.get_by_role("switch", name="Denoise").click()
    page.keyboard.press("Escape")
    wait_for_revision(page, before + 1)
    page.get_by_test_id("picture").click(position={"x": 5, "y": 5})
    page.keyboard.press("ArrowLeft")
    wait_for_revision(page, before + 2)
    wait_for_samples(page, 1)
    early = roughness(pixels(page)[20:200, 20:300])
    wait_for_samples(page, 16)
    late = roughness(pixels(page)[20:200, 20:300])
    assert late < 0.7 * early


def test_orbit_pan_and_dolly_with_mouse_and_keyboard(page):
    wait_for_samples(page, 1)
    box = page.get_by_test_id("picture").bounding_box()
    centre = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)

    def drag(modifier=None):
        page.mouse.move(*centre)
        if modifier:
            page.keyboard.down(modifier)
        page.mouse.down()
        page.mouse.move(centre[0] + 60, centre[1] + 10, steps=5)
        page.mouse.up()
        if modifier:
            page.keyboard.up(modifier)

    moves = [
        drag,
        lambda: drag("Shift"),
        lambda: page.mouse.wheel(0, -120),
        lambda: page.keyboard.press("ArrowLeft"),
        lambda: page.keyboard.press("Shift+ArrowUp"),
        lambda: page.keyboard.press("PageDown"),
    ]
    for move in moves:
        before, was = revision(page), pixels(page)
        move()
        wait_for_revision(page, before + 1)
        wait_for_samples(page, 1)
        assert np.abs(pixels(page) - was).mean() > 0.4
        assert revision(page) == before + 1, "one movement is one step of undo"


def test_a_click_selects_a_part_and_its_material_changes_the_picture(page):
    wait_for_samples(page, 2)
    before = pixels(page)
    go(page, "Materials")
    click_picture(page, 0.5, 0.88)
    expect(page.get_by_text("Brushed Brass").first).to_be_visible()
    expect(page.get_by_role("img", name="Map of Base colour")).to_be_visible()
    expect(page.get_by_test_id("map Base colour")).to_contain_text("×")
    at = revision(page)
    set_color(page, "Base colour", "#2040ff")
    wait_for_revision(page, at + 1)
    wait_for_samples(page, 2)
    base = np.s_[int(before.shape[0] * 0.82) : int(before.shape[0] * 0.9), 440:500]
    after = pixels(page)
    assert before[base][..., 0].mean() > before[base][..., 2].mean(), "brass is yellow"
    assert after[base][..., 2].mean() > after[base][..., 0].mean() + 10, "and is blue now"
    set_number(page, "Roughness", "(1+2)*0.2")
    expect(page.get_by_role("spinbutton", name="Roughness", exact=True)).to_have_value("0.6")
    wait_for_revision(page, at + 2)
    expect_saved(page)


def swatch_color(page, material):
    """Mean RGB of the picture of a material on the shelf, None while it is not made."""
    found = page.get_by_test_id(f"swatch-{material}").evaluate("e => getComputedStyle(e).backgroundImage")
    if "base64," not in found:
        return None
    picture = Image.open(io.BytesIO(base64.b64decode(found.partition("base64,")[2].rstrip('")'))))
    return np.asarray(picture.convert("RGB"), np.float32).mean((0, 1))


def test_the_shelf_shows_every_material_as_it_is_now(page):
    go(page, "Materials")
    materials = scene_of(page)["materials"]
    page.wait_for_function(
        "() => [...document.querySelectorAll('[data-testid^=swatch-]')]"
        ".every(e => getComputedStyle(e).backgroundImage.includes('base64'))",
        timeout=60_000,
    )
    assert page.locator("[data-testid^=swatch-]").count() == len(materials)
    key = next(key for key, material in materials.items() if material["name"] == "Moss Felt")
    before = swatch_color(page, key)
    assert before[1] > before[0] and before[1] > before[2], "moss is green"
    page.get_by_role("grid", name="Parts").get_by_role("button", name="Felt Foot").first.click()
    at = revision(page)
    set_color(page, "Base colour", "#c01010")
    wait_for_revision(page, at + 1)
    eventually(page, lambda: swatch_color(page, key)[0] >= 2 * before[0])


def test_a_swatch_is_dragged_onto_a_part(page):
    """The picture shows what a drop would do, and takes it back when the drag goes elsewhere."""
    go(page, "Materials")
    wait_for_samples(page, 2)
    at = revision(page)
    box = page.get_by_test_id("picture").bounding_box()
    base = np.s_[int(0.84 * pixels(page).shape[0]) : int(0.9 * pixels(page).shape[0]), 440:500]

    def until_green(wanted):
        def holds():
            red, green, _ = pixels(page)[base].astype(float).mean((0, 1))
            return (green > red) == wanted

        eventually(page, holds)

    def over(x, y):
        page.mouse.move(box["x"] + box["width"] * x, box["y"] + box["height"] * y, steps=4)

    until_green(False)
    page.get_by_role("button", name="Material Moss Felt").hover()
    page.mouse.down()
    over(0.5, 0.88)
    until_green(True)
    assert revision(page) == at, "it is only shown"
    over(0.1, 0.2)
    until_green(False)
    over(0.5, 0.88)
    page.mouse.up()
    wait_for_revision(page, at + 1)
    expect_saved(page)
    scene = scene_of(page)
    assert scene["materials"][scene["parts"]["base"]["material"]]["name"] == "Moss Felt"
    assert scene["parts"]["cap"]["material"] != scene["parts"]["base"]["material"]
    until_green(True)


def test_undo_and_redo(page):
    at = revision(page)
    page.get_by_role("button", name="Hide Chimney").click()
    expect(page.get_by_role("button", name="Show Chimney")).to_be_visible()
    wait_for_revision(page, at + 1)
    page.keyboard.press("Control+z")
    expect(page.get_by_role("button", name="Hide Chimney")).to_be_visible()
    page.get_by_role("button", name="Redo").click()
    expect(page.get_by_role("button", name="Show Chimney")).to_be_visible()
    wait_for_revision(page, at + 3)


def test_light_is_swapped_in_one_click_and_the_backdrop_is_apart(page):
    go(page, "Light")
    wait_for_samples(page, 2)
    before = pixels(page)
    at = revision(page)
    page.get_by_role("button", name="Environment Low Sun").click()
    wait_for_revision(page, at + 1)
    wait_for_samples(page, 2)
    after = pixels(page)
    assert np.abs(after - before).mean() > 2
    group(page, "Backdrop").click()
    page.get_by_role("combobox", name="Backdrop").click()
    page.get_by_role("option", name="Environment", exact=True).click()
    wait_for_revision(page, at + 2)
    wait_for_samples(page, 2)
    assert np.abs(pixels(page)[:60] - after[:60]).mean() > 5


def test_exposure_does_not_restart_the_proof(page):
    wait_for_samples(page, 8)
    go(page, "Camera")
    wait_for_samples(page, 8)
    before = pixels(page)
    at = revision(page)
    set_number(page, "Exposure in EV", "-2")
    wait_for_revision(page, at + 1)
    assert int(page.get_by_test_id("picture").get_attribute("data-samples")) >= 8
    assert pixels(page).mean() < before.mean() * 0.75


def test_hold_and_run(page):
    wait_for_samples(page, 1)
    page.get_by_role("button", name="Hold the proof").click()
    expect(page.get_by_test_id("proof")).to_have_attribute("data-state", "held")
    go(page, "Camera")
    seen = []
    for exposure in ("-1", "-0.5", "0"):
        at = revision(page)
        set_number(page, "Exposure", exposure)
        wait_for_revision(page, at + 1)
        seen.append(page.get_by_test_id("picture").get_attribute("data-samples"))
    assert seen[1] == seen[2], "pictures come, and none with more samples"
    go(page, "Asset")
    at, was = revision(page), pixels(page)
    page.get_by_role("button", name="Hide Chimney").click()
    wait_for_revision(page, at + 1)
    assert np.abs(pixels(page) - was).mean() > 0.3, "a held proof still shows a change, coarsely"
    page.get_by_role("button", name="Undo").click()
    wait_for_revision(page, at + 2)
    page.get_by_role("button", name="Run the proof").click()
    wait_for_samples(page, 2)


def test_upload_an_environment(page, tmp_path):
    go(page, "Light")
    wait_for_samples(page, 1)
    red = np.zeros((32, 64, 3), np.float32)
    red[..., 0] = 1.0
    write_radiance_hdr(tmp_path / "red_room.hdr", red)
    # As bright as it is: kept as bright as before, so much red would be shown nearly white.
    group(page, "Turned and graded").click()
    page.get_by_role("switch", name="A new one keeps the picture as bright").click()
    at = revision(page)
    page.get_by_label("HDR map file").set_input_files(str(tmp_path / "red_room.hdr"))
    wait_for_revision(page, at + 1)
    expect(page.get_by_role("button", name="Environment red room").first).to_be_visible()
    wait_for_samples(page, 2)
    brass = pixels(page)[-120:-60, 420:500]
    assert brass[..., 0].mean() > 4 * brass[..., 2].mean()
    (tmp_path / "photo.hdr").write_bytes(b"not light")
    page.get_by_label("HDR map file").set_input_files(str(tmp_path / "photo.hdr"))
    expect(page.get_by_role("alert").filter(has_text="photo.hdr")).to_be_visible()


def test_upload_an_asset_and_refuse_a_damaged_one(page, tmp_path):
    name, content, words = damaged_files()["index out of range"]
    (tmp_path / name).write_bytes(content)
    page.get_by_label("Asset file").set_input_files(str(tmp_path / name))
    expect(page.get_by_role("alert").filter(has_text=words)).to_be_visible(timeout=60_000)
    (tmp_path / "enamel sign.glb").write_bytes(glb())
    bring_in(page, tmp_path / "enamel sign.glb")
    expect(page.get_by_role("heading", name="enamel sign")).to_be_visible(timeout=60_000)
    page.wait_for_selector("canvas[data-state]", timeout=60_000)
    wait_for_samples(page, 1)
    expect(page.get_by_role("button", name="Hide Square")).to_be_visible()


def test_how_paths_are_followed_is_set_for_proof_and_print_alike(page):
    go(page, "Print")
    at = revision(page)
    expect(page.get_by_role("spinbutton", name="Roughness that filters caustics")).to_have_count(0)
    page.get_by_role("button", name="Filtered").click()
    wait_for_revision(page, at + 1)
    set_number(page, "Roughness that filters caustics", "0.4")
    page.get_by_role("switch", name="Brightest sample").click()
    wait_for_revision(page, at + 3)
    set_number(page, "Brightest sample", "50")
    wait_for_revision(page, at + 4)
    chosen = scene_of(page)["rendering"]
    assert chosen == {"caustics": "filtered", "caustic_roughness": 0.4, "sample_limit": 50}
    wait_for_samples(page, 1)
    page.keyboard.press("i")
    expect(page.get_by_test_id("readout")).to_contain_text("Dimmed", timeout=60_000)
    page.keyboard.press("i")


def test_what_can_be_off_has_a_switch_and_comes_back_as_it_was(page):
    go(page, "Camera")
    at = revision(page)
    aperture = page.get_by_role("switch", name="Aperture", exact=True)
    expect(aperture).not_to_be_checked()
    expect(page.get_by_text("all sharp")).to_be_visible()
    aperture.click()
    wait_for_revision(page, at + 1)
    set_number(page, "Aperture", "4")
    wait_for_revision(page, at + 2)
    page.get_by_role("spinbutton", name="Aperture in f/").press("ArrowUp")
    aperture.click()  # the step is stored when its control is left
    wait_for_revision(page, at + 4)
    assert scene_of(page)["camera"]["f_number"] is None
    expect(page.get_by_role("switch", name="Aperture blades")).to_have_count(0)
    aperture.click()
    wait_for_revision(page, at + 5)
    assert scene_of(page)["camera"]["f_number"] == pytest.approx(4.2)
    page.get_by_role("switch", name="Aperture blades").click()
    wait_for_revision(page, at + 6)
    expect(page.get_by_role("spinbutton", name="Roundness of the blades")).to_be_visible()
    assert scene_of(page)["camera"]["blades"] == 7


def test_a_killed_render_host_is_back_and_says_so(page, application):
    wait_for_samples(page, 1)
    at = revision(page)
    page.get_by_role("button", name="Hide Cap").click()
    wait_for_revision(page, at + 1)
    for host in application.processes(r"server\.host\.template"):
        os.kill(host, signal.SIGKILL)
    expect(page.get_by_test_id("veil")).to_contain_text("coming back")
    expect(page.get_by_test_id("veil")).to_have_count(0, timeout=60_000)
    expect(page.get_by_role("button", name="Show Cap")).to_be_visible()
    wait_for_samples(page, 1)


def test_drawer_and_shelf_fold_away_with_one_key(page):
    wide = page.get_by_test_id("surround").bounding_box()["width"]
    page.get_by_test_id("picture").focus()
    page.keyboard.press("b")
    page.wait_for_function("w => document.querySelector('[data-testid=surround]').clientWidth > w + 200", arg=wide)
    page.keyboard.press("b")
    page.wait_for_function("w => document.querySelector('[data-testid=surround]').clientWidth <= w", arg=wide)
