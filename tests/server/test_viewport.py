"""The viewport: protocol, ladder, and the real socket with a real render host."""

import asyncio
import base64
import contextlib
import io
import json
import os
import signal
from pathlib import Path

import jsonpatch
import pytest
from asgiref.testing import ApplicationCommunicator
from channels.db import database_sync_to_async
from django.test import Client
from PIL import Image

from lantern.engine.swatches import HEIGHT, WIDTH
from server.config.asgi import application
from server.host.ladder import (
    LEAST_COARSE_SCALE,
    Speed,
    block_side,
    coarse_size,
    first_whole_samples,
    middle_size,
    next_samples,
)
from server.live import database
from server.live.hosts import HostError, hosts
from server.live.sessions import sessions
from server.projects.models import Project
from server.protocol import frames, pipe
from server.protocol.host import FROM_HOST, Picture
from server.runtime.priority import BEHIND, HOST


def test_frames_survive_packing():
    info = frames.FrameInfo(
        7, 9, 16, 320, 200, (640, 400), (10, 20, 320, 200), frames.JPEG, frames.DENOISED, 1,
        (1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 85.0, 36.0, 0.5, -0.5, 0.0, 15.0),
    )  # fmt: skip
    message = frames.pack_frame(info, b"picture")
    assert frames.HEADER.size == 84
    assert frames.unpack_frame(message) == (info, b"picture")
    with pytest.raises(ValueError, match="not a picture"):
        frames.unpack_frame(b"something else")


def test_pipe_messages_survive_and_ends_are_noticed():
    picture = Picture(pane="1.0", kind="frame")
    stream = io.BytesIO(pipe.pack(picture, b"\0\1") + pipe.pack(picture)[:6])
    head, body = pipe.read(stream)
    assert FROM_HOST.validate_json(head) == picture and body == b"\0\1"
    assert pipe.read(stream) is None


def test_the_first_picture_is_as_large_as_the_machine_allows():
    fast, slow = Speed(1e-9), Speed(1e-3)
    assert coarse_size(1200, 750, fast) == (1200, 750)
    width, height = coarse_size(1200, 750, slow)
    assert width == round(1200 * LEAST_COARSE_SCALE) and height == round(750 * LEAST_COARSE_SCALE)


def test_a_picture_with_another_look_is_as_large_as_the_time_allows():
    assert block_side(900, 600, Speed(1e-9)) == 1
    assert block_side(900, 600, Speed(1e-7)) == 2
    assert block_side(900, 600, Speed(1e-3)) == 6, "never below a sixth"
    assert block_side(2, 1, Speed(1e-1)) == 1
    # 540,000 pixels at 30 ns are 16 ms: enough for a sharp picture, but not to go back to one.
    assert block_side(900, 600, Speed(3e-8)) == 1 and block_side(900, 600, Speed(3e-8), before=2) == 2
    assert block_side(900, 600, Speed(1e-8), before=2) == 1


def test_the_first_whole_picture_has_the_samples_there_is_time_for():
    tracing, denoising = Speed(1e-6), Speed(1e-6)
    assert first_whole_samples(200_000, tracing, denoising, 0.05) == 2
    assert first_whole_samples(200_000, tracing, denoising, 0.3) == 1
    assert first_whole_samples(2_000_000, tracing, denoising, 0.1) == 1, "one at least"
    assert first_whole_samples(1_000, tracing, denoising, 0.1) == 4, "a quick machine shows it sooner instead"


def test_passes_double_but_stay_short():
    speed = Speed(1e-6)
    assert [next_samples(n, 100, 1000, speed) for n in (0, 1, 2, 8, 64)] == [1, 2, 4, 16, 100]
    assert next_samples(64, 1000, 1_000_000, speed) == 65


def test_a_picture_in_the_middle_is_made_when_the_whole_one_is_far_off():
    assert middle_size(900, 600, 150, Speed(latest=1e-6)) is None, "the whole one comes soon"
    width, height = middle_size(900, 600, 150, Speed(latest=3e-6))
    assert width * height * 3e-6 == pytest.approx(0.3, rel=0.02) and width / height == pytest.approx(1.5, rel=0.02)
    assert middle_size(900, 600, 150, Speed(latest=5e-5)) == (300, 200), (
        "never less than twice as wide as the coarse one"
    )
    assert middle_size(900, 600, 500, Speed(latest=6e-6)) is None, "it would be as large as the whole one"


class Socket(ApplicationCommunicator):
    """A WebSocket client that speaks ASGI to the real application."""

    async def send_json_to(self, message):
        await self.send_input({"type": "websocket.receive", "text": json.dumps(message)})

    def followed(self, message):
        """The message; one that changes the document has the whole of it besides, as a window has it then."""
        if message["type"] == "document":
            self.scene = message["scene"]
        elif message["type"] == "edited":
            self.scene = jsonpatch.apply_patch(self.scene, message["patch"])
            message["scene"] = self.scene
        return message

    async def disconnect(self):
        await self.send_input({"type": "websocket.disconnect", "code": 1000})
        await self.wait(10)


async def signed_in_cookie(person):
    """The cookie header of a session of somebody."""

    def cookie():
        client = Client()
        client.force_login(person)
        return client.cookies["sessionid"].value

    return f"sessionid={await database_sync_to_async(cookie)()}".encode()


async def joined(people, project, name="owner", origin=b"http://localhost"):
    """A connected socket of somebody, or None when it was refused."""

    headers = [(b"origin", origin), (b"cookie", await signed_in_cookie(people[name])), (b"host", b"localhost")]
    path = f"/socket/projects/{project.pk}"
    scope = {"type": "websocket", "path": path, "query_string": b"", "headers": headers, "subprotocols": []}
    socket = Socket(application, scope)
    await socket.send_input({"type": "websocket.connect"})
    answer = await socket.receive_output(timeout=20)
    return socket if answer["type"] == "websocket.accept" else None


async def until(socket, wanted, seconds=90):
    """The next message that `wanted` accepts: a dict, or (FrameInfo, bytes)."""
    async with asyncio.timeout(seconds):
        while True:
            event = await socket.receive_output(timeout=seconds)
            if event["type"] == "websocket.close":
                return event
            if event.get("text"):
                message = socket.followed(json.loads(event["text"]))
            else:
                message = frames.unpack_frame(event["bytes"])
                await socket.send_json_to({"type": "shown"})
            if wanted(message):
                return message


def is_type(name):
    return lambda m: isinstance(m, dict) and m["type"] == name


def is_document(message):
    """Whether a message says what the document is now."""
    return isinstance(message, dict) and "scene" in message


def is_frame(**wanted):
    return lambda m: isinstance(m, tuple) and all(getattr(m[0], k) >= v for k, v in wanted.items())


async def look(socket, **changes):
    """Say what the first pane shows."""
    state = {"pane": 0, "serial": 0, "width": 96, "height": 64} | changes
    await socket.send_json_to({"type": "pane", **state})


async def leave(socket):
    """Disconnect and end the render host at once; what is still written is waited for."""
    await socket.disconnect()
    await asyncio.sleep(0.05)
    while database.is_busy():
        await asyncio.sleep(0.01)
    for session in list(sessions._open.values()):
        await session.close()
    sessions._open.clear()


def reach(document):
    return document["scene"]["look"]["exposure"]


@pytest.mark.django_db(transaction=True)
async def test_proof_edits_and_a_killed_host(people, project):
    socket = await joined(people, project)
    assert socket is not None
    try:
        document = await until(socket, is_type("document"))
        assert document["revision"] == 1
        await look(socket)
        first = await until(socket, is_frame(samples=1))
        settled = await until(socket, lambda m: isinstance(m, tuple) and m[0].flags & frames.SETTLED)
        assert settled[1][:4] == b"\x89PNG" and settled[0].samples == 8
        assert settled[0].width == 96 and first[0].camera[:3] == (2, 3, 12)

        # A preview reaches the picture but not the database; exposure alone traces nothing again.
        await socket.send_json_to(
            {"type": "preview", "serial": 41, "patch": [{"op": "replace", "path": "/look/exposure", "value": 2}]}
        )
        shown = await until(socket, is_frame(serial=41))
        assert shown[0].samples == 8
        assert (await database_sync_to_async(Project.objects.get)(pk=project.pk)).revision == 1

        edit = {
            "type": "edit",
            "request": "r-5",
            "label": "Exposure",
            "patch": [{"op": "replace", "path": "/look/exposure", "value": 3}],
        }
        await socket.send_json_to(edit)
        document = await until(socket, is_document)
        assert reach(document) == 3 and document["can_undo"]
        assert (await until(socket, is_type("committed")))["request"] == "r-5"

        (session,) = sessions._open.values()
        os.kill(session._host.pid, signal.SIGKILL)
        assert (await until(socket, is_type("host")))["state"] == "restarting"
        again = await until(socket, is_frame(revision=2))
        assert again[0].revision == 2, "the host came back with the newest document"

        await socket.send_json_to({"type": "undo", "request": "r-6"})
        assert reach(await until(socket, is_document)) == 0
        await socket.send_json_to({"type": "pick", "pane": 0, "x": 0.5, "y": 0.5, "request": "r-7"})
        found = (await until(socket, is_type("picked")))["found"]
        assert found["part"] == "square" and found["normal"] == pytest.approx([0, 0, 1], abs=1e-6)
        await socket.send_json_to({"type": "fit", "pane": 0, "request": "r-8"})
        assert (await until(socket, is_type("fitted")))["camera"]["target"] == [2, 3, 3]
        await socket.send_json_to({"type": "make_light", "pane": 0, "kind": "disk", "request": "r-9"})
        made = (await until(socket, is_type("made")))["made"]
        assert made["key"] == "light-1" and made["patch"][0]["value"]["target"] == pytest.approx([2, 3, 3], abs=0.01)
        drop = {"kind": "drop", "parts": ["square", "gone"]}
        await socket.send_json_to({"type": "arrange", "pane": 0, "operation": drop, "request": "r-11"})
        made = (await until(socket, is_type("made")))["made"]
        assert made["patch"] == [{"op": "replace", "path": "/parts/square/offset", "value": [0, -2, 0]}]
        for edges, seen in (([0.3, 0.3, 0.7, 0.7], ["square"]), ([0, 0, 0.05, 0.05], [])):
            await socket.send_json_to({"type": "area", "pane": 0, "edges": edges, "request": "r-13"})
            assert (await until(socket, is_type("parts")))["parts"] == seen, edges
        await socket.send_json_to({"type": "bounds", "pane": 0, "request": "r-12"})
        assert (await until(socket, is_type("bounds")))["box"] == [[1, 2, 3], [3, 4, 3]], "of all that is visible"
        await socket.send_json_to({"type": "texture", "pane": 0, "texture": 7, "request": "r-10"})
        assert (await until(socket, is_type("texture")))["picture"] is None, "there is no such texture"
    finally:
        await leave(socket)


@pytest.mark.django_db(transaction=True)
async def test_bad_messages_are_refused_with_a_reason(people, project):
    socket = await joined(people, project)
    try:
        for message, words in (
            ({"type": "explode", "request": "1"}, "does not match any of the expected tags"),
            (
                {"type": "edit", "request": "2", "patch": [{"op": "replace", "path": "/look/exposure", "value": 99}]},
                "look/exposure",
            ),
            ({"type": "preview"}, "preview/patch: Field required"),
            ({"type": "undo", "request": "3"}, "nothing to undo"),
        ):
            await socket.send_json_to(message)
            refused = await until(socket, is_type("refused"))
            assert words in refused["message"] and refused["request"] == message.get("request")
    finally:
        await leave(socket)


@pytest.mark.django_db(transaction=True)
async def test_the_socket_checks_origin_and_owner(people, project):
    assert await joined(people, project, origin=b"http://elsewhere.example") is None
    stranger = await joined(people, project, "stranger")
    assert (await until(stranger, lambda m: False))["code"] == 4404


@pytest.mark.django_db(transaction=True)
async def test_swatches_come_once_and_again_when_their_material_changes(people, project):
    socket = await joined(people, project)
    try:
        materials = (await until(socket, is_type("document")))["scene"]["materials"]
        key = next(iter(materials))
        await look(socket)
        first = {}
        while len(first) < len(materials):
            swatch = await until(socket, is_type("swatch"))
            first[swatch["material"]] = swatch["picture"]
        picture = Image.open(io.BytesIO(base64.b64decode(first[key].removeprefix("data:image/jpeg;base64,"))))
        assert picture.size == (WIDTH, HEIGHT)
        patch = [{"op": "replace", "path": f"/materials/{key}/base_color", "value": [0.9, 0.0, 0.0]}]
        await socket.send_json_to({"type": "edit", "request": "1", "label": "Colour", "patch": patch})
        changed = await until(socket, is_type("swatch"))
        assert changed["material"] == key and changed["picture"] != first[key]

        (session,) = sessions._open.values()
        os.kill(session._host.pid, signal.SIGKILL)
        await until(socket, is_frame(samples=4, revision=2))
        late = await joined(people, project)
        seen = {}
        while len(seen) < len(materials):
            swatch = await until(late, is_type("swatch"))
            seen[swatch["material"]] = swatch["picture"]
        assert seen == first | {key: changed["picture"]}, "those of the host that died are still good"
        await late.disconnect()
    finally:
        await leave(socket)


def steps_down(process):
    """How far below this process's priority each thread of another is."""
    found = []
    for status in Path(f"/proc/{process}/task").glob("*/stat"):
        with contextlib.suppress(FileNotFoundError):  # it has ended meanwhile
            found.append(int(status.read_text().rsplit(")", 1)[1].split()[16]))
    return [niceness - os.getpriority(os.PRIO_PROCESS, 0) for niceness in found]


async def test_the_denoiser_gives_way_to_the_picture():
    """Denoising has threads of lower priority than those that answer edits; the web side comes before both."""
    host = await hosts.take()
    try:
        async with asyncio.timeout(60):
            while not {HOST, HOST + BEHIND} <= set(steps_down(host.pid)):
                await asyncio.sleep(0.02)
        assert os.getpriority(os.PRIO_PROCESS, host.pid) == os.getpriority(os.PRIO_PROCESS, 0) + HOST
    finally:
        host.end()


async def test_hosts_come_again_when_their_template_has_died():
    """The template is killed while it waits and while it loads; a host is a fork, and ends with its connection."""
    first = await hosts.take()
    for wait in (0.0, 0.3):
        await asyncio.sleep(wait)
        hosts._template.kill()
        host = await hosts.take()
        assert Path(f"/proc/{host.pid}/comm").read_text() == "lantern-host\n"
        assert Path(f"/proc/{first.pid}").exists(), "a host does not need its template"
        host.end()
    first._writer.close()
    async with asyncio.timeout(10):
        while Path(f"/proc/{first.pid}").exists():
            await asyncio.sleep(0.02)
    first.end()


async def test_a_template_that_cannot_load_is_reported(monkeypatch):
    monkeypatch.setenv("LANTERN_CACHE", "/dev/null/nowhere")
    hosts.close()
    with pytest.raises(HostError, match="template"):
        await hosts.take()
