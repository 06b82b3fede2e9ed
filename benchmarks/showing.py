"""Switching editions in front of somebody, and fifty who look at one showing.

Starts the application as it comes. In the demo's three editions it asks for one after the other and waits for the first
picture of each. Then so many browsers open the demo's showing, fetch all of its pictures, and follow whoever leads,
from one picture to another and live around the asset.
"""

import argparse
import asyncio
import json
import statistics
import tempfile
import time
import urllib.request
from concurrent.futures import ThreadPoolExecutor
from http.cookiejar import CookieJar
from pathlib import Path
from typing import Any

import websockets
from websockets.typing import Origin

from benchmarks.live import Account, LiveView
from demo.editions import PROJECT_NAME
from server.protocol.frames import unpack_frame
from tests.browser.conftest import Application

REST_SECONDS = 1.5
"""Somebody looks at an edition before they ask for the next."""


async def switching(account: Account, project: int, count: int) -> dict[str, Any]:
    """From asking for an edition to its first picture [ms]: the host makes the patch, the server stores it."""
    view = await LiveView.open(account, project)
    await view.frame(lambda info: info.samples >= 1)
    waits = []
    for number in range(count):
        editions = list(view.scene["editions"])
        await view.settle(REST_SECONDS)
        start = time.perf_counter()
        asked = {"type": "take_edition", "pane": 0, "edition": editions[(number + 1) % len(editions)]}
        made = (await view.ask(asked))["made"]
        request = f"edit-{number}"
        await view.send({"type": "edit", "request": request, "label": made["label"], "patch": made["patch"]})
        waits.append(1000 * (await _first_of(view, request) - start))
    await view.close()
    return {"editions": count, "median_ms": round(statistics.median(waits), 1), "worst_ms": round(max(waits), 1)}


async def _first_of(view: LiveView, request: str) -> float:
    """When the first picture came that shows an edit."""
    committed: int | None = None
    seen: dict[int, float] = {}
    while committed is None or max(seen, default=-1) < committed:
        message = await view.next()
        if isinstance(message, tuple):
            seen.setdefault(message[0].revision, time.perf_counter())
        elif message["type"] == "committed" and message["request"] == request:
            committed = int(message["revision"])
    return min(at for revision, at in seen.items() if revision >= committed)


class Visitor:
    """A browser that has opened the link."""

    def __init__(self, url: str, token: str) -> None:
        self.url, self._jar = url, CookieJar()
        self._opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self._jar))
        csrf = json.loads(self.get("/api/v1/session"))["csrf_token"]
        headers = {"Content-Type": "application/json", "X-CSRFToken": csrf, "Referer": url}
        body = json.dumps({"token": token}).encode()
        answer = self._opener.open(urllib.request.Request(f"{url}/api/v1/visits", body, headers), timeout=60)
        self.showing = json.loads(answer.read())

    def get(self, path: str) -> bytes:
        answer: bytes = self._opener.open(f"{self.url}{path}", timeout=60).read()
        return answer

    @property
    def cookie(self) -> str:
        return "; ".join(f"{cookie.name}={cookie.value}" for cookie in self._jar)

    def fetch(self) -> tuple[float, int]:
        """Seconds and bytes of all pictures."""
        start = time.perf_counter()
        size = sum(len(self.get(path)) for slide in self.showing["slides"] for path in slide["pictures"])
        return time.perf_counter() - start, size

    async def line(self) -> Any:
        """Its socket."""
        address = f"{self.url.replace('http', 'ws')}/socket/showings/{self.showing['id']}"
        return await websockets.connect(
            address, additional_headers={"Cookie": self.cookie}, origin=Origin(self.url), ping_interval=None
        )


async def following(account: Account, visitors: list[Visitor], token: str, steps: int) -> dict[str, Any]:
    """From what whoever leads shows to the last of all who look having it [ms]."""
    leader = _enter_as(account, token)
    socket = await leader.line()
    lines = await asyncio.gather(*(visitor.line() for visitor in visitors))
    waits = []
    for number in range(steps):
        slide = leader.showing["slides"][number % len(leader.showing["slides"])]["id"]
        start = time.perf_counter()
        around = {"azimuth": 15.0 * (number % 7), "raised": 0.0, "closer": 1.0}
        await socket.send(json.dumps({"type": "lead", "slide": slide, "around": around}))
        led = {"type": "led", "slide": slide, "around": around, "beside": None, "live": None}
        for line in lines:
            while json.loads(await line.recv()) != led:
                pass
        waits.append(1000 * (time.perf_counter() - start))
        await asyncio.sleep(0.02)
    for line in (socket, *lines):
        await line.close()
    return {"median_ms": round(statistics.median(waits), 1), "worst_ms": round(max(waits), 1)}


async def turning(account: Account, visitors: list[Visitor], token: str, looks: int) -> dict[str, Any]:
    """From a look around the asset to its first live picture [ms], for whoever leads, and for the last who follows."""
    leader = _enter_as(account, token)
    socket = await leader.line()
    lines = await asyncio.gather(*(visitor.line() for visitor in visitors))
    slide = leader.showing["slides"][0]["id"]
    own, followed = [], []
    for serial in range(1, looks + 1):
        around = {"azimuth": 3.0 * serial, "raised": 0.0, "closer": 1.0}
        look = {"type": "look", "slide": slide, "around": around, "serial": serial, "width": 960, "height": 600}
        start = time.perf_counter()
        await socket.send(json.dumps(look))
        if serial == 1:
            await socket.send(json.dumps({"type": "lead", "slide": slide, "around": around, "live": 1}))
        arrived = await asyncio.gather(*(_live_picture(line, serial) for line in (socket, *lines)))
        own.append(1000 * (arrived[0] - start))
        followed.append(1000 * (max(arrived) - start))
        await asyncio.sleep(REST_SECONDS)
    for line in (socket, *lines):
        await line.close()
    return {
        "first_ms": round(own[0]),
        "next_median_ms": round(statistics.median(own[1:]), 1),
        "next_worst_ms": round(max(own[1:]), 1),
        "last_follower_median_ms": round(statistics.median(followed[1:]), 1),
    }


async def _live_picture(line: Any, serial: int) -> float:
    """When a page has the first picture of a look."""
    while True:
        received = await line.recv()
        if isinstance(received, bytes):
            await line.send('{"type": "shown"}')
            if unpack_frame(received)[0].serial >= serial:
                return time.perf_counter()


def _enter_as(account: Account, token: str) -> Visitor:
    """The owner's browser with the showing open, who may lead."""
    leader = Visitor.__new__(Visitor)
    leader.url, leader._jar, leader._opener = account.url, account._jar, account._opener
    leader.showing = account.post("/api/v1/visits", {"token": token})
    return leader


def _memory(application: Application) -> int:
    """Resident memory [MiB] of the web process."""
    (web,) = application.processes(r"uvicorn|server\.runtime\.web")[:1]
    pages = int(Path(f"/proc/{web}/statm").read_text().split()[1])
    return pages * 4096 >> 20


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--editions", type=int, default=20)
    parser.add_argument("--viewers", type=int, default=50)
    parser.add_argument("--steps", type=int, default=50)
    parser.add_argument("--looks", type=int, default=12)
    wanted = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        application = Application(Path(folder) / "data", as_it_comes=True)
        try:
            account = Account(application.url)
            projects = account.get("/api/v1/projects?limit=50")["items"]
            project = next(each["id"] for each in projects if each["name"] == PROJECT_NAME)
            (showing,) = account.get(f"/api/v1/projects/{project}/showings")["items"]
            before = _memory(application)
            with ThreadPoolExecutor(wanted.viewers) as pool:
                start = time.perf_counter()
                make = [pool.submit(Visitor, application.url, showing["token"]) for _ in range(wanted.viewers)]
                visitors = [each.result() for each in make]
                opened = time.perf_counter() - start
                fetched = [each.result() for each in [pool.submit(visitor.fetch) for visitor in visitors]]
            found = {
                "viewers": wanted.viewers,
                "opened_s": round(opened, 2),
                "all_pictures_s": round(max(seconds for seconds, _ in fetched), 2),
                "megabytes_each": round(fetched[0][1] / 1e6, 2),
                "render_hosts": len(application.processes(r"server\.host\.template")),
                "led": asyncio.run(following(account, visitors, showing["token"], wanted.steps)),
                "live": asyncio.run(turning(account, visitors, showing["token"], wanted.looks)),
                "hosts_when_live": len(application.processes(r"server\.host\.template")),
                "web_memory_mib": [before, _memory(application)],
                "switching": asyncio.run(switching(account, project, wanted.editions)),
            }
        finally:
            application.stop()
    print(json.dumps(found))


if __name__ == "__main__":
    main()
