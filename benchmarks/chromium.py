"""From an input event to changed pixels on the screen, through real Chromium: drags of the demo's camera."""

import statistics
from typing import Any

from playwright.sync_api import sync_playwright

from tests.browser.conftest import BROWSER_FLAGS, Application, sign_in
from tests.browser.picture import wait_for_samples

_WATCH = """() => {
  const canvas = document.querySelector('[data-testid=picture]');
  window.waits = [];
  let since = null;
  canvas.addEventListener('pointermove', (event) => { if (since === null) since = event.timeStamp; }, true);
  new MutationObserver(() => requestAnimationFrame(() => {
    if (since !== null) { window.waits.push(performance.now() - since); since = null; }
  })).observe(canvas, { attributes: true, attributeFilter: ['data-serial'] });
}"""


def through_chromium(application: Application, moves: int) -> dict[str, Any]:
    """Median and 95th percentile [ms] from a move of the pointer to the frame after the one that draws its picture."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=BROWSER_FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        sign_in(page, application)
        wait_for_samples(page, 2)
        page.evaluate(_WATCH)
        box = page.get_by_test_id("picture").bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.wait_for_timeout(500)
        page.mouse.down()
        page.mouse.move(x + 20, y)
        page.wait_for_timeout(800)
        page.evaluate("window.waits.length = 0")
        for number in range(moves):
            page.mouse.move(x + 24 + 3 * number, y)
            page.wait_for_timeout(600 if number % 4 == 0 else 150)
        page.mouse.up()
        waits = sorted(page.evaluate("window.waits"))
        browser.close()
    return {
        "moves": len(waits),
        "median_ms": round(statistics.median(waits), 1),
        "p95_ms": round(waits[int(len(waits) * 0.95)], 1),
    }
