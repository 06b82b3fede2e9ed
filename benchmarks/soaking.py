"""What a soak is made of: windows that never give up, faults, and what the processes take meanwhile.

A window does what the browser does: it names its changes, sends those again that were not acknowledged when its
connection breaks, and acknowledges pictures.
"""

import asyncio
import contextlib
import json
import os
import random
import signal
import time
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import websockets
from websockets.typing import Origin

from benchmarks.live import Account
from server.protocol import frames
from tests.browser.conftest import Application

PANE = {"type": "pane", "pane": 0, "serial": 0, "width": 480, "height": 320}
HOST = "lantern-host"
AWAY_SECONDS = 0.5


@dataclass
class Window:
    """One window of a project; it owns one light, whose amount counts its edits."""

    account: Account
    project: int
    name: str
    url: str
    chance: random.Random
    undoes: bool = False
    """Whether it may undo: nobody else edits the project."""
    amount: int = 0
    unacknowledged: dict[str, dict[str, Any]] = field(default_factory=dict)
    acknowledged: list[str] = field(default_factory=list)
    refused: list[str] = field(default_factory=list)
    waits: list[float] = field(default_factory=list)
    counts: Counter[str] = field(default_factory=Counter)
    last_picture: float = 0.0
    _sent_at: dict[str, float] = field(default_factory=dict)
    _serial: int = 0

    async def live(self, over: asyncio.Event, pause: tuple[float, float]) -> None:
        """Edit until it is over, and then until everything is acknowledged."""
        while not (over.is_set() and not self.unacknowledged):
            try:
                await self._connected(over, pause)
            except* (OSError, websockets.WebSocketException):  # also of the two tasks of a connection
                self.counts["reconnects"] += 1
                await asyncio.sleep(AWAY_SECONDS)

    async def _connected(self, over: asyncio.Event, pause: tuple[float, float]) -> None:
        address = f"{self.url.replace('http', 'ws')}/socket/projects/{self.project}"
        headers = {"Cookie": self.account.cookie}
        async with websockets.connect(
            address, additional_headers=headers, origin=Origin(self.url), max_size=1 << 26, ping_interval=None
        ) as socket:
            await socket.send(json.dumps(PANE))
            for message in self.unacknowledged.values():
                await socket.send(json.dumps(message))
            async with asyncio.TaskGroup() as both:
                reading = both.create_task(self._read(socket))
                await self._act(socket, over, pause)
                while self.unacknowledged and not reading.done():
                    await asyncio.sleep(0.1)
                reading.cancel()

    async def _read(self, socket: Any) -> None:
        async for message in socket:
            if isinstance(message, bytes):
                await socket.send('{"type": "shown"}')
                self.counts["pictures"] += frames.unpack_frame(message)[0].kind == frames.FRAME
                self.last_picture = time.monotonic()
                continue
            data = json.loads(message)
            request = data.get("request") or ""
            if data["type"] in ("committed", "refused") and self.unacknowledged.pop(request, {}):
                if data["type"] == "refused":
                    self.refused.append(data["message"])
                    continue
                self.acknowledged.append(request)
                self.waits.append(time.monotonic() - self._sent_at[request])

    async def _act(self, socket: Any, over: asyncio.Event, pause: tuple[float, float]) -> None:
        if self.amount == 0:
            light = {"kind": "point", "name": self.name, "amount": 1}
            await self._commit(
                socket, {"type": "edit", "label": "Light", "patch": [_operation("add", self._path, light)]}
            )
            self.amount = 1
        while not over.is_set():
            await asyncio.sleep(self.chance.uniform(*pause))
            for step in range(self.chance.choice((0, 0, 12))):
                await self._preview(socket, step)
                await asyncio.sleep(1 / 30)
            self.amount += 1
            patch = [_operation("replace", f"{self._path}/amount", self.amount)]
            await self._commit(socket, {"type": "edit", "label": f"{self.name} {self.amount}", "patch": patch})
            if self.undoes and self.chance.random() < 0.2:
                await self._commit(socket, {"type": "undo"})
                await self._commit(socket, {"type": "redo"})

    @property
    def _path(self) -> str:
        return f"/lights/{self.name}"

    async def _preview(self, socket: Any, step: int) -> None:
        self._serial += 1
        patch = [_operation("replace", "/camera/focal_length", 50 + step)]
        await socket.send(json.dumps({"type": "preview", "serial": self._serial, "patch": patch}))

    async def _commit(self, socket: Any, message: dict[str, Any]) -> None:
        request = f"{self.name}-{len(self._sent_at)}"
        self.unacknowledged[request] = message | {"request": request}
        self._sent_at[request] = time.monotonic()
        await socket.send(json.dumps(self.unacknowledged[request]))


def _operation(op: str, path: str, value: Any) -> dict[str, Any]:
    return {"op": op, "path": path, "value": value}


class Faults:
    """What is done to the application while people work."""

    def __init__(self, application: Application, chance: random.Random) -> None:
        self._application, self._chance = application, chance
        self.counts: Counter[str] = Counter()
        self._kinds: list[Callable[[], bool]] = [
            self._kill_host, self._kill_host, self._stop_host, self._kill_worker, self._restart_database,
        ]  # fmt: skip

    def one(self) -> None:
        """Do one thing, in turn, so that each has happened; nothing when there is nobody to do it to."""
        kind = self._kinds.pop(0)
        self._kinds.append(kind)
        if kind():
            self.counts[kind.__name__.strip("_").replace("_", " ")] += 1

    def _signal_one(self, processes: list[int], number: signal.Signals) -> bool:
        if not processes:
            return False
        with contextlib.suppress(ProcessLookupError):
            os.kill(self._chance.choice(processes), number)
        return True

    def _kill_host(self) -> bool:
        return self._signal_one(hosts_of(self._application), signal.SIGKILL)

    def _stop_host(self) -> bool:
        return self._signal_one(hosts_of(self._application), signal.SIGSTOP)

    def _kill_worker(self) -> bool:
        return self._signal_one(self._application.processes(r"manage\.py worker"), signal.SIGKILL)

    def _restart_database(self) -> bool:
        """As a crash of the machine would: no connection is closed in order, and the launcher brings it back."""
        (pid, *_) = (self._application.data / "postgres" / "cluster" / "postmaster.pid").read_text().split()
        return self._signal_one([int(pid)], signal.SIGQUIT)


def hosts_of(application: Application) -> list[int]:
    """Render hosts of an application, by their names: they are forks of their template."""
    found = []
    for process in application.processes(r"server\.host\.template"):
        with contextlib.suppress(OSError):
            if Path(f"/proc/{process}/comm").read_text().strip() == HOST:
                found.append(process)
    return found


def memory_of(processes: list[int]) -> int:
    """Bytes that processes take, what they share counted once among them (PSS)."""
    total = 0
    for process in processes:
        with contextlib.suppress(OSError, StopIteration):
            lines = Path(f"/proc/{process}/smaps_rollup").read_text().splitlines()
            total += int(next(line.split()[1] for line in lines if line.startswith("Pss:"))) << 10
    return total
