"""Render hosts that hang or fail, documents that poison them, and who has one at all."""

import asyncio
import os
import signal
import time
from pathlib import Path

import numpy as np
import pytest

from lantern.engine.engine import Engine
from lantern.film.film import Means
from server.host.denoising import Denoiser
from server.host.pane import Pane
from server.live import session as session_module
from server.live.outbox import MOST_WAITING, Outbox
from server.live.places import Places
from server.protocol import pipe
from server.protocol.browser import HostState, Status
from server.protocol.host import Changed
from tests.server.test_robustness import document, edit, opened_session
from tests.server.test_viewport import is_frame, is_type, joined, leave, look, until


async def killed_and_back(socket, session, bring_down):
    """Seconds from `bring_down` until a picture of a new host is there."""
    await look(socket)
    await until(socket, is_frame(samples=1))
    before = session.host_starts
    down = time.monotonic()
    bring_down(session._host)
    await until(socket, lambda m: is_type("host")(m) and m["state"] == "restarting")
    await until(socket, is_frame(samples=1))
    assert session.host_starts == before + 1
    return time.monotonic() - down


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize(
    "bring_down",
    [
        lambda host: host.send_packed(pipe.LENGTHS.pack(9, 0) + b"not JSON."),
        lambda host: host.send(Changed(patch=[{"op": "remove", "path": "/nowhere"}], revision=9, paths={})),
        lambda host: os.kill(host.pid, signal.SIGSTOP),
    ],
    ids=["nonsense", "a change that does not fit", "stopped"],
)
async def test_a_host_that_fails_or_hangs_is_replaced(people, project, bring_down):
    """An error in its loop ends it at once; one that does not answer any more is ended."""
    socket = await joined(people, project)
    session = await opened_session()
    try:
        seconds = await killed_and_back(socket, session, bring_down)
        print(f"back after {seconds:.2f} s")
    finally:
        await leave(socket)


async def test_an_exception_in_the_denoiser_does_not_end_denoising():
    made = []
    denoiser = Denoiser(made.append)
    pane = Pane("1.0", 1, Engine(1), lambda *said: None, lambda reference: Path(reference.name))
    flat, plane = np.ones((8, 8, 3), np.float32), np.ones((8, 8), np.float32)
    wrong, right = Means(flat, plane, flat[:4], flat, plane, 1), Means(flat, plane, flat, flat, plane, 1)
    for means in (wrong, right):
        denoiser.start(pane, means, "fast", 0, None)
    async with asyncio.timeout(60):
        while len(made) < 2:
            await asyncio.sleep(0.02)
    assert made[0].made is None and "cannot be denoised" in made[0].error
    assert made[1].error is None and made[1].made.radiance.shape == (8, 8, 3)


@pytest.mark.django_db(transaction=True)
async def test_a_document_that_poisons_the_picture_can_be_undone(people, project):
    socket = await joined(people, project)
    try:
        scene = (await until(socket, is_type("document")))["scene"]
        key = next(iter(scene["parts"]))
        await look(socket)
        await until(socket, is_frame(samples=1))
        for number, (path, value) in enumerate(
            (
                (f"/parts/{key}/mesh", 99),
                (f"/parts/{key}/matrix", [0] * 12),
                ("/camera/position", [1e6, 1e6, 1e6]),
                ("/environment/intensity", 1e6),
            )
        ):
            poison = {"op": "replace", "path": path, "value": value}
            await socket.send_json_to({"type": "edit", "request": f"e{number}", "label": "P", "patch": [poison]})
            await until(socket, is_type("committed"))
            await socket.send_json_to({"type": "undo", "request": f"u{number}"})
            undone = await until(socket, is_type("committed"))
            await until(socket, is_frame(revision=undone["revision"], samples=1))
        assert (await document(project)).scene == scene
    finally:
        await leave(socket)


class Someone:
    """Who wants a place."""

    def __init__(self, idle, is_guest=False):
        self.touched = time.monotonic() - idle
        self.is_guest = is_guest
        self.gave_way = 0
        self.places = None

    def give_way(self):
        self.gave_way += 1
        asyncio.get_running_loop().create_task(self.places.give(self))


async def test_places_are_given_in_turn_and_the_idlest_gives_way():
    places = Places(2, patience=5.0)
    busy, idle, third, fourth = Someone(0), Someone(60), Someone(0), Someone(0)
    for someone in (busy, idle, third, fourth):
        someone.places = places
    await places.take(busy)
    await places.take(idle)
    assert places.is_full
    waiting = [asyncio.create_task(places.take(third)), asyncio.create_task(places.take(fourth))]
    await asyncio.wait_for(waiting[0], 10)
    assert idle.gave_way == 1 and busy.gave_way == 0, "who touched nothing for a minute, not who is at work"
    await asyncio.sleep(0.1)
    assert not waiting[1].done(), "the others are at work"
    await places.give(busy)
    await asyncio.wait_for(waiting[1], 10)
    assert places.is_full


async def test_a_guest_gives_way_at_once_waits_last_and_asks_nobody_to():
    places = Places(1, patience=0.0)
    guest, worker, second_guest, second = Someone(0, is_guest=True), Someone(60), Someone(0, is_guest=True), Someone(0)
    for someone in (guest, worker, second_guest, second):
        someone.places = places
    await places.take(guest)
    await asyncio.wait_for(places.take(worker), 10)
    assert guest.gave_way == 1, "though it was touched a moment ago"
    asking = asyncio.create_task(places.take(second_guest))
    await asyncio.sleep(1.5)
    assert worker.gave_way == 0, "who works here is not put out for a guest"
    await asyncio.wait_for(places.take(second), 10)
    assert worker.gave_way == 1 and not asking.done(), "who came later, but works here, is served first"
    await places.give(second)
    await asyncio.wait_for(asking, 10)


@pytest.mark.django_db(transaction=True)
async def test_hidden_windows_do_not_keep_a_host(people, project, monkeypatch):
    monkeypatch.setattr(session_module, "REST_SECONDS", 0.8)
    socket = await joined(people, project)
    session = await opened_session()
    try:
        await look(socket)
        await until(socket, is_frame(samples=1))
        await look(socket, serial=1, visible=False)
        await until(socket, lambda m: is_type("host")(m) and m["state"] == "resting")
        assert session._host is None
        await socket.send_json_to(edit(1.5, "while it rests"))
        done = await until(socket, is_type("committed"))
        await look(socket, serial=2)
        await until(socket, is_frame(samples=1, revision=done["revision"]))
        assert session.host_starts == 2
    finally:
        await leave(socket)


async def test_a_browser_that_takes_nothing_is_let_go():
    outbox = Outbox(None, None, None)
    for _ in range(MOST_WAITING + 1):
        outbox.post(HostState(state="ready"))
    assert outbox.overflows
    patient = Outbox(None, None, None)
    numbers = {name: 0 for name in Status.model_fields if name not in ("type", "settled", "running", "rests")}
    for samples in range(MOST_WAITING + 1):
        patient.post(Status(**numbers | {"samples": samples}, settled=False, running=True, rests=False))
    assert not patient.overflows and [m.samples for m in patient._messages] == [MOST_WAITING]


@pytest.mark.django_db(transaction=True)
async def test_the_proof_rests_while_a_print_is_made_and_nobody_touches_it(people, project):
    socket = await joined(people, project)
    session = await opened_session()

    def cpu():
        fields = Path(f"/proc/{session._host.pid}/stat").read_text().rpartition(")")[2].split()
        return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")

    def status(**wanted):
        return lambda m: is_type("status")(m) and all(m[name] == value for name, value in wanted.items())

    try:
        endless = [{"op": "replace", "path": "/proof/samples", "value": 65536}]
        await socket.send_json_to({"type": "edit", "request": "endless", "label": "S", "patch": endless})
        await look(socket, width=480, height=320)
        await until(socket, is_frame(revision=2, samples=4))
        session.set_printing(True)
        await until(socket, status(rests=True))
        await asyncio.sleep(2)  # what the denoiser had begun it ends
        before = cpu()
        await asyncio.sleep(1.5)
        assert cpu() - before < 0.1, "the machine is the print's"
        await socket.send_json_to(edit(0.5, "touched"))
        await until(socket, is_frame(revision=3))
        await socket.send_json_to(
            {"type": "preview", "serial": 9, "patch": [{"op": "replace", "path": "/camera/focal_length", "value": 90}]}
        )
        await until(socket, is_frame(serial=9, samples=1))  # while it is touched it takes what it needs
        await until(socket, status(rests=True))
        session.set_printing(False)
        resting = await until(socket, status(rests=False))
        await until(socket, lambda m: status(rests=False)(m) and m["samples"] > resting["samples"])
    finally:
        await leave(socket)
