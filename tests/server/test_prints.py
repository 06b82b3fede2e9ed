"""Final frames: content, interruption, cancelling."""

import io
import random
import resource
import threading
import time
from pathlib import Path

import numpy as np
import OpenImageIO as oiio
import pytest
from django.core.files.storage import storages
from django.db import connections
from PIL import Image
from procrastinate.contrib.django.models import ProcrastinateJob

from lantern.engine.engine import Engine
from lantern.engine.own_images import no_files
from lantern.film.film import Film, film_bytes
from lantern.scene.document import Scene
from lantern.scene.printing import PrintSettings
from server.errors import Refused
from server.prints import filling, glimpses, still, working
from server.prints.actions import CancelPrint, GoOnPrint, HoldPrint, PrintNext, QueuePrint
from server.prints.models import Order, Print
from server.prints.orders import ResumeOrder, StopOrder
from server.projects.actions import ApplyEdit, CreateProject

pytestmark = pytest.mark.django_db(transaction=True)


def finished(item, kind):
    """Where a file of a print lies."""
    return Path(storages["prints"].path(item.file_name(kind)))


@pytest.fixture
def queued(people, project):
    return lambda: QueuePrint(people["owner"], project.pk).execute()


def test_a_print_writes_png_and_layered_exr(queued, client, people):
    number = queued().pk
    working.work_on(number)
    done = Print.objects.get(pk=number)
    assert (done.state, done.samples_done, done.error) == (Print.State.DONE, 12, "")
    shown = Image.open(io.BytesIO(done.glimpse))
    assert shown.size == (48, 32) and done.glimpses >= 1
    exact = np.asarray(Image.open(finished(done, "png")).convert("RGB"), int)
    assert np.abs(np.asarray(shown, int) - exact).mean() < 3
    image = oiio.ImageBuf(str(finished(done, "exr")))
    assert set(image.spec().channelnames) >= {"R", "G", "B", "A", "albedo.R", "normal.X", "Z"}
    pixels = image.get_pixels(oiio.FLOAT)
    middle = pixels[16, 24]
    assert middle[list(image.spec().channelnames).index("Z")] == pytest.approx(9, abs=0.05)
    client.force_login(people["owner"])
    assert client.get(f"/api/v1/prints/{number}/glimpse").content == done.glimpse
    sent = client.get(f"/api/v1/prints/{number}/files/png")
    assert "attachment" in sent["Content-Disposition"]
    client.force_login(people["stranger"])
    assert client.get(f"/api/v1/prints/{number}/files/png").status_code == 404


class _Killed(BaseException):
    """Stands for a signal: nothing in the worker catches it."""


def test_an_interrupted_print_resumes_and_is_equal_to_the_bit(queued, monkeypatch):
    whole = queued()
    working.work_on(whole.pk)

    resumed = queued()
    monkeypatch.setattr(filling, "KEEP_FILM_SECONDS", 0.0)
    real = filling.keep_film

    def keep_and_die(path, film):
        real(path, film)
        if film.samples == 5:
            raise _Killed

    monkeypatch.setattr(filling, "keep_film", keep_and_die)
    with pytest.raises(_Killed):
        working.work_on(resumed.pk)
    monkeypatch.setattr(filling, "keep_film", real)
    interrupted = Print.objects.get(pk=resumed.pk)
    assert interrupted.state == Print.State.RUNNING
    assert np.load(interrupted.folder / still.FILM_FILE)["rows"]["samples"].min() == 5

    working.work_on(resumed.pk)
    assert Print.objects.get(pk=resumed.pk).state == Print.State.DONE
    assert finished(resumed, "png").read_bytes() == finished(whole, "png").read_bytes()
    one, other = (oiio.ImageBuf(str(finished(p, "exr"))).get_pixels(oiio.FLOAT) for p in (whole, resumed))
    assert (one == other).all()
    assert not (resumed.folder / still.FILM_FILE).exists()


def test_a_planned_print_that_is_interrupted_before_and_after_its_plan_is_equal_to_the_bit(
    people, project, monkeypatch
):
    patch = [{"op": "replace", "path": f"/print/{name}", "value": value}
             for name, value in (("finish_noise", 1.0), ("samples", 64))]  # fmt: skip
    ApplyEdit(people["owner"], project.pk, patch, "Planned").execute()
    whole = QueuePrint(people["owner"], project.pk).execute()
    working.work_on(whole.pk)
    whole.refresh_from_db()
    assert (whole.state, whole.samples_done) == (Print.State.DONE, 64)
    resumed = QueuePrint(people["owner"], project.pk).execute()
    monkeypatch.setattr(filling, "KEEP_FILM_SECONDS", 0.0)
    real, at = filling.keep_film, [4, 12]

    def keep_and_die(path, film):
        real(path, film)
        if at and film.samples >= at[0]:
            at.pop(0)
            raise _Killed

    monkeypatch.setattr(filling, "keep_film", keep_and_die)
    for _ in range(2):
        with pytest.raises(_Killed):
            working.work_on(resumed.pk)
    with np.load(resumed.folder / still.FILM_FILE) as kept:
        assert kept["plan"].max() > 12
    working.work_on(resumed.pk)
    assert Print.objects.get(pk=resumed.pk).state == Print.State.DONE
    one, other = (oiio.ImageBuf(str(finished(p, "exr"))).get_pixels(oiio.FLOAT) for p in (whole, resumed))
    assert (one == other).all()


def test_a_print_is_held_with_its_samples_and_goes_on_to_the_same_picture(queued, people, monkeypatch):
    owner = people["owner"]
    whole = queued()
    working.work_on(whole.pk)
    item = queued()
    monkeypatch.setattr(filling, "KEEP_FILM_SECONDS", 0.0)
    real = filling.keep_film

    def keep_and_hold(path, film):
        real(path, film)
        if film.samples == 5:
            HoldPrint(owner, item.pk).execute()
            time.sleep(0.1)

    monkeypatch.setattr(filling, "keep_film", keep_and_hold)
    monkeypatch.setattr(filling, "LOOK_SECONDS", 0.01)
    working.work_on(item.pk)
    item.refresh_from_db()
    assert item.state == Print.State.HELD and item.ended is None
    with np.load(item.folder / still.FILM_FILE) as kept:
        assert 5 <= kept["rows"]["samples"].min() < 12
    working.work_on(item.pk)
    item.refresh_from_db()
    assert item.state == Print.State.HELD, "a task that comes late leaves it alone"
    with pytest.raises(Refused, match="waits or is being made"):
        HoldPrint(owner, item.pk).execute()
    monkeypatch.setattr(filling, "keep_film", real)
    assert GoOnPrint(owner, item.pk).execute().state == Print.State.QUEUED
    working.work_on(item.pk)
    one, other = (oiio.ImageBuf(str(finished(p, "exr"))).get_pixels(oiio.FLOAT) for p in (whole, item))
    assert (one == other).all()
    with pytest.raises(Refused, match="held"):
        GoOnPrint(owner, item.pk).execute()


def test_a_held_print_that_is_cancelled_leaves_nothing(queued, people):
    item = queued()
    HoldPrint(people["owner"], item.pk).execute()
    item.folder.mkdir(parents=True)
    (item.folder / still.FILM_FILE).write_bytes(b"samples")
    assert CancelPrint(people["owner"], item.pk).execute().state == Print.State.CANCELED
    assert not item.folder.exists()
    order = Order.objects.create(project=item.project, author=people["owner"], name="Order")
    other = queued()
    order.prints.add(other)
    HoldPrint(people["owner"], other.pk).execute()
    other.folder.mkdir(parents=True)
    ResumeOrder(people["owner"], order.pk).execute()
    other.refresh_from_db()
    assert other.state == Print.State.QUEUED and other.folder.exists(), "gone on with as a whole"
    HoldPrint(people["owner"], other.pk).execute()
    StopOrder(people["owner"], order.pk).execute()
    other.refresh_from_db()
    assert other.state == Print.State.CANCELED and not other.folder.exists()


def test_a_print_is_made_next_once_whatever_was_queued_before(queued, people):
    first, second, third = queued(), queued(), queued()
    for item in (third, second):
        PrintNext(people["owner"], item.pk).execute()
    locks = [f"print-{item.pk}" for item in (first, second, third)]
    jobs = ProcrastinateJob.objects.filter(status="todo", lock__in=locks).order_by("-priority", "id")
    assert [job.args["print_id"] for job in jobs] == [second.pk, third.pk, first.pk, second.pk, third.pk], (
        "those of the old places last"
    )
    made = []
    for job in jobs:
        before = Print.objects.filter(state=Print.State.DONE).count()
        working.work_on(job.args["print_id"], job.priority)
        made += [job.args["print_id"]] * (Print.objects.filter(state=Print.State.DONE).count() - before)
    assert made == [second.pk, third.pk, first.pk]
    assert set(Print.objects.values_list("state", "attempts")) == {(Print.State.DONE, 1)}
    with pytest.raises(Refused, match="waits"):
        PrintNext(people["owner"], first.pk).execute()


def test_a_kept_film_brings_its_layers_back(tmp_path):
    scene = Scene(print=PrintSettings(width=16, height=16, way_layers=True))
    engine = Engine(1)
    engine.open(scene, no_files)
    film = engine.film_for(16, 16, aovs=True)
    film.rows["samples"] = 3
    film.aov_rows["direct"] = 0.5
    film.group_rows[:] = 0.25
    filling.keep_film(tmp_path / still.FILM_FILE, film)
    opened = filling.open_film(tmp_path / still.FILM_FILE, engine, scene.print)
    assert all((opened.arrays()[name] == array).all() for name, array in film.arrays().items())
    plain = scene.model_copy(update={"print": PrintSettings(width=16, height=16)})
    begun = filling.open_film(tmp_path / still.FILM_FILE, engine, plain.print)
    assert begun.samples == 0, "made for other settings: begun anew"
    engine.close()


def test_a_print_is_seen_with_its_noise_while_it_is_made(queued, people, client, monkeypatch):
    monkeypatch.setattr(glimpses, "EVERY_SECONDS", 0.0)
    seen, real = [], glimpses.Glimpses._keep

    def keep(self, picture, noise):
        real(self, picture, noise)
        seen.append((Image.open(io.BytesIO(Print.objects.get(pk=self.number).glimpse)).size, noise))

    monkeypatch.setattr(glimpses.Glimpses, "_keep", keep)
    client.force_login(people["owner"])
    item = queued()
    assert client.get(f"/api/v1/prints/{item.pk}/glimpse").status_code == 404
    working.work_on(item.pk)
    assert [size for size, _ in seen] == [(48, 32)] * 13, "once for each sample, and finished"
    noise = [value for _, value in seen]
    assert noise[0] is None and noise[-1] is None, "one sample says nothing, and what is finished has been denoised"
    assert noise[1] > noise[-2] >= 0
    (entry,) = client.get(f"/api/v1/projects/{item.project_id}/prints").json()["items"]
    assert entry["glimpses"] == 13 and entry["noise"] is None


def test_a_cancelled_print_is_not_made(queued, people):
    waiting = queued()
    CancelPrint(people["owner"], waiting.pk).execute()
    working.work_on(waiting.pk)
    assert Print.objects.get(pk=waiting.pk).state == Print.State.CANCELED
    assert not finished(waiting, "png").exists()
    with pytest.raises(Refused, match="already ended"):
        CancelPrint(people["owner"], waiting.pk).execute()


def test_a_running_print_notices_that_it_is_cancelled(queued, people, monkeypatch):
    running = queued()
    monkeypatch.setattr(filling, "REPORT_SECONDS", 0.0)
    real = filling.Progress.report

    def cancel_on_the_way(self, samples, wanted):
        if samples == 3:
            CancelPrint(people["owner"], running.pk).execute()
        real(self, samples, wanted)

    monkeypatch.setattr(filling.Progress, "report", cancel_on_the_way)
    working.work_on(running.pk)
    assert Print.objects.get(pk=running.pk).state == Print.State.CANCELED
    assert not finished(running, "png").exists()


def test_a_print_shows_the_document_as_it_was_when_queued(queued, people, project):
    from server.projects.actions import ApplyEdit

    wanted = queued()
    ApplyEdit(people["owner"], project.pk, [{"op": "replace", "path": "/print/samples", "value": 1}], "").execute()
    working.work_on(wanted.pk)
    assert Print.objects.get(pk=wanted.pk).samples_done == 12


def test_a_print_whose_file_is_gone_fails_with_a_reason(queued, project):
    wanted = queued()
    from server.projects.models import StoredFile

    StoredFile.objects.all().delete()
    working.work_on(wanted.pk)
    failed = Print.objects.get(pk=wanted.pk)
    assert failed.state == Print.State.FAILED and "square.glb" in failed.error


def test_a_frame_that_memory_cannot_hold_is_refused_with_the_reason(people, project, settings):
    owner, wanted = people["owner"], [("/print/width", 16384), ("/print/height", 16384), ("/print/data_layers", True)]
    patch = [{"op": "replace", "path": path, "value": value} for path, value in wanted]
    ApplyEdit(owner, project.pk, patch, "Huge").execute()
    settings.FILM_LIMIT = 12 << 30
    with pytest.raises(Refused, match=r"16384x16384 with all layers needs \d+\.\d GiB .* gives 12\.0 GiB.* without"):
        QueuePrint(owner, project.pk).execute()
    assert film_bytes(64, 32, aovs=True) == sum(a.nbytes for a in Film(64, 32, aovs=True).arrays().values())


def test_a_print_that_kills_its_worker_is_tried_three_times(queued, monkeypatch):
    number = queued().pk

    def die(wanted):
        raise _Killed

    monkeypatch.setattr(working, "_make", die)
    for _ in range(working.MOST_ATTEMPTS):
        with pytest.raises(_Killed):
            working.work_on(number)
    working.work_on(number)
    failed = Print.objects.get(pk=number)
    assert failed.state == Print.State.FAILED and "3 times" in failed.error
    working.work_on(number)
    assert Print.objects.get(pk=number).attempts == working.MOST_ATTEMPTS + 1, "and not again"


def test_a_cancelled_print_ends_within_a_second_whatever_it_is_at(people, project):
    """A frame of which a single sample takes longer than that."""
    owner = people["owner"]
    sizes = [("/print/width", 4096), ("/print/height", 2560), ("/print/samples", 64)]
    ApplyEdit(owner, project.pk, [{"op": "replace", "path": p, "value": v} for p, v in sizes], "Large").execute()
    number = QueuePrint(owner, project.pk).execute().pk

    def work():
        working.work_on(number)
        connections.close_all()

    thread = threading.Thread(target=work)
    thread.start()
    while Print.objects.get(pk=number).samples_done < 1:
        thread.join(0.1)
    begun = time.monotonic()
    CancelPrint(owner, number).execute()
    thread.join(30)
    assert not thread.is_alive()
    print(f"ended {time.monotonic() - begun:.2f} s after it was cancelled")
    assert not finished(Print.objects.get(pk=number), "png").exists()


def test_a_full_disk_keeps_the_film_and_the_print_goes_on_when_there_is_room(queued, people, client):
    """The system itself refuses to write more: a limit on the size of files stands for the disk's end."""
    whole = queued()
    working.work_on(whole.pk)
    number, before = queued().pk, resource.getrlimit(resource.RLIMIT_FSIZE)
    kept = filling.keep_film

    def keep_and_fill(path, film):
        kept(path, film)
        resource.setrlimit(resource.RLIMIT_FSIZE, (64, before[1]))

    try:
        filling.keep_film = keep_and_fill
        working.work_on(number)
    finally:
        filling.keep_film = kept
        resource.setrlimit(resource.RLIMIT_FSIZE, before)
    failed = Print.objects.get(pk=number)
    assert failed.state == Print.State.FAILED and "cannot be written" in failed.error
    assert sorted(p.name for p in failed.folder.iterdir()) == [still.FILM_FILE], "nothing is half-written"
    client.force_login(people["owner"])
    assert client.post(f"/api/v1/prints/{number}/retry").json()["state"] == "queued"
    working.work_on(number)
    assert Print.objects.get(pk=number).state == Print.State.DONE
    assert finished(failed, "png").read_bytes() == finished(whole, "png").read_bytes()
    assert client.post(f"/api/v1/prints/{number}/retry").status_code == 422


def places(client, project):
    """Prints of a project by their places in the queue."""
    entries = client.get(f"/api/v1/projects/{project.pk}/prints").json()["items"]
    return {entry["id"]: entry["place"] for entry in entries if entry["place"] is not None}


def in_order(found):
    return sorted(found, key=found.get)


def made_in_order():
    """The prints that wait, in the order in which a worker makes them."""
    made = []
    for job in ProcrastinateJob.objects.filter(status="todo", task_name="print_frame").order_by("-priority", "id"):
        number = job.args["print_id"]
        if Print.objects.filter(pk=number, state=Print.State.QUEUED).exists():
            working.work_on(number, job.priority)
            if Print.objects.get(pk=number).state == Print.State.DONE:
                made.append(number)
    return made


@pytest.mark.parametrize("seed", range(6))
def test_prints_are_made_in_the_order_that_a_hand_gave_them(queued, people, client, project, seed):
    chance = random.Random(seed)
    client.force_login(people["owner"])
    wanted = [queued().pk for _ in range(5)]
    for _ in range(6):
        moved, other = chance.sample(wanted, 2)
        place = wanted.index(other)
        wanted.insert(place, wanted.pop(wanted.index(moved)))
        assert client.post(f"/api/v1/prints/{moved}/before/{other}").status_code == 200
        assert in_order(places(client, project)) == wanted
    wanted.append(queued().pk)
    held = chance.choice(wanted[:-1])
    HoldPrint(people["owner"], held).execute()
    GoOnPrint(people["owner"], held).execute()
    assert set(places(client, project).values()) == set(range(1, 7))
    wanted = in_order(places(client, project))
    assert made_in_order() == wanted


def test_nobody_comes_before_what_another_project_waits_for(queued, people, client, project):
    other = CreateProject(people["owner"], "Other", project.document()).execute()
    client.force_login(people["owner"])
    first, theirs, last = queued(), QueuePrint(people["owner"], other.pk).execute(), queued()
    client.post(f"/api/v1/prints/{last.pk}/before/{first.pk}")
    assert places(client, project) == {last.pk: 1, first.pk: 3} and places(client, other) == {theirs.pk: 2}
    assert client.post(f"/api/v1/prints/{last.pk}/before/{theirs.pk}").status_code == 422
    assert made_in_order() == [last.pk, theirs.pk, first.pk]


def test_files_are_called_as_the_document_says(queued, people, client, project):
    client.force_login(people["owner"])
    asks = f"/api/v1/projects/{project.pk}/print-name"
    assert client.get(asks, {"template": "{project}-{width}px-{place}"}).json()["name"] == "Square-48px-001"
    assert "no {nothing}" in client.get(asks, {"template": "{nothing}"}).json()["problem"]
    patch = [{"op": "replace", "path": "/print/file_name", "value": "Für {project} {place}"}]
    ApplyEdit(people["owner"], project.pk, patch, "Name").execute()
    item = queued()
    working.work_on(item.pk)
    sent = client.get(f"/api/v1/prints/{item.pk}/files/png")
    assert sent["Content-Disposition"] == "attachment; filename*=utf-8''F%C3%BCr-Square-001.png"
