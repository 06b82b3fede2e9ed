"""Final frames: content, interruption, cancelling."""

import numpy as np
import OpenImageIO as oiio
import pytest

from lantern.film.film import Film
from lantern.scene.document import PrintSettings, Scene
from server.errors import Refused
from server.prints import working
from server.prints.actions import CancelPrint, QueuePrint
from server.prints.models import Print

pytestmark = pytest.mark.django_db


@pytest.fixture
def queued(people, project):
    return lambda: QueuePrint(people["owner"], project.pk).execute()


def test_a_print_writes_png_and_layered_exr(queued, client, people):
    number = queued().pk
    working.work_on(number)
    done = Print.objects.get(pk=number)
    assert (done.state, done.samples_done, done.error) == (Print.State.DONE, 12, "")
    image = oiio.ImageBuf(str(done.file("exr")))
    assert set(image.spec().channelnames) >= {"R", "G", "B", "A", "albedo.R", "normal.X", "Z"}
    pixels = image.get_pixels(oiio.FLOAT)
    middle = pixels[16, 24]
    assert middle[list(image.spec().channelnames).index("Z")] == pytest.approx(9, abs=0.05)
    client.force_login(people["owner"])
    sent = client.get(f"/api/prints/{number}/files/png")
    assert "attachment" in sent["Content-Disposition"]
    client.force_login(people["stranger"])
    assert client.get(f"/api/prints/{number}/files/png").status_code == 404


class _Killed(BaseException):
    """Stands for a signal: nothing in the worker catches it."""


def test_an_interrupted_print_resumes_and_is_equal_to_the_bit(queued, monkeypatch):
    whole = queued()
    working.work_on(whole.pk)

    resumed = queued()
    monkeypatch.setattr(working, "KEEP_FILM_SECONDS", 0.0)
    real = working._keep_film

    def keep_and_die(path, film):
        real(path, film)
        if film.samples == 5:
            raise _Killed

    monkeypatch.setattr(working, "_keep_film", keep_and_die)
    with pytest.raises(_Killed):
        working.work_on(resumed.pk)
    monkeypatch.setattr(working, "_keep_film", real)
    interrupted = Print.objects.get(pk=resumed.pk)
    assert interrupted.state == Print.State.RUNNING
    assert np.load(interrupted.folder / working.FILM_FILE)["rows"]["samples"].min() == 5

    working.work_on(resumed.pk)
    assert Print.objects.get(pk=resumed.pk).state == Print.State.DONE
    assert resumed.file("png").read_bytes() == whole.file("png").read_bytes()
    one, other = (oiio.ImageBuf(str(p.file("exr"))).get_pixels(oiio.FLOAT) for p in (whole, resumed))
    assert (one == other).all()
    assert not (resumed.folder / working.FILM_FILE).exists()


def test_a_kept_film_brings_its_layers_back(tmp_path):
    scene = Scene(print=PrintSettings(width=16, height=16, layers=True))
    film = Film(16, 16, aovs=True)
    film.rows["samples"] = 3
    film.aov_rows["direct"] = 0.5
    working._keep_film(tmp_path / working.FILM_FILE, film)
    opened = working._open_film(tmp_path / working.FILM_FILE, scene)
    assert all((opened.arrays()[name] == array).all() for name, array in film.arrays().items())
    plain = scene.model_copy(update={"print": PrintSettings(width=16, height=16)})
    assert working._open_film(tmp_path / working.FILM_FILE, plain).samples == 0, "made for other settings: begun anew"


def test_a_cancelled_print_is_not_made(queued, people):
    waiting = queued()
    CancelPrint(people["owner"], waiting.pk).execute()
    working.work_on(waiting.pk)
    assert Print.objects.get(pk=waiting.pk).state == Print.State.CANCELED
    assert not waiting.file("png").exists()
    with pytest.raises(Refused, match="already ended"):
        CancelPrint(people["owner"], waiting.pk).execute()


def test_a_running_print_notices_that_it_is_cancelled(queued, people, monkeypatch):
    running = queued()
    monkeypatch.setattr(working, "REPORT_SECONDS", 0.0)
    real = working._Progress.report

    def cancel_on_the_way(self, samples, wanted):
        if samples == 3:
            CancelPrint(people["owner"], running.pk).execute()
        real(self, samples, wanted)

    monkeypatch.setattr(working._Progress, "report", cancel_on_the_way)
    working.work_on(running.pk)
    assert Print.objects.get(pk=running.pk).state == Print.State.CANCELED
    assert not running.file("png").exists()


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
