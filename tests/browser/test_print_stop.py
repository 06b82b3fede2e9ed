"""Final frames from the window: queued, downloaded, cancelled, and made whatever dies meanwhile."""

import os
import signal
import subprocess
import sys
import zipfile

import numpy as np
import OpenImageIO as oiio
from PIL import Image
from playwright.sync_api import expect

from tests.browser.picture import (
    eventually,
    expect_saved,
    go,
    pixels,
    revision,
    scene_of,
    set_number,
    stored,
    wait_for_revision,
    wait_for_samples,
)
from tests.browser.test_accessible import violations
from tests.browser.test_takes import kept


def queue_small_print(page, samples):
    if not page.get_by_role("button", name="Print this frame").is_visible():
        go(page, "Print")
    for label, value in (("Width in px", "240"), ("Height in px", "150"), ("Samples", str(samples))):
        set_number(page, label, value)
    stored(page, lambda scene: [scene["print"][name] for name in ("width", "height", "samples")], [240, 150, samples])
    expect_saved(page)
    page.get_by_role("button", name="Print this frame").click()
    card = page.get_by_role("list", name="Prints").get_by_role("group").first
    expect(card).to_be_visible()
    return card


def test_print_a_small_frame_and_download_it(page, tmp_path):
    card = queue_small_print(page, 24)
    expect(card).to_have_attribute("data-state", "done", timeout=60_000)
    for kind in ("PNG", "EXR"):
        with page.expect_download(timeout=120_000) as waiting:
            card.get_by_role("button", name=f"Download {kind}").or_(
                card.get_by_role("link", name=f"Download {kind}")
            ).click()
        waiting.value.save_as(tmp_path / f"frame.{kind.lower()}")
    png = np.asarray(Image.open(tmp_path / "frame.png").convert("RGB"), np.float32)
    assert png.shape == (150, 240, 3)
    layers = oiio.ImageBuf(str(tmp_path / "frame.exr"))
    names = list(layers.spec().channelnames)
    light = layers.get_pixels(oiio.FLOAT)
    assert {"R", "albedo.G", "normal.Z", "Z"} <= set(names)
    assert 0.5 < light[75, 120, names.index("Z")] < 5, "the lantern stands at a believable distance"
    # The print shows the same picture as the proof.
    wait_for_samples(page, 8)
    proof = Image.fromarray(pixels(page).astype(np.uint8)).resize((240, 150), Image.Resampling.BOX)
    assert np.abs(np.asarray(proof, np.float32) - png).mean() < 4


def test_a_print_can_be_cancelled(page):
    card = queue_small_print(page, 60_000)
    expect(card).to_have_attribute("data-state", "running", timeout=60_000)
    expect(card).to_contain_text("left", timeout=60_000)
    card.get_by_role("button", name="Cancel").click()
    expect(card).to_have_attribute("data-state", "canceled", timeout=60_000)


def test_a_killed_print_worker_comes_back_and_finishes(page, application):
    page.get_by_role("button", name="Hold the proof").click()
    card = queue_small_print(page, 500)
    expect(card).to_have_attribute("data-state", "running", timeout=60_000)
    expect(card).to_contain_text("left", timeout=60_000)
    (worker,) = application.processes(r"manage\.py worker prints")
    os.kill(worker, signal.SIGKILL)
    expect(card).to_have_attribute("data-state", "done", timeout=240_000)
    page.get_by_role("button", name="Run the proof").click()


def test_a_database_that_is_restarted_loses_nothing(page, application):
    """It is stopped under an edit and a print: the launcher brings it back, the edit is saved, the print is made."""
    card = queue_small_print(page, 300)
    expect(card).to_have_attribute("data-state", "running", timeout=120_000)
    at = revision(page)
    environment = os.environ | {"LANTERN_DATA": str(application.data)}
    subprocess.run([sys.executable, "-m", "server.runtime.postgres", "stop"], env=environment, check=True)
    go(page, "Camera")
    set_number(page, "Exposure", "1.7")
    expect_saved(page)
    wait_for_revision(page, at + 1)
    assert scene_of(page)["look"]["exposure"] == 1.7
    go(page, "Print")
    expect(card).to_have_attribute("data-state", "done", timeout=180_000)
    assert "The database ended; starting it again" in application.log.read_text()


def test_a_print_is_held_goes_on_and_comes_in_every_format_that_opens_back_as_a_take(page, tmp_path):
    go(page, "Print")
    page.get_by_role("button", name="Files").click()
    page.get_by_role("switch", name="JPEG quality").click()
    page.get_by_role("group", name="TIFF besides").get_by_role("button", name="16 bits").click()
    stored(page, lambda scene: (scene["print"]["jpeg"], scene["print"]["tiff"]), (92, "shown"))
    card = queue_small_print(page, 3000)
    expect(card).to_have_attribute("data-state", "running", timeout=60_000)
    expect(card).to_contain_text("left", timeout=60_000)
    card.get_by_role("button", name="Hold").click()
    expect(card).to_have_attribute("data-state", "held", timeout=60_000)
    page.wait_for_timeout(1500)
    card.get_by_role("button", name="Go on").click()
    expect(card).to_have_attribute("data-state", "running", timeout=60_000)
    card.get_by_role("button", name="Cancel").click()
    expect(card).to_have_attribute("data-state", "canceled", timeout=60_000)

    card = queue_small_print(page, 16)
    expect(card).to_have_attribute("data-state", "done", timeout=120_000)
    for kind in ("PNG", "EXR", "JPG", "TIF"):
        with page.expect_download(timeout=120_000) as waiting:
            card.get_by_role("link", name=f"Download {kind}").click()
        waiting.value.save_as(tmp_path / f"frame.{kind.lower()}")
    assert oiio.ImageInput.open(str(tmp_path / "frame.tif")).spec().format == oiio.UINT16
    with Image.open(tmp_path / "frame.jpg") as jpeg:
        assert jpeg.size == (240, 150) and "icc_profile" in jpeg.info
    page.keyboard.press("Shift+K")
    before = len(kept(page))
    page.get_by_label("Printed picture").set_input_files(tmp_path / "frame.jpg")
    eventually(page, lambda: len(kept(page)) == before + 1)
    assert kept(page)[0]["note"] == "frame.jpg" and kept(page)[0]["samples"] == 16


def test_layers_are_chosen_files_are_named_and_waiting_prints_are_put_in_order(page, tmp_path):
    page.get_by_role("button", name="Hold the proof").click()
    go(page, "Print")
    page.get_by_role("button", name="Files").click()
    page.get_by_role("button", name="EXR and its layers").click()
    name = page.get_by_role("textbox", name="Names of the files")
    name.fill("{lamp}")
    expect(page.get_by_text("There is no {lamp} in a name")).to_be_visible()
    name.fill("Lamp {width}")
    expect(page.get_by_text("The next: Lamp-")).to_be_visible()
    name.press("Enter")
    page.get_by_role("switch", name="Mattes of parts and materials").click()
    page.get_by_role("button", name="One a layer, in a zip").click()
    stored(page, lambda scene: [scene["print"][field] for field in ("file_name", "matte_layers", "exr_files")],
           ["Lamp {width}", True, "each"])  # fmt: skip

    running = queue_small_print(page, 60_000)
    expect(running).to_have_attribute("data-state", "running", timeout=60_000)
    set_number(page, "Samples", "4")
    expect_saved(page)
    cards = page.get_by_role("list", name="Prints").get_by_role("group")
    for count in (2, 3, 4):
        page.get_by_role("button", name="Print this frame").click()
        expect(cards).to_have_count(count)

    def waiting():
        found = page.locator("[data-testid^=print-][data-state=queued]").all()
        return [card.get_attribute("data-testid") for card in found]

    first, second, third = waiting()
    page.get_by_test_id(third).drag_to(page.get_by_test_id(first))
    eventually(page, lambda: waiting() == [third, first, second])
    page.get_by_test_id(third).focus()
    page.keyboard.press("Alt+ArrowRight")
    eventually(page, lambda: waiting() == [first, third, second])
    expect(page.get_by_test_id(second)).to_contain_text("place\u00a03")
    assert violations(page) == []
    running.get_by_role("button", name="Cancel").click()
    done = page.get_by_test_id(second)
    expect(done).to_have_attribute("data-state", "done", timeout=120_000)
    with page.expect_download(timeout=120_000) as waits:
        done.get_by_role("link", name="Download LAYERS").click()
    assert waits.value.suggested_filename == "Lamp-240-layers.zip"
    with zipfile.ZipFile(waits.value.path()) as found:
        assert {"picture.exr", "albedo.exr", "CryptoObject.exr"} < set(found.namelist())
