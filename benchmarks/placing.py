"""`benchmarks/run placing`: moving one part of 5 and one of 5,000, from the hand to the first picture that shows it.

Through the real socket and server, one project after the other, in turns. The last line is one JSON object.
"""

import argparse
import asyncio
import json
import statistics
import sys
import tempfile
from pathlib import Path
from typing import Any

from benchmarks.bringing import parts_glb
from benchmarks.latency import EDITS, time_edits
from benchmarks.live import Account, LiveView
from tests.browser.conftest import Application

COUNTS = (5, 5000)
AT_REST_SECONDS = 2.0


async def _measured(account: Account, project: int, edits: int) -> dict[str, Any]:
    view = await LiveView.open(account, project)
    await view.frame(lambda _: True)
    await view.settle(AT_REST_SECONDS)
    found = await time_edits(view, EDITS["part"], edits)
    await view.close()
    return found


def main() -> None:
    """Print one line a round."""
    parser = argparse.ArgumentParser(prog="benchmarks/run placing", description=__doc__)
    parser.add_argument("--rounds", type=int, default=4)
    parser.add_argument("--edits", type=int, default=40)
    options = parser.parse_args()
    medians: dict[int, list[float]] = {count: [] for count in COUNTS}
    with tempfile.TemporaryDirectory() as folder:
        application = Application(Path(folder) / "data")
        try:
            account = Account(application.url)
            projects = {}
            for count in COUNTS:
                path = Path(folder) / f"{count}.glb"
                path.write_bytes(parts_glb(count))
                projects[count] = account.import_asset(path)
            for _ in range(options.rounds):
                for count, project in projects.items():
                    found = asyncio.run(_measured(account, project, options.edits))
                    medians[count].append(found["median_ms"])
                    print(f"{count} parts: {found}", file=sys.stderr)
        finally:
            application.stop()
    found_medians = {count: statistics.median(values) for count, values in medians.items()}
    few, many = (found_medians[count] for count in COUNTS)
    print(json.dumps({"benchmark": "placing", "median_ms": found_medians, "ratio": round(many / few, 2)}))


if __name__ == "__main__":
    main()
