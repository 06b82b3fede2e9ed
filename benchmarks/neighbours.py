"""How long one project's edit takes to be saved while another, of 5,000 parts, is edited and dragged without a pause.

A has two windows: one commits edits one after the other, one drags a part. B commits an edit every tenth of a second;
what counts is the time from B's edit to its acknowledgement, alone and beside A, through the real socket and database.
"""

import argparse
import asyncio
import json
import statistics
import tempfile
import time
from pathlib import Path
from typing import Any

from benchmarks.live import Account, LiveView, many_parts, shows
from tests.browser.conftest import Application

PARTS = 5_000


async def _commit(view: LiveView, number: int) -> float:
    """Seconds until an edit is acknowledged."""
    patch = [{"op": "replace", "path": "/look/exposure", "value": (number % 40) / 40}]
    start = time.perf_counter()
    await view.send({"type": "edit", "request": f"{id(view)}-{number}", "label": "Exposure", "patch": patch})
    while True:
        message = await view.next()
        if isinstance(message, dict) and message["type"] in ("committed", "refused"):
            assert message["type"] == "committed", message
            return time.perf_counter() - start


async def _measure(view: LiveView, count: int) -> dict[str, float]:
    waits = []
    for number in range(count):
        waits.append(await _commit(view, number) * 1000)
        await asyncio.sleep(0.1)
    cut = statistics.quantiles(waits, n=20)
    found = {"median_ms": statistics.median(waits), "p95_ms": cut[-1], "most_ms": max(waits)}
    return {name: round(value, 1) for name, value in found.items()}


async def _run(account: Account, big: int, count: int) -> dict[str, Any]:
    b = await LiveView.open(account, 1)
    await b.frame(shows(0))
    alone = await _measure(b, count)
    committing, dragging = await LiveView.open(account, big), await LiveView.open(account, big)
    await committing.frame(shows(0))
    b = await LiveView.open(account, 1)  # anew: one that is not read for so long is closed
    await b.frame(shows(0))
    busy = True
    made = {"commits": 0, "previews": 0}

    async def commit_on_and_on() -> None:
        while busy:
            await _commit(committing, made["commits"])
            made["commits"] += 1

    async def drag_on_and_on() -> None:
        key = next(iter(dragging.scene["parts"]))
        while busy:
            moved = [1, 0, 0, made["previews"] % 50, 0, 1, 0, 0, 0, 0, 1, 0]
            await dragging.preview(f"/parts/{key}/matrix", moved)
            made["previews"] += 1
            await asyncio.sleep(1 / 60)

    async def read_on_and_on() -> None:
        while busy:
            await dragging.next()

    while "parts" not in dragging.scene:
        await dragging.next()
    others = [asyncio.create_task(work()) for work in (commit_on_and_on, drag_on_and_on, read_on_and_on)]
    beside = await _measure(b, count)
    busy = False
    for task in others:
        task.cancel()
    return {"alone": alone, "beside": beside, **made}


def main() -> None:
    """Print both."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--edits", type=int, default=100)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        many_parts(Path(folder) / "tiles.glb", PARTS)
        application = Application(Path(folder) / "data")
        try:
            account = Account(application.url)
            big = account.import_asset(Path(folder) / "tiles.glb")
            found = asyncio.run(_run(account, big, options.edits))
        finally:
            application.stop()
    print(json.dumps({"benchmark": "neighbours", "parts": PARTS, **found}))


if __name__ == "__main__":
    main()
