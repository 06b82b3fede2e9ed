"""A slider dragged in real Chromium beside thousands of parts: script time of each move, and frames that were missed.

Starts the application with a data folder of its own, brings in an asset of many parts and materials, and drags the
roughness of one of them while the proof answers. Counted in a trace of the browser: what its main thread spends on
each move of the pointer, and how far apart the frames of the page are.
"""

import argparse
import json
import statistics
import tempfile
from itertools import pairwise
from pathlib import Path
from typing import Any

from playwright.sync_api import CDPSession, Page, sync_playwright

from benchmarks.live import Account, many_parts
from tests.browser.conftest import BROWSER_FLAGS, Application, sign_in
from tests.browser.picture import go, wait_for_samples

MOVES = 160
FRAME_MS = 1000 / 60
_WATCH = """() => { window.frames_at = [];
  const note = (now) => { window.frames_at.push(now); if (!window.enough) requestAnimationFrame(note); };
  requestAnimationFrame(note); }"""


def _traced(client: CDPSession) -> list[dict[str, Any]]:
    """Start a trace; what it has seen is in the list once `Tracing.end` was answered."""
    events: list[dict[str, Any]] = []
    client.on("Tracing.dataCollected", lambda data: events.extend(data["value"]))
    config = {"includedCategories": ["devtools.timeline"]}
    client.send("Tracing.start", {"traceConfig": config, "transferMode": "ReportEvents"})
    return events


def _drag(page: Page) -> dict[str, Any]:
    client = page.context.new_cdp_session(page)
    events = _traced(client)
    ended: list[bool] = []
    client.on("Tracing.tracingComplete", lambda _: ended.append(True))
    box = page.get_by_test_id("track Roughness").bounding_box()
    assert box is not None
    x, y = box["x"] + 10, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.evaluate(_WATCH)
    for number in range(MOVES):
        page.mouse.move(x + 0.6 * number, y)
        page.wait_for_timeout(1000 / 60)
    at = page.evaluate("() => { window.enough = true; return window.frames_at }")
    page.mouse.up()
    client.send("Tracing.end")
    while not ended:
        page.wait_for_timeout(50)
    moves = sorted(
        event.get("dur", 0) / 1000
        for event in events
        if event["name"] == "EventDispatch" and event["args"]["data"]["type"] == "pointermove"
    )
    apart = sorted(b - a for a, b in pairwise(at))
    return {
        "moves": len(moves),
        "move_median_ms": round(statistics.median(moves), 2),
        "move_p95_ms": round(moves[int(0.95 * len(moves))], 2),
        "frames": len(apart),
        "frame_median_ms": round(statistics.median(apart), 2),
        "frame_longest_ms": round(apart[-1], 1),
        "frames_missed": sum(gap > 1.5 * FRAME_MS for gap in apart),
    }


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--parts", type=int, default=3000)
    wanted = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        application = Application(Path(folder) / "data")
        try:
            asset = many_parts(Path(folder) / "many.glb", wanted.parts)
            Account(application.url).import_asset(asset)
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=BROWSER_FLAGS)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            sign_in(page, application)
            wait_for_samples(page, 4)
            go(page, "Materials")
            page.keyboard.press("Control+a")
            found = _drag(page)
            browser.close()
        finally:
            application.stop()
    print(json.dumps({"benchmark": "dragging", "parts": wanted.parts, **found}))


if __name__ == "__main__":
    main()
