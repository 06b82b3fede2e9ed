"""Reading the proof off the page."""

import io
import re
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
from PIL import Image
from playwright.sync_api import Locator, Page, expect

BASE = (0.5, 0.85)
CHIMNEY = (0.5, 0.5)
"""Where parts of the demo lie in its picture."""


def pixels(page: Page, picture: str = "picture") -> np.ndarray:
    """What the person sees of the proof, or of the view beside it, (h, w, 3) float32 in [0, 255]."""
    shot = page.get_by_test_id(picture).screenshot(scale="css")
    return np.asarray(Image.open(io.BytesIO(shot)).convert("RGB"), np.float32)


def roughness(image: np.ndarray) -> float:
    """Mean absolute difference of neighbours: high for noise."""
    return float(np.abs(np.diff(image, axis=1)).mean())


def eventually(page: Page, holds: Callable[[], bool], seconds: float = 60) -> None:
    """Until something holds, asked again at every frame that the page draws."""
    deadline = time.monotonic() + seconds
    while not holds():
        assert time.monotonic() < deadline, "it never came to that"
        page.evaluate("() => new Promise(requestAnimationFrame)")


def wait_until_still(page: Page, selector: str) -> None:
    """Until something has not moved for half a second."""
    page.evaluate(
        """async selector => {
               const at = () => { const b = document.querySelector(selector)?.getBoundingClientRect();
                                  return b ? `${b.x} ${b.y}` : '' };
               for (let still = 0, last = ''; still < 30; still = at() && at() === last ? still + 1 : 0) {
                   last = at(); await new Promise(requestAnimationFrame);
               } }""",
        selector,
    )


def wait_for_samples(page: Page, samples: int) -> None:
    """Until the picture shown holds so many samples and is not the coarse one."""
    page.wait_for_function(
        """n => { const c = document.querySelector('canvas[data-samples]');
                  return c && c.dataset.state !== 'coarse' && Number(c.dataset.samples) >= n }""",
        arg=samples,
        timeout=60_000,
    )


def held_samples(page: Page) -> int:
    """Samples of a picture that is held, once those that were on their way have come."""
    samples, still = -1, 0
    while still < 25:
        page.wait_for_timeout(100)
        now = int(page.locator("canvas[data-samples]").get_attribute("data-samples") or 0)
        still, samples = (still + 1 if now == samples else 0), now
    return samples


def revision(page: Page) -> int:
    """Revision of the document that the picture shows."""
    return int(page.get_by_test_id("picture").get_attribute("data-revision") or 0)


def wait_for_revision(page: Page, least: int) -> None:
    """Until the picture shows a document of at least this revision."""
    page.wait_for_function(
        "n => Number(document.querySelector('canvas[data-revision]').dataset.revision) >= n", arg=least, timeout=60_000
    )


def go(page: Page, stop: str) -> None:
    """Open a stop of the walk."""
    page.get_by_role("navigation", name="Walk").get_by_text(stop, exact=True).click()


def group(page: Page, label: str) -> Locator:
    """The line of a group of controls, which folds and unfolds it."""
    return page.locator("h2 button[aria-expanded]").filter(has=page.get_by_text(label, exact=True))


def set_number(page: Page, label: str, text: str) -> None:
    """Type into a number's field and confirm."""
    # A field with a unit is called "Rotation in °".
    field = page.get_by_role("spinbutton", name=re.compile(rf"^{re.escape(label)}( in .+)?$"))
    field.fill(text)
    field.press("Enter")


def set_color(page: Page, label: str, text: str) -> None:
    """Type an sRGB hex into a colour's field and close it."""
    page.get_by_role("button", name=re.compile(rf"^{re.escape(label)}: ")).click()
    entry = page.get_by_label("sRGB hex")
    entry.fill(text)
    entry.press("Enter")
    page.keyboard.press("Escape")


def bring_in(page: Page, path: Path) -> None:
    """Bring an asset in while a project is open, and open what it has become."""
    page.get_by_label("Asset file").set_input_files(path)
    page.get_by_role("link", name="Open").click(timeout=60_000)


def click_picture(page: Page, x: float, y: float) -> None:
    """Click at a share of the picture's width and height."""
    box = page.get_by_test_id("picture").bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + box["width"] * x, box["y"] + box["height"] * y)


def expect_saved(page: Page) -> None:
    expect(page.get_by_test_id("saving")).to_have_text("· Saved")


def _project(page: Page) -> dict:
    number = page.evaluate("location.hash.match(/projects\\/(\\d+)/)?.[1] ?? '1'")
    return page.evaluate("n => fetch(`/api/v1/projects/${n}`).then(r => r.json())", number)


def scene_of(page: Page) -> dict:
    """The document as the server has it, with all that the window is about to save."""
    page.wait_for_function("() => !document.querySelector('[data-testid=saving][data-state=saving]')", timeout=60_000)
    return _project(page)["scene"]


def part(page: Page, name: str) -> Locator:
    """The row of a part in the list."""
    return page.get_by_role("grid", name="Parts").get_by_role("button", name=re.compile(f"^{name} "))


def stored(page: Page, found: Callable[[dict], object], expected: object) -> None:
    """Wait until the server has stored something: its answers come after what the window shows.

    A path that is not there yet is not stored yet.
    """

    def is_stored() -> bool:
        try:
            return found(scene_of(page)) == expected
        except (LookupError, TypeError):
            return False

    eventually(page, is_stored)


def wait_until_shown(page: Page) -> None:
    """Until all edits are saved and the picture shows the last of them: what is drawn over it stands still then."""
    expect_saved(page)
    wait_for_revision(page, _project(page)["revision"])


def place(page: Page, x: float, y: float, name: str = "picture") -> tuple[float, float]:
    """Page coordinates of a share of the picture."""
    box = page.get_by_test_id(name).bounding_box()
    assert box is not None
    return box["x"] + box["width"] * x, box["y"] + box["height"] * y


def overlay(page: Page) -> np.ndarray:
    """(h, w, 4) of what is drawn over the picture."""
    data = page.evaluate(
        """async () => { const c = document.querySelector('[data-testid=overlay]');
                        const b = await new Promise(r => c.toBlob(r));
                        return Array.from(new Uint8Array(await b.arrayBuffer())) }"""
    )
    return np.asarray(Image.open(io.BytesIO(bytes(data))).convert("RGBA"), np.float32)


def drawn_pixels(page: Page, wanted: bool) -> None:
    """Until something is drawn over the picture, or nothing."""
    page.wait_for_function(
        """wanted => { const c = document.querySelector('[data-testid=overlay]');
                       const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data;
                       let n = 0; for (let i = 3; i < d.length; i += 4) n += d[i] > 0;
                       return (n > 20) === wanted && c.width > 100 }""",
        arg=wanted,
        timeout=60_000,
    )


def look_at(page: Page, label: str, view: str = "shot") -> None:
    """Choose a way of looking in a view's bar."""
    page.get_by_role("combobox", name=f"Way of looking, {view} view").click()
    page.get_by_role("option", name=label, exact=True).click()


def by_name(page: Page, name: str) -> None:
    """Run an action by its name in the palette."""
    page.keyboard.press("Control+k")
    page.get_by_role("textbox", name="Find an action").fill(name)
    page.keyboard.press("Enter")
    expect(page.get_by_role("textbox", name="Find an action")).to_have_count(0)


def at_moment(page, time, samples):
    """The picture at a moment of the time line, with so many samples."""
    page.get_by_role("slider", name="Moment").fill(str(time))
    stored(page, lambda scene: scene["shutter"]["time"], time)
    wait_until_shown(page)
    wait_for_samples(page, samples)
    return pixels(page)
