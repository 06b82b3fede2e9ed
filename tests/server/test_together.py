"""Prints that several workers make: shared, with workers that die, come late, or are not of this version."""

import threading
import time
from contextlib import contextmanager, suppress
from datetime import timedelta
from pathlib import Path

import numpy as np
import OpenImageIO as oiio
import pytest
from django.core.files.storage import storages
from django.db import OperationalError, connections
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from lantern.engine.engine import Engine
from lantern.scene.reading import read_scene
from server.prints import filling, pieces, sequence, still, together, working
from server.prints.actions import CancelPrint, DeletePrint, GoOnPrint, HoldPrint, QueuePrint
from server.prints.glimpses import Glimpses
from server.prints.helping import help_with
from server.prints.models import Lease, Piece, Print
from server.prints.tasks import help_print
from server.projects import storage
from server.projects.actions import ApplyEdit
from server.workers import here as workers
from server.workers.models import Release, Worker
from tests.server.test_films import moving as _moving
from tests.server.test_films import pictures
from tests.server.test_prints import _Killed, finished

pytestmark = pytest.mark.django_db(transaction=True)
GIB = 1 << 30
moving = _moving


@pytest.fixture(autouse=True)
def _eager(monkeypatch):
    """Shared at once, and in small pieces."""
    monkeypatch.setattr(together, "WORTH_SECONDS", -1.0)
    monkeypatch.setattr(together, "LOOK_SECONDS", 0.0)
    monkeypatch.setattr(together, "WAIT_SECONDS", 0.02)
    monkeypatch.setattr(together, "CALL_SECONDS", 0.0)
    monkeypatch.setattr(together, "piece_count", lambda *_: 6)


@pytest.fixture
def queued(people, project):
    patch = [{"op": "replace", "path": f"/print/{name}", "value": value}
             for name, value in (("width", 96), ("height", 64), ("samples", 40))]  # fmt: skip
    ApplyEdit(people["owner"], project.pk, patch, "Larger").execute()

    def queue(**more):
        ProcrastinateJob.objects.all().delete()  # no worker has taken what was queued before
        item = QueuePrint(people["owner"], project.pk, **more).execute()
        ProcrastinateJob.objects.all().delete()  # as one that is being made
        return item

    return queue


def registered(name, kinds=("stills", "films"), memory=GIB):
    return workers.registered(name, 1, memory, list(kinds))


@contextmanager
def helpers(count):
    """Workers that do nothing but help, as the queue has them do."""
    over, took = threading.Event(), []

    def work(name):
        try:
            with registered(name):
                while not over.wait(0.02):
                    waiting = ProcrastinateJob.objects.filter(task_name="help_print").first()
                    if waiting is None or not ProcrastinateJob.objects.filter(pk=waiting.pk).delete()[0]:
                        continue
                    took.append(name)
                    help_with(waiting.args["print_id"])
        finally:
            connections.close_all()

    threads = [threading.Thread(target=work, args=(f"helper-{i}",)) for i in range(count)]
    for thread in threads:
        thread.start()
    while Worker.objects.count() < count:
        time.sleep(0.02)
    try:
        yield took
    finally:
        over.set()
        for thread in threads:
            thread.join()


@pytest.fixture
def handed(monkeypatch):
    """Names of the workers whose pieces counted, in their order."""
    names, real = [], pieces.hand_in

    def hand_in(taken, path):
        counted = real(taken, path)
        if counted:
            names.append(workers.here().name)
        return counted

    monkeypatch.setattr(pieces, "hand_in", hand_in)
    return names


def light(item):
    return oiio.ImageBuf(str(finished(item, "exr"))).get_pixels(oiio.FLOAT)


def left_over(item):
    folder = storages["prints"].path(f"{item.pk}/pieces")
    return (
        [*Piece.objects.filter(print=item)],
        [*item.folder.glob("**/partial-*")],
        [*item.folder.glob("pieces")],
        folder,
    )


def nothing_is_left_of_its_pieces(item):
    rows, partial, folders, _ = left_over(item)
    return not rows and not partial and not folders


@pytest.mark.parametrize("more", [{}, {"finish_noise": 1.0, "samples": 64}, {"region": (0.1, 0.12, 0.83, 0.7)}])
def test_what_three_make_is_equal_to_the_bit_to_what_one_makes(queued, people, project, handed, more):
    patch = [{"op": "replace", "path": f"/print/{name}", "value": value} for name, value in more.items()]
    if patch:
        ApplyEdit(people["owner"], project.pk, patch, "So").execute()
    alone = queued()
    working.work_on(alone.pk)
    assert not handed
    item = queued()
    with helpers(2) as took, registered("lead"):
        working.work_on(item.pk)
    item.refresh_from_db()
    assert (item.state, item.error, item.samples_done) == (Print.State.DONE, "", item.samples)
    assert len(handed) == 6 and took, "each piece counted once"
    assert (light(item) == light(alone)).all()
    assert finished(item, "png").read_bytes() == finished(alone, "png").read_bytes()
    assert nothing_is_left_of_its_pieces(item)


def test_a_film_s_frames_are_shared(people, moving, handed):
    ProcrastinateJob.objects.all().delete()
    alone = QueuePrint(people["owner"], moving.pk, form="frames").execute()
    working.work_on(alone.pk)
    item = QueuePrint(people["owner"], moving.pk, form="frames").execute()
    ProcrastinateJob.objects.all().delete()
    with helpers(1), registered("lead"):
        working.work_on(item.pk)
    item.refresh_from_db()
    assert (item.state, item.error) == (Print.State.DONE, "")
    assert len(handed) == item.frames - 1, "the first was made before anybody was asked"
    assert all((a == b).all() for a, b in zip(pictures(alone), pictures(item), strict=True))
    assert nothing_is_left_of_its_pieces(item)


def test_a_frame_that_another_has_made_meanwhile_is_not_finished(people, moving, monkeypatch):
    item = QueuePrint(people["owner"], moving.pk, form="mp4").execute()
    written = []
    monkeypatch.setattr(sequence, "write_png", lambda path, *_: written.append(path))
    engine, scene = Engine(1, final=True), read_scene(item.scene)
    paths = storage.paths_for(scene)

    def resolve(reference):
        return Path(paths[reference.sha256])

    engine.open(scene, resolve)
    watch = filling.Watch(item.pk, engine)
    frames = sequence.Frames(engine, scene, resolve, item, watch, Glimpses(item.pk, engine))
    taken = pieces.Taken(Piece(print=item, frame=2, cost=1.0), 1)
    assert frames.make_piece(taken, lambda: False) is None and written == []
    path = frames.make_piece(taken, lambda: True)
    assert written == [path] and not [*item.folder.glob("film-*")]
    engine.close()


def test_who_cannot_help_is_not_called_on_and_on(shared, monkeypatch):
    monkeypatch.setattr(together, "CALL_SECONDS", 5.0)
    ProcrastinateJob.objects.all().delete()
    with registered("idle"), registered("lead"):
        hands = together.Hands(shared.project.document(), "stills")
        for _ in range(20):
            together.call(shared, hands)
            ProcrastinateJob.objects.filter(task_name="help_print").exclude(pk=None).update(status="failed")
        assert ProcrastinateJob.objects.filter(task_name="help_print").count() == 1


def test_where_the_leader_dies_another_leads_on_with_what_is_done(queued, handed, monkeypatch):
    alone, item = queued(), queued()
    working.work_on(alone.pk)
    monkeypatch.setattr(together, "free_hands", lambda *_: [Worker(speed=1.0)] if not handed else [])
    monkeypatch.setattr(together, "call", lambda *_: None)
    real = together.lay_in_done

    def die(film, print_, laid):
        if len(handed) == 3:
            raise _Killed
        real(film, print_, laid)

    monkeypatch.setattr(together, "lay_in_done", die)
    with suppress(_Killed), registered("first"):
        working.work_on(item.pk)
    monkeypatch.setattr(together, "lay_in_done", real)
    item.refresh_from_db()
    assert item.state == Print.State.RUNNING and Piece.objects.filter(print=item).exclude(file="").count() == 3
    (item.folder / still.FILM_FILE).unlink(missing_ok=True)  # it was on another machine
    with registered("second"):
        working.work_on(item.pk)
    item.refresh_from_db()
    assert item.state == Print.State.DONE and handed == ["first"] * 3 + ["second"] * 3
    assert (light(item) == light(alone)).all()
    assert nothing_is_left_of_its_pieces(item)


@pytest.fixture
def shared(queued, monkeypatch):
    """A print in pieces that nobody is at."""
    item = queued()
    monkeypatch.setattr(together, "free_hands", lambda *_: [Worker(speed=1.0)])
    monkeypatch.setattr(together.Together, "one", lambda self: (_ for _ in ()).throw(_Killed()))
    with suppress(_Killed), registered("lead"):
        working.work_on(item.pk)
    monkeypatch.undo()
    assert item.pieces.count() == 6
    return item


def made(item, taken, content=b"x"):
    path = pieces.partial(item)
    path.write_bytes(content)
    return pieces.hand_in(taken, path)


def silent(worker):
    Worker.objects.filter(pk=worker.pk).update(seen=timezone.now() - 2 * workers.SILENCE)


def test_a_worker_that_was_believed_dead_hands_in_nothing(shared):
    with registered("first") as first, registered("second") as second:
        held = pieces.take(shared, first)
        workers.HEARTBEAT_SECONDS, usual = 60.0, workers.HEARTBEAT_SECONDS
        try:
            silent(first)
            taken = {pieces.take(shared, second).piece.pk for _ in range(1)}
            assert taken == {held.piece.pk}, "the dearest one is free again"
            other = Lease.objects.get(piece=held.piece)
            assert other.worker == second
            assert not made(shared, held, b"late")
            assert made(shared, pieces.Taken(held.piece, other.pk), b"in time")
        finally:
            workers.HEARTBEAT_SECONDS = usual
        held.piece.refresh_from_db()
        with storages["prints"].open(held.piece.file) as content:
            assert content.read() == b"in time"
        assert not storages["prints"].exists(held.file_name)


def test_of_two_that_make_a_piece_the_first_counts(shared):
    with registered("slow") as slow, registered("quick") as quick:
        held = [pieces.take(shared, slow)]
        Lease.objects.filter(pk=held[0].lease).update(since=timezone.now() - timedelta(hours=1))
        others = [pieces.take(shared, quick)]
        while others[-1].piece.pk != held[0].piece.pk:
            assert made(shared, others[-1])
            others.append(pieces.take(shared, quick))
        assert len(others) == 6, "only once all others are taken"
        assert made(shared, others[-1], b"quick") and not made(shared, held[0], b"slow")
        assert pieces.take(shared, slow) is None
        assert pieces.cost_left(shared)[0] == 0


def test_a_shared_print_is_held_goes_on_and_leaves_nothing_when_it_is_cancelled(shared, people, queued):
    owner = people["owner"]
    with registered("one") as one:
        taken = pieces.take(shared, one)
        real = [piece.pk for piece in shared.pieces.all()]
        HoldPrint(owner, shared.pk).execute()
        pieces.give_back(taken)
    GoOnPrint(owner, shared.pk).execute()
    working.work_on(shared.pk)
    shared.refresh_from_db()
    assert (shared.state, shared.error) == (Print.State.DONE, "") and real
    assert nothing_is_left_of_its_pieces(shared)


def test_a_held_print_in_pieces_that_is_cancelled_leaves_nothing(shared, people):
    HoldPrint(people["owner"], shared.pk).execute()
    CancelPrint(people["owner"], shared.pk).execute()
    assert nothing_is_left_of_its_pieces(shared)
    DeletePrint(people["owner"], shared.pk).execute()


def test_who_is_not_called(queued, people, project):
    queued()
    scene = project.document()
    assert together.free_hands(scene, "stills") == [], "outside of a worker nobody is"
    others = registered("idle"), registered("small", memory=10), registered("for films", kinds=["films"])
    with others[0], others[1], others[2], registered("me"):
        found = together.free_hands(scene, "stills")
        assert [worker.name for worker in found] == ["idle"]
        Worker.objects.filter(name="idle").update(print=7)
        assert together.free_hands(scene, "stills") == [], "it is at something"
        Worker.objects.filter(name="idle").update(print=None)
        queued()
        assert together.free_hands(scene, "stills")
        help_print.configure().defer(print_id=1)
        assert together.free_hands(scene, "stills"), "a call for help is nothing that waits"
        QueuePrint(people["owner"], project.pk).execute()
        assert together.free_hands(scene, "stills") == [], "something waits that is for them"
    timed = scene.print.model_copy(update={"seconds": 10})
    noisy = scene.print.model_copy(update={"noise": 0.1})
    assert together.can_be_cut(scene.print)
    assert not together.can_be_cut(timed) and not together.can_be_cut(noisy)
    assert together.can_be_cut(noisy.model_copy(update={"finish_noise": 1.0}))


def test_a_worker_with_too_little_memory_leaves_a_print_to_others(queued):
    item = queued()
    with registered("small", memory=1000):
        working.work_on(item.pk)
    item.refresh_from_db()
    assert (item.state, item.attempts) == (Print.State.QUEUED, 0)
    waiting = ProcrastinateJob.objects.get(task_name="print_frame", status="todo")
    assert waiting.args == {"print_id": item.pk} and waiting.scheduled_at is not None
    with registered("large"):
        working.work_on(item.pk)
    item.refresh_from_db()
    assert item.state == Print.State.DONE


def test_a_worker_of_another_version_is_refused_and_one_that_becomes_so_ends(db, monkeypatch):
    killed = []
    monkeypatch.setattr(workers.os, "kill", lambda *call: killed.append(call))
    monkeypatch.setattr(workers, "HEARTBEAT_SECONDS", 0.02)
    with registered("before"):
        Release.objects.update_or_create(pk=1, defaults={"version": "another"})
        deadline = time.monotonic() + 20
        while not killed and time.monotonic() < deadline:
            time.sleep(0.02)
    assert killed, "it has itself stopped, and what it is at goes to another"
    with pytest.raises(workers.OtherVersion, match="bring the same checkout"), registered("after"):
        pass
    workers.note_release()
    with registered("again"):
        assert Worker.objects.get().version == workers.version()


def test_workers_are_told_of(client, people, shared):
    client.force_login(people["stranger"])
    with registered("lamp-3", kinds=["stills"]), workers.busy(shared.pk, helps=True):
        workers.told_speed(2.5e6)
        (entry,) = client.get("/api/v1/workers").json()["items"]
    assert entry | {"id": 0} == {
        "id": 0, "name": "lamp-3", "threads": 1, "memory": GIB, "kinds": "stills", "speed": 2.5e6,
        "print": shared.pk, "helps": True,
    }  # fmt: skip
    assert client.get("/api/v1/workers").json()["items"] == []


def test_a_print_whose_common_film_is_lost_begins_anew(shared, queued):
    alone = queued()
    working.work_on(alone.pk)
    storages["prints"].delete(pieces.base_name(shared))
    working.work_on(shared.pk)
    shared.refresh_from_db()
    assert (shared.state, shared.error) == (Print.State.DONE, "")
    assert (light(shared) == light(alone)).all() and nothing_is_left_of_its_pieces(shared)


def test_a_database_that_is_away_while_a_piece_is_handed_in_loses_nothing(shared, monkeypatch):
    real, away = pieces._counts, [1, 2]

    def counts(taken):
        found = real(taken) if len(away) < 2 else False
        if away:
            away.pop()
            raise OperationalError("the database is away")  # once before it has heard, once after
        return found

    monkeypatch.setattr(pieces, "_counts", counts)
    with registered("one") as one:
        taken = pieces.take(shared, one)
        assert made(shared, taken, b"kept"), "what it has heard counts, though its answer was lost"
    taken.piece.refresh_from_db()
    with storages["prints"].open(taken.piece.file) as content:
        assert content.read() == b"kept"


def test_the_proof_rests_for_prints_on_its_own_machine_alone(db):
    with registered("here") as item:
        assert not workers.is_busy_here()
        with workers.busy(7):
            assert workers.is_busy_here()
            Worker.objects.filter(pk=item.pk).update(machine="render-07 other")
            assert not workers.is_busy_here()
            Worker.objects.filter(pk=item.pk).update(machine=workers.this_machine())
            silent(item)
            assert not workers.is_busy_here(), "it died of it"


def test_a_part_of_another_film_is_an_error(shared):
    storages["prints"].delete(pieces.base_name(shared))
    path = pieces.partial(shared)
    with path.open("wb") as target:
        np.savez(target, rows=np.zeros(3))
    pieces.cut(shared, [], path)
    working.work_on(shared.pk)
    shared.refresh_from_db()
    assert shared.state == Print.State.FAILED and "cancel it and print it again" in shared.error
