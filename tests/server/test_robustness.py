"""What may go wrong with a live view: dying hosts, broken lines, two windows, slow lines."""

import asyncio
import json
import os
import random
import signal
import time
from pathlib import Path

import pytest
from channels.db import database_sync_to_async

from server.host.ladder import fitted_size
from server.live.outbox import MOST_ON_THE_WAY, PLENTY_BYTES, Outbox
from server.live.seats import Seats
from server.live.sessions import sessions
from server.projects.models import Project
from server.protocol import frames
from server.protocol.browser import HostState, Unreadable, read_message
from server.protocol.panes import PaneState
from tests.server.test_viewport import is_document, is_frame, is_type, joined, leave, look, until

KILLS = 15
MOST_GROWTH_MIB = 24


def exposure(value):
    return [{"op": "replace", "path": "/look/exposure", "value": value}]


def edit(value, request, **more):
    return {"type": "edit", "request": request, "label": "Exposure", "patch": exposure(value), **more}


async def document(project):
    return await database_sync_to_async(Project.objects.get)(pk=project.pk)


async def opened_session():
    """The one session of this server, once the socket has joined it."""
    while not sessions._open:
        await asyncio.sleep(0.01)
    (session,) = sessions._open.values()
    return session


def resident_mib():
    return int(Path("/proc/self/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE") / 2**20


@pytest.mark.django_db(transaction=True)
async def test_no_edit_is_lost_while_the_host_is_killed_again_and_again(people, project):
    """Killed at random moments while edits go on: the view comes back each time."""
    generator = random.Random(4)
    socket = await joined(people, project)
    session = await opened_session()
    waits, memory = [], 0.0
    try:
        await look(socket)
        await until(socket, is_frame(samples=1))
        for kill in range(KILLS):
            await asyncio.sleep(generator.uniform(0.0, 2.0))
            os.kill(session._host.pid, signal.SIGKILL)
            killed = time.monotonic()
            await socket.send_json_to(edit((kill % 20) / 10 + 0.05, f"kill-{kill}"))
            committed = await until(socket, is_type("committed"))
            await until(socket, is_frame(revision=committed["revision"]))
            waits.append(time.monotonic() - killed)
            if kill == KILLS // 5:
                memory = resident_mib()
        stored = await document(project)
        assert stored.revision == KILLS + 1, "every edit is in the database"
        assert session.host_starts == KILLS + 1
        assert resident_mib() - memory < MOST_GROWTH_MIB, "the server's memory does not grow"
        middle = sorted(waits)[KILLS // 2]
        print(f"slowest {max(waits):.2f} s, median {middle:.2f} s; memory {resident_mib() - memory:+.1f} MiB")
    finally:
        await leave(socket)


@pytest.mark.django_db(transaction=True)
async def test_a_change_that_arrives_twice_is_done_once(people, project):
    socket = await joined(people, project)
    try:
        await socket.send_json_to(edit(1.0, "window-1"))
        await until(socket, is_type("committed"))
        await socket.send_json_to(edit(2.0, "window-2"))
        await until(socket, is_type("committed"))
        for _ in range(2):
            await socket.send_json_to({"type": "undo", "request": "window-3"})
            assert (await until(socket, is_type("committed")))["request"] == "window-3"
        stored = await document(project)
        assert stored.scene["look"]["exposure"] == 1.0, "the undo that was sent again took back one step"
        await socket.send_json_to(edit(2.0, "window-2"))
        await until(socket, is_type("committed"))
        assert (await document(project)).scene["look"]["exposure"] == 1.0
    finally:
        await leave(socket)


@pytest.mark.django_db(transaction=True)
async def test_two_windows_follow_each_other(people, project):
    one, two = await joined(people, project), await joined(people, project)
    try:
        first = await until(two, is_type("document"))
        await one.send_json_to(edit(1.0, "a-1", base=1))
        await until(two, lambda m: isinstance(m, dict) and m.get("revision") == 2)
        # The other window has not heard of it yet: the later edit of the same field stands, and both show it.
        await two.send_json_to(edit(2.0, "b-1", base=first["revision"]))
        await until(two, is_type("committed"))
        shown = await until(one, lambda m: isinstance(m, dict) and m.get("revision") == 3 and is_document(m))
        assert shown["scene"]["look"]["exposure"] == 2.0
        # An old patch of another field is laid over the present document.
        other = {"op": "replace", "path": "/camera/focal_length", "value": 60}
        await one.send_json_to({"type": "edit", "request": "a-2", "label": "Lens", "patch": [other], "base": 1})
        shown = await until(two, lambda m: isinstance(m, dict) and m.get("revision") == 4 and is_document(m))
        assert shown["scene"]["look"]["exposure"] == 2.0 and shown["scene"]["camera"]["focal_length"] == 60
        # One that fits no more is refused, with the reason.
        gone = {"op": "replace", "path": "/lights/nobody/amount", "value": 1}
        await two.send_json_to({"type": "edit", "request": "b-2", "label": "Light", "patch": [gone], "base": 1})
        refused = await until(two, is_type("refused"))
        assert refused["request"] == "b-2"
        assert "revision 1, now 4" in refused["message"] and "nobody" in refused["message"]
    finally:
        await two.disconnect()
        await leave(one)


@pytest.mark.django_db(transaction=True)
async def test_an_edit_in_hand_survives_the_other_windows_commit(people, project):
    one, two = await joined(people, project), await joined(people, project)
    try:
        await until(one, is_type("document"))
        lens = [{"op": "replace", "path": "/camera/focal_length", "value": 99}]
        await one.send_json_to({"type": "preview", "serial": 5, "patch": lens})
        await two.send_json_to(edit(1.5, "b-1"))
        await until(one, lambda m: isinstance(m, dict) and m.get("revision") == 2)
        # Both are in the picture: the lens in hand, over the exposure that the other window has committed.
        await look(one, serial=5)
        both = await until(one, is_frame(revision=2, serial=5))
        assert both[0].camera[6] == 99
        await one.send_json_to({"type": "preview", "serial": 6, "patch": []})
        let_go = await until(one, is_frame(serial=6))
        assert let_go[0].camera[6] == 70 and let_go[0].revision == 2
    finally:
        await two.disconnect()
        await leave(one)


@pytest.mark.django_db(transaction=True)
async def test_what_nobody_sees_costs_no_cpu(people, project):
    socket = await joined(people, project)
    session = await opened_session()

    def cpu():
        fields = Path(f"/proc/{session._host.pid}/stat").read_text().rpartition(")")[2].split()
        return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")

    try:
        await look(socket, visible=False)
        await asyncio.sleep(4)
        before = cpu()
        await socket.send_json_to(edit(1.0, "hidden"))
        await asyncio.sleep(1.5)
        assert cpu() - before < 0.2, "a hidden view traces nothing, even after an edit"
        await look(socket, serial=1)
        await until(socket, lambda m: isinstance(m, tuple) and m[0].flags & frames.SETTLED and m[0].revision == 2)
        await asyncio.sleep(1)
        before = cpu()
        await asyncio.sleep(1.5)
        assert cpu() - before < 0.05, "a settled one neither"
    finally:
        await leave(socket)


# The way out to a slow browser


class Line:
    """A line that takes its time: one picture after the other, at `bytes_a_second`."""

    def __init__(self, bytes_a_second):
        self.bytes_a_second, self.sent, self.budgets = bytes_a_second, [], []
        self._free_at = 0.0
        self.outbox = Outbox(self._text, self._bytes, self.budgets.append)

    async def _text(self, text):
        pass

    async def _bytes(self, picture):
        self.sent.append(picture)
        loop = asyncio.get_running_loop()
        self._free_at = max(self._free_at, loop.time()) + len(picture) / self.bytes_a_second
        loop.call_at(self._free_at, self.outbox.acknowledge)


async def test_a_slow_line_gets_fewer_pictures_and_never_old_ones():
    line = Line(125_000)  # 1 Mbit/s
    running = asyncio.create_task(line.outbox.run())
    for number in range(120):
        line.outbox.show(0, "frame", number.to_bytes(2, "little") + bytes(30_000))
        await asyncio.sleep(0.01)
    await asyncio.sleep(0.8)
    running.cancel()
    numbers = [int.from_bytes(picture[:2], "little") for picture in line.sent]
    assert numbers == sorted(numbers) and numbers[-1] == 119, "the newest one arrives"
    assert len(numbers) < 15, "and most of the others are never sent"
    assert line.outbox.replaced == 120 - len(numbers)
    assert line.budgets and 15_000 < line.budgets[-1] < 60_000, "a picture may take a quarter of a second"


async def test_a_fast_line_is_not_held_back():
    line = Line(1e9)
    running = asyncio.create_task(line.outbox.run())
    for _ in range(20):
        line.outbox.show(0, "frame", bytes(30_000))
        await asyncio.sleep(0.005)
    running.cancel()
    assert len(line.sent) >= 15
    assert not line.budgets or line.budgets[-1] == PLENTY_BYTES


async def test_at_most_two_pictures_are_on_the_way():
    line = Line(1e-3)
    running = asyncio.create_task(line.outbox.run())
    for pane in range(5):
        line.outbox.show(pane, "frame", bytes(100))
    line.outbox.post(HostState(state="ready"))
    await asyncio.sleep(0.05)
    running.cancel()
    assert len(line.sent) == MOST_ON_THE_WAY


def test_pictures_shrink_to_their_budget_but_not_to_nothing():
    assert fitted_size(900, 600, 0.5, None) == (900, 600)
    width, height = fitted_size(900, 600, 0.5, 67_500)
    assert width * height * 0.5 == pytest.approx(67_500, rel=0.01)
    assert fitted_size(900, 600, 0.5, 1) == (150, 100)


@pytest.mark.django_db(transaction=True)
async def test_the_host_makes_smaller_pictures_for_a_slow_line(people, project):
    socket = await joined(people, project)
    session = await opened_session()
    try:
        await look(socket, width=480, height=320)
        large = await until(socket, lambda m: isinstance(m, tuple) and m[0].flags & frames.SETTLED)
        assert large[0].codec == frames.PNG and large[0].width == 480
        await asyncio.sleep(0.5)  # the line's own measure of that picture is in
        (seat,) = session.seats
        session.set_budget(seat.view, 400)
        await socket.send_json_to(edit(1.0, "slow"))
        small = await until(socket, is_frame(revision=2))
        assert small[0].width < 300 and small[0].full == (480, 320) and len(small[1]) < len(large[1])
    finally:
        await leave(socket)


def test_panes_are_checked_field_by_field():
    good = {"type": "pane", "pane": 0, "serial": 1, "width": 100, "height": 50}
    assert read_message(json.dumps(good)).way == "proof"
    for change, words in (
        ({"way": "sideways"}, "way"),
        ({"loupe": [0.5, 0, 0.4, 1]}, "left and top"),
        ({"width": 1}, "width"),
        ({"camera": {"focal_length": -1}}, "camera/focal_length"),
        ({"sense": 1}, "sense"),
    ):
        with pytest.raises(Unreadable, match=words):
            read_message(json.dumps(good | change))


def test_seats_name_panes_and_find_them_again():
    seats = Seats()
    seat = seats.take("a view")
    seat.panes[1] = PaneState(pane=1, serial=0, width=100, height=50)
    assert seats.pane_of(seat.host_id(1)) == (seat, 1)
    assert seats.pane_of(seat.host_id(0)) is None and seats.pane_of("99.0") is None
    seats.leave("a view")
    assert len(seats) == 0
    with pytest.raises(LookupError, match="has left"):
        seats.of("a view")
