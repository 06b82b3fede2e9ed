"""From sending a camera edit to receiving the first frame that shows it, through the real socket and server.

Starts the application with a data folder of its own, signs in over HTTP, opens the demo project's socket, and
sends one camera edit after the other at the pace of a hand: the next when the last has been shown.
"""

import argparse
import asyncio
import http.cookiejar
import json
import math
import statistics
import tempfile
import time
import urllib.request
from pathlib import Path

import websockets

from demo.project import ACCOUNT, PASSWORD
from server.viewport import frames
from tests.browser.conftest import Application

VIEW = {"width": 936, "height": 642}  # the picture's place at 1280x800 with the drawer open


def _sign_in(url: str) -> str:
    """The session cookie of the demo account."""
    jar = http.cookiejar.CookieJar()
    opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(jar))
    token = json.loads(opener.open(f"{url}/api/session").read())["csrf_token"]
    request = urllib.request.Request(
        f"{url}/api/session",
        json.dumps({"username": ACCOUNT, "password": PASSWORD}).encode(),
        {"Content-Type": "application/json", "X-CSRFToken": token},
    )
    opener.open(request)
    return "; ".join(f"{cookie.name}={cookie.value}" for cookie in jar)


async def _measure(application: Application, edits: int) -> dict[str, object]:
    cookie = await asyncio.to_thread(_sign_in, application.url)
    address = f"{application.url.replace('http', 'ws')}/socket/projects/1"
    opened = time.perf_counter()
    async with websockets.connect(
        address, additional_headers={"Cookie": cookie}, origin=application.url, max_size=1 << 26
    ) as socket:
        await socket.send(json.dumps({"type": "size", **VIEW}))
        camera = None
        first_frame = None
        while first_frame is None:
            message = await socket.recv()
            if isinstance(message, bytes):
                first_frame = time.perf_counter() - opened
            elif (document := json.loads(message))["type"] == "document":
                camera = document["scene"]["camera"]
        assert camera is not None
        await asyncio.sleep(3)
        x, y, z = camera["position"]
        waits, sizes = [], []
        for number in range(edits):
            angle = 0.02 * (number + 1)
            turned = [x * math.cos(angle) + z * math.sin(angle), y, z * math.cos(angle) - x * math.sin(angle)]
            patch = [{"op": "replace", "path": "/camera/position", "value": turned}]
            start = time.perf_counter()
            await socket.send(json.dumps({"type": "preview", "serial": 1000 + number, "patch": patch}))
            while True:
                message = await socket.recv()
                if isinstance(message, bytes):
                    info, _ = frames.unpack_frame(message)
                    if info.serial >= 1000 + number:
                        break
            waits.append((time.perf_counter() - start) * 1000)
            sizes.append((info.width, info.height))
            # A hand pauses now and then: let some edits interrupt a long pass instead of a short one.
            await asyncio.sleep(0.0 if number % 4 else 0.6)
    waits.sort()
    return {
        "benchmark": "latency",
        "edits": edits,
        "median_ms": round(statistics.median(waits), 1),
        "p95_ms": round(waits[int(len(waits) * 0.95)], 1),
        "first_frame_s": round(first_frame, 2),
        "frame_size": list(statistics.mode(sizes)),
        "host_peak_memory_mib": _peak_memory(application),
    }


def _peak_memory(application: Application) -> int:
    """Peak resident memory of the render host [MiB]."""
    (host,) = application.processes(r"server\.viewport\.host")
    for line in Path(f"/proc/{host}/status").read_text().splitlines():
        if line.startswith("VmHWM"):
            return int(line.split()[1]) // 1024
    return 0


def main() -> None:
    """Print the latency of camera edits."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--edits", type=int, default=120)
    options = parser.parse_args()
    print(f"Latency of {options.edits} camera edits on the demo project through the real socket; starting the server.")
    with tempfile.TemporaryDirectory() as folder:
        Path(folder).chmod(0o755)
        application = Application(Path(folder) / "data")
        try:
            print(json.dumps(asyncio.run(_measure(application, options.edits))))
        finally:
            application.stop()


if __name__ == "__main__":
    main()
