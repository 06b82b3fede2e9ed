"""The light desk through the real socket and server: from the hand to the first picture that shows what it did.

Starts the application with a data folder of its own and opens the demo. Conditions and rigs are switched in turns; a
light is dragged by its highlight and by a shadow of its own; a fader is moved. What is asked for and the edit that
follows count, as they do for a hand.
"""

import argparse
import asyncio
import json
import statistics
import tempfile
import time
from collections.abc import Awaitable, Callable
from pathlib import Path
from typing import Any

from benchmarks.live import Account, LiveView, shows
from lantern.shelf.rigs import RIGS
from tests.browser.conftest import Application

HALF_SIZE: dict[str, Any] = {"width": 640, "height": 360}
BASE = (0.5, 0.85)
"""A place on the brass of the demo's lantern, in shares of its picture."""
Step = Callable[[LiveView, int], Awaitable[list[dict[str, Any]] | None]]


async def _patch(view: LiveView, kind: str, **fields: Any) -> list[dict[str, Any]] | None:
    """The patch that the render host makes of a question."""
    answer = await view.ask({"type": kind, "pane": 0, **fields})
    made = answer["made"]
    return None if made is None else made["patch"]


async def _conditions(view: LiveView, number: int) -> list[dict[str, Any]] | None:
    keys = sorted(view.scene["conditions"])
    return await _patch(view, "take_conditions", conditions=keys[number % len(keys)])


async def _rig(view: LiveView, number: int) -> list[dict[str, Any]] | None:
    rig = list(RIGS.values())[number % 10]().model_dump(mode="json")
    return await _patch(view, "take_rig", rig=rig)


async def _glint(view: LiveView, number: int) -> list[dict[str, Any]] | None:
    x = BASE[0] + 0.04 * ((number % 9) / 8 - 0.5)
    return await _patch(view, "place_light", x=x, y=BASE[1], light="light-1", how="glint")


async def _throw(view: LiveView, number: int) -> list[dict[str, Any]] | None:
    x = 0.2 + 0.05 * (number % 9) / 8
    return await _patch(view, "place_light", x=x, y=0.9, light="light-1", how="throw", caster=[0.0, 0.2, 0.0])


async def _fader(view: LiveView, number: int) -> list[dict[str, Any]] | None:
    value = {"stops": -0.3 * (number % 12 + 1), "tint": [1, 1, 1], "enabled": True}
    return [{"op": "add", "path": "/balance/environment", "value": value}]


STEPS: dict[str, Step] = {
    "conditions": _conditions, "rig": _rig, "glint": _glint, "throw": _throw, "fader": _fader,
}  # fmt: skip


async def _timed(view: LiveView, step: Step, count: int) -> dict[str, Any]:
    """Median and 95th percentile [ms] from the question to the picture; `asking_ms` until the answer."""
    waits, asks = [], []
    for number in range(count):
        start = time.perf_counter()
        patch = await step(view, number)
        if not patch:
            continue
        asks.append((time.perf_counter() - start) * 1000)
        serial = await view.preview_patch(patch)
        await view.frame(shows(serial))
        waits.append((time.perf_counter() - start) * 1000)
        await view.settle(0.02 if number % 4 else 0.6)
    waits_sorted = sorted(waits)
    return {
        "median_ms": round(statistics.median(waits), 1),
        "p95_ms": round(waits_sorted[min(int(len(waits) * 0.95), len(waits) - 1)], 1),
        "largest_ms": round(waits_sorted[-1], 1),
        "asking_ms": round(statistics.median(asks), 1),
        "count": len(waits),
    }


async def _measure(account: Account, count: int) -> dict[str, Any]:
    view = await LiveView.open(account, 1, **HALF_SIZE)
    await view.frame(lambda i: True)
    await view.settle(1)
    key = json.loads(next(iter(RIGS.values()))().model_dump_json())["lights"]["light-1"]
    await view.send(
        {
            "type": "edit",
            "request": "light",
            "label": "Light",
            "patch": [{"op": "add", "path": "/lights/light-1", "value": key}],
        }
    )
    await view.settle(2)
    found = {}
    for name, step in STEPS.items():
        found[name] = await _timed(view, step, count)
        await view.preview_patch([])
        await view.settle(2)
    await view.send({"type": "undo", "request": "no light"})
    await view.settle(0.5)
    await view.close()
    return found


def main() -> int:
    """Entry point of `benchmarks/run desk`."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--edits", type=int, default=40, help="of each kind")
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        application = Application(Path(folder) / "data")
        try:
            found = asyncio.run(_measure(Account(application.url), options.edits))
        finally:
            application.stop()
    for name, values in found.items():
        print(f"{name:12} {values}")
    print(json.dumps(found))
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
