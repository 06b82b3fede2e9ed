"""`python -m demo.screenshots URL`: take the pictures in docs/screenshots from a running application with the demo.

Waits until the proof is clean, so it takes a few minutes; leaves the project as it was.
"""

import re
import sys
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from demo.editions import PROJECT_NAME as EDITIONS_NAME
from demo.finishes import LANTERN
from demo.project import ACCOUNT, PASSWORD
from demo.travel_set import PROJECT_NAME as SET_NAME

FOLDER = Path(__file__).resolve().parents[1] / "docs" / "screenshots"
CLEAN_SAMPLES = 32


def _wait_until_clean(page: Page, samples: int = CLEAN_SAMPLES) -> None:
    page.wait_for_function(
        """n => { const c = document.querySelector('canvas[data-samples]');
                  // One that was kept over a change of size is smaller than its place.
                  return c && c.dataset.state !== 'coarse' && Number(c.dataset.samples) >= n
                         && c.width > 0.9 * c.clientWidth }""",
        arg=samples,
        timeout=240_000,
    )


def _go(page: Page, stop: str) -> None:
    page.get_by_role("navigation", name="Walk").get_by_text(stop, exact=True).click()


def _named(page: Page, action: str) -> None:
    """Run an action by its name."""
    page.keyboard.press("Control+k")
    field = page.get_by_role("textbox", name="Find an action")
    field.fill(action)
    page.keyboard.press("Enter")
    field.wait_for(state="detached")


def _views(page: Page, shot: Callable[[str], None]) -> None:
    """Handles; the time line with the lantern half open, which is undone."""

    def settle(samples: int = CLEAN_SAMPLES) -> None:
        page.wait_for_timeout(1500)  # what is on the screen is of before
        _wait_until_clean(page, samples)

    _go(page, "Materials")
    box = page.get_by_test_id("picture").bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] * 0.3)
    page.keyboard.press("m")
    settle()
    shot("handles")
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    _go(page, "Camera")
    page.get_by_role("button", name="Unfold the time line").click()
    for move in ("The camera turns", "Upwards"):
        page.get_by_role("button", name="Add a move").click()
        page.get_by_role("menuitem", name=move).click()
        page.wait_for_timeout(1000)
    far = page.get_by_role("spinbutton", name="How far")
    far.fill("0.3")
    far.press("Enter")
    settle()
    shot("time-line")
    for _ in range(3):
        page.get_by_role("button", name="Undo").click()
        page.wait_for_timeout(500)
    page.get_by_role("button", name="Fold the time line").click()


def _shapes(page: Page, shot: Callable[[str], None]) -> None:
    """A set around the lantern, which is undone."""
    page.locator("h2 button").filter(has_text="Set").click()
    for piece in ("Sweep", "Plinth", "Grey ball", "Mirror ball"):
        page.get_by_role("button", name=f"Add: {piece}").click()
        page.get_by_role("region", name="Selected parts").get_by_text(piece).wait_for()
    page.keyboard.press("Escape")
    for _ in range(4):
        _named(page, "dolly out")
    page.wait_for_timeout(1500)
    _wait_until_clean(page)
    page.get_by_role("button", name="Add: Plinth").scroll_into_view_if_needed()
    page.mouse.move(640, 20)
    shot("set")
    while page.get_by_role("button", name="Undo").is_enabled():
        _undo(page, 1)
    page.locator("h2 button").filter(has_text="Set").click()


def _finish(page: Page, shot: Callable[[str], None]) -> None:
    """The lantern in porcelain and moss: lettering in the hand."""
    page.get_by_role("button", name="All projects").click()
    page.get_by_role("button", name=f"Open {LANTERN}, Porcelain & Moss").click()
    page.wait_for_selector("canvas[data-state]", timeout=60_000)
    page.get_by_role("grid", name="Parts").get_by_text("Chimney", exact=True).click()
    _go(page, "Materials")
    page.get_by_role("button", name="Number", exact=True).click()
    page.get_by_test_id("decal-move").wait_for()
    page.wait_for_timeout(2500)
    _wait_until_clean(page, 64)
    page.mouse.move(640, 20)
    shot("decals")
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")


def _look(page: Page, shot: Callable[[str], None]) -> None:
    """A look of the shelf with a curve of one's own, beside the picture before it."""
    _go(page, "Look")
    page.get_by_role("button", name="Look Evening").click()
    page.wait_for_timeout(1200)
    page.get_by_role("switch", name="Tone curve on").click()
    sheet = page.get_by_role("group", name="Curve: Tone, all").locator("svg")
    sheet.scroll_into_view_if_needed()
    for across, up in ((0.3, 0.24), (0.5, 0.56)):
        box = sheet.bounding_box()
        assert box is not None
        x, y = box["x"] + across * box["width"], box["y"] + (1 - up) * box["height"]
        page.mouse.click(x, y)
        page.wait_for_timeout(400)
    page.get_by_role("button", name="Edge", exact=True).click()
    page.wait_for_timeout(2500)
    _wait_until_clean(page, 64)
    page.mouse.move(640, 20)
    page.wait_for_timeout(1500)
    shot("look")
    page.get_by_role("button", name="Edge", exact=True).click()
    _undo(page, 4)


def _open(page: Page, name: str) -> None:
    """Another project."""
    page.get_by_role("button", name="All projects").click()
    page.get_by_role("button", name=f"Open {name}").click()
    page.wait_for_selector("canvas[data-state]", timeout=60_000)


def _editions(page: Page, shot: Callable[[str], None]) -> None:
    """The three editions: a pair, two takes of the board by a wipe, and the page of the showing."""
    _open(page, EDITIONS_NAME)
    _go(page, "Compare")
    for _ in range(3):
        page.get_by_role("button", name="Show another beside").click()
    page.wait_for_selector("[data-testid=free-picture-3][data-state]", timeout=60_000)
    page.wait_for_function(
        "n => Number(document.querySelector('[data-testid=free-picture-3]').dataset.samples) >= n",
        arg=CLEAN_SAMPLES,
        timeout=240_000,
    )
    page.mouse.move(640, 20)
    shot("compare")
    page.get_by_role("button", name="Close the pair").click()
    page.get_by_role("button", name=re.compile(r"^Sheet")).click()
    for box in page.get_by_role("checkbox", name=re.compile("Choose take")).all()[2:8:3]:
        box.click()
    page.get_by_role("button", name="Compare two").click()
    page.get_by_role("combobox", name="Compared by").click()
    page.get_by_role("option", name="Wipe").click()
    page.get_by_role("complementary", name="What differs").get_by_role("button").first.wait_for()
    page.wait_for_timeout(3000)
    shot("takes")
    page.get_by_role("button", name="Back to the picture").click()
    page.get_by_role("button", name="More of For the hotel").click()
    page.goto(page.get_by_role("menuitem", name="Open its page").get_attribute("href") or "")
    page.wait_for_function("() => document.querySelector('.stage img')?.naturalWidth > 0")
    page.get_by_role("button", name="Compare with another").click()
    page.get_by_role("button", name="Porcelain & Moss").click()
    page.wait_for_timeout(1500)
    shot("showing")


def _strewn(page: Page, shot: Callable[[str], None]) -> None:
    """The travel set: its assets as groups, the pearls with how they are strewn."""
    _open(page, SET_NAME)
    for name in ("Travel case", "Cup", "Flacon"):
        page.get_by_role("button", name=f"Close {name}", exact=True).click()
    page.get_by_role("grid", name="Parts").get_by_text("Pearls", exact=True).click()
    page.wait_for_timeout(2500)
    _wait_until_clean(page, 64)
    page.mouse.move(640, 20)
    shot("strewn")


def _undo(page: Page, times: int) -> None:
    for _ in range(times):
        page.get_by_role("button", name="Undo").click()
        page.wait_for_timeout(800)


def take(url: str) -> None:
    """Walk through the views and write one PNG of each."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
        )
        page = browser.new_page(viewport={"width": 1280, "height": 800})

        def shot(name: str) -> None:
            page.screenshot(path=FOLDER / f"{name}.png")

        page.goto(url)
        page.get_by_label("Name").wait_for()
        page.get_by_label("Name").fill(ACCOUNT)
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        page.wait_for_selector("canvas[data-state]", timeout=60_000)
        _wait_until_clean(page)
        page.get_by_role("button", name="Size 12").click()
        shot("asset")
        page.get_by_role("button", name="Size", exact=True).click()
        page.get_by_role("grid", name="Parts").get_by_text("Cap", exact=True).click()
        page.locator("h2 button").filter(has_text="Place").click()
        page.locator("h2 button").filter(has_text="Arrange").click()
        page.mouse.move(640, 20)
        page.wait_for_timeout(1500)
        shot("parts")
        page.keyboard.press("Escape")
        _shapes(page, shot)
        _go(page, "Materials")
        page.get_by_role("grid", name="Parts").get_by_text("Base", exact=True).click()
        page.get_by_text("on Base").wait_for()
        page.get_by_role("button", name="Library", exact=True).click()
        page.get_by_label("Find a material").fill("worn")
        page.get_by_role("button", name="in Chipped green enamel").click()
        page.get_by_role("button", name="Edges of Mask of Bare steel").wait_for()
        page.wait_for_timeout(2500)
        _wait_until_clean(page)
        page.mouse.move(640, 20)
        shot("materials")
        _undo(page, 1)
        page.get_by_role("button", name="Project", exact=True).click()
        _go(page, "Camera")
        page.keyboard.press("Escape")
        page.wait_for_timeout(1500)
        _wait_until_clean(page)
        shot("camera")
        _look(page, shot)
        _go(page, "Print")
        page.get_by_role("button", name="Print this frame").click()
        page.locator("[data-testid^=print-][data-state=running]").get_by_text("left").wait_for(timeout=60_000)
        shot("print")
        page.get_by_role("button", name="Cancel print").first.click()
        _go(page, "Light")
        page.get_by_role("button", name="Conditions", exact=True).click()
        page.get_by_role("button", name="Conditions Workbench Morning").locator("img").wait_for(timeout=60_000)
        page.wait_for_timeout(1500)
        _wait_until_clean(page)
        page.get_by_text("Unroll the map").click()
        page.get_by_role("region", name="The map unrolled").locator("image").wait_for(state="attached")
        page.wait_for_timeout(500)
        shot("light")
        page.get_by_role("region", name="The map unrolled").get_by_role("button", name="Roll the map up").click()
        _views(page, shot)
        _strewn(page, shot)
        _finish(page, shot)
        page.get_by_role("button", name="All projects").click()
        page.wait_for_function(
            "() => [...document.images].filter(i => i.complete && i.naturalWidth > 0).length >= 2", timeout=60_000
        )
        shot("projects")
        page.goto(url)
        page.wait_for_selector("canvas[data-state]", timeout=60_000)
        _editions(page, shot)
        browser.close()


if __name__ == "__main__":
    take(sys.argv[1])
