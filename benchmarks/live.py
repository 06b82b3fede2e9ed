"""What the live view is measured with: the demo account over HTTP, a view of a project as a browser has it."""

import asyncio
import http.cookiejar
import json
import time
import urllib.request
import uuid
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import websockets
from websockets.typing import Origin

from demo.glb import GlbWriter
from demo.project import ACCOUNT, PASSWORD
from demo.shapes import Shape, from_grid
from lantern.scene.patching import apply_operations
from server.protocol import frames

VIEW = {"pane": 0, "width": 936, "height": 642}
"""The picture's place at 1280x800 with the drawer open."""

ANSWER_SECONDS = 120
"""A server that has not answered by then never will."""


def shows(serial: int) -> Callable[[frames.FrameInfo], bool]:
    """Whether a picture shows an edit."""
    return lambda info: info.serial >= serial


class Account:
    """The demo account over HTTP."""

    def __init__(self, url: str) -> None:
        self.url = url
        self._jar = http.cookiejar.CookieJar()
        self._opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self._jar))
        self._token = self.get("/api/v1/session")["csrf_token"]
        answer = self._post(
            "/api/v1/session", json.dumps({"username": ACCOUNT, "password": PASSWORD}).encode(), "application/json"
        )
        self._token = answer["csrf_token"]

    @property
    def cookie(self) -> str:
        return "; ".join(f"{cookie.name}={cookie.value}" for cookie in self._jar)

    def _open(self, request: urllib.request.Request | str) -> bytes:
        answer: bytes = self._opener.open(request, timeout=ANSWER_SECONDS).read()
        return answer

    def get(self, path: str) -> Any:
        """JSON of a GET."""
        return json.loads(self._open(f"{self.url}{path}"))

    def _post(self, path: str, body: bytes, kind: str, key: str = "") -> Any:
        headers = {"Content-Type": kind, "X-CSRFToken": self._token, "Referer": self.url}
        if key:
            headers["Idempotency-Key"] = key
        return json.loads(self._open(urllib.request.Request(f"{self.url}{path}", body, headers)))

    def post(self, path: str, data: Any = None) -> Any:
        """JSON of a POST; it may be sent again, since it has a key."""
        return self._post(path, json.dumps(data or {}).encode(), "application/json", uuid.uuid4().hex)

    def delete(self, path: str) -> None:
        """DELETE."""
        headers = {"X-CSRFToken": self._token, "Referer": self.url}
        self._open(urllib.request.Request(f"{self.url}{path}", headers=headers, method="DELETE"))

    def upload(self, path: Path) -> int:
        """Send an asset to be read; returns the number of the upload."""
        boundary = uuid.uuid4().hex
        head = f'--{boundary}\r\nContent-Disposition: form-data; name="file"; filename="{path.name}"\r\n\r\n'
        body = head.encode() + path.read_bytes() + f"\r\n--{boundary}--\r\n".encode()
        return int(self._post("/api/v1/intake/asset", body, f"multipart/form-data; boundary={boundary}")["id"])

    def import_asset(self, path: Path) -> int:
        """Upload an asset and return the number of its project."""
        number = self.upload(path)
        while (state := self.get(f"/api/v1/uploads/{number}"))["state"] == "running":
            time.sleep(0.2)
        if state["state"] != "done":
            raise RuntimeError(f"the import failed: {state['error']}")
        return int(state["result"])


def million_triangles(path: Path) -> Path:
    """Write an asset of one million triangles: a ball with waves, half metal, half plastic."""
    writer = GlbWriter("velvet-lantern-benchmark")
    for name, turn, metal in (("Metal half", 0.0, 1.0), ("Plastic half", np.pi, 0.0)):
        rings = 500
        theta, phi = np.meshgrid(np.linspace(0, np.pi, rings + 1), np.linspace(0, np.pi, rings + 1), indexing="ij")
        radius = 0.1 + 0.003 * np.sin(30 * theta) * np.sin(30 * phi)
        angle = phi + turn
        unit = np.stack([np.sin(theta) * np.sin(angle), np.cos(theta), np.sin(theta) * np.cos(angle)], -1)
        shape: Shape = from_grid(unit * radius[..., None], np.stack([phi, theta], -1))
        color = [0.8, 0.5, 0.3, 1.0]
        surface = {"baseColorFactor": color, "metallicFactor": metal, "roughnessFactor": 0.35}
        material = writer.add_material({"name": name, "pbrMetallicRoughness": surface})
        writer.add_part(name, shape, material)
    writer.write(path)
    return path


def many_parts(path: Path, parts: int) -> Path:
    """Write an asset of so many small squares."""
    writer = GlbWriter("velvet-lantern-benchmark")
    material = writer.add_material({"name": "Grey"})
    uvs = np.stack(np.meshgrid([0.0, 1.0], [0.0, 1.0], indexing="ij"), -1)
    for number in range(parts):
        points = np.zeros((2, 2, 3))
        points[..., 0], points[..., 2] = number % 100 + 0.8 * uvs[..., 1], number // 100 + 0.8 * uvs[..., 0]
        writer.add_part(f"Tile {number}", from_grid(points, uvs), material)
    writer.write(path)
    return path


class LiveView:
    """One pane of a project through the real socket; acknowledges every picture, as a browser does."""

    def __init__(self, socket: Any) -> None:
        self._socket = socket
        self.scene: dict[str, Any] = {}
        self.counts: dict[str, int] = {}
        self._serial = 1000

    @classmethod
    async def open(cls, account: Account, project: int, *, url: str | None = None, **pane: Any) -> "LiveView":
        """Connect and say what the pane shows; `url` is another way to the same server."""
        address = f"{(url or account.url).replace('http', 'ws')}/socket/projects/{project}"
        socket = await websockets.connect(
            address,
            additional_headers={"Cookie": account.cookie},
            origin=Origin(url or account.url),
            max_size=1 << 26,
            ping_interval=None,
        )
        view = cls(socket)
        await view.send({"type": "pane", "serial": 0, **VIEW, **pane})
        return view

    async def send(self, message: dict[str, Any]) -> None:
        await self._socket.send(json.dumps(message))

    async def next(self) -> tuple[frames.FrameInfo, bytes] | dict[str, Any]:
        """The next message: a picture or a dict."""
        message = await self._socket.recv()
        if isinstance(message, bytes):
            await self.send({"type": "shown"})
            return frames.unpack_frame(message)
        data = json.loads(message)
        if data["type"] == "document":
            self.scene = data["scene"]
        elif data["type"] == "edited":
            self.scene = apply_operations(self.scene, data["patch"])[0]
        elif data["type"] == "opened":
            self.counts = data["compiled"]
        return data

    async def frame(self, wanted: Callable[[frames.FrameInfo], bool]) -> tuple[frames.FrameInfo, bytes]:
        """The next picture that is wanted."""
        while True:
            message = await self.next()
            if isinstance(message, tuple) and message[0].kind == frames.FRAME and wanted(message[0]):
                return message

    async def preview(self, path: str, value: Any) -> int:
        """Send an edit in hand and return its serial."""
        return await self.preview_patch([{"op": "replace", "path": path, "value": value}])

    async def preview_patch(self, patch: list[dict[str, Any]]) -> int:
        """Send a patch in hand and return its serial."""
        self._serial += 1
        await self.send({"type": "preview", "serial": self._serial, "patch": patch})
        return self._serial

    async def ask(self, question: dict[str, Any]) -> dict[str, Any]:
        """The answer to a question; pictures that come meanwhile are passed over."""
        self._serial += 1
        request = f"asked {self._serial}"
        await self.send({**question, "request": request})
        while True:
            message = await self.next()
            if isinstance(message, dict) and message.get("asked") == request:
                return message

    async def settle(self, seconds: float) -> None:
        """Read what comes for a while."""
        end = time.perf_counter() + seconds
        while (left := end - time.perf_counter()) > 0:
            try:
                await asyncio.wait_for(self.next(), left)
            except TimeoutError:
                return

    async def close(self) -> None:
        await self._socket.close()
