"""`python -m demo.screenshots URL`: take the pictures in docs/screenshots from a running application with the demo.

Waits until the proof is clean, so it takes a few minutes; leaves the project as it was.
"""

import sys
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from demo.project import ACCOUNT, PASSWORD

FOLDER = Path(__file__).resolve().parents[1] / "docs" / "screenshots"
CLEAN_SAMPLES = 32


def _wait_until_clean(page: Page, samples: int = CLEAN_SAMPLES) -> None:
    page.wait_for_function(
        """n => { const c = document.querySelector('canvas[data-samples]');
                  return c && c.dataset.state !== 'coarse' && Number(c.dataset.samples) >= n }""",
        arg=samples,
        timeout=240_000,
    )


def _go(page: Page, stop: str) -> None:
    page.get_by_role("navigation", name="Walk").get_by_text(stop, exact=True).click()


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
        shot("sign-in")
        page.get_by_label("Name").fill(ACCOUNT)
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        page.wait_for_selector("canvas[data-state]", timeout=60_000)
        _wait_until_clean(page)
        shot("asset")
        _go(page, "Materials")
        page.get_by_role("list", name="Parts").get_by_text("Carry Strap").click()
        page.get_by_text("on Carry Strap").wait_for()
        page.mouse.move(640, 20)
        shot("materials")
        _go(page, "Camera")
        shot("camera")
        _go(page, "Print")
        page.get_by_role("button", name="Print this frame").click()
        page.locator("li[data-state=running]").get_by_text("left").wait_for(timeout=60_000)
        shot("print")
        page.get_by_role("button", name="Cancel print").first.click()
        _go(page, "Light")
        page.get_by_role("button", name="Environment Low Sun").click()
        page.get_by_role("button", name="Environment", exact=True).click()
        page.wait_for_timeout(1500)
        _wait_until_clean(page)
        shot("light")
        for _ in range(2):
            page.get_by_role("button", name="Undo").click()
            page.wait_for_timeout(800)
        page.get_by_role("button", name="All projects").click()
        page.get_by_role("button", name="Remove").first.wait_for()
        shot("projects")
        browser.close()


if __name__ == "__main__":
    take(sys.argv[1])
