"""Prints that move: their frames and files, interruption, crossings with transparency, and what is refused before."""

import io
import shutil
import zipfile
from pathlib import Path
from urllib.parse import urlencode

import av
import numpy as np
import OpenImageIO as oiio
import pytest
from django.core.files.storage import storages
from PIL import Image

from lantern.picture.told import read_told
from lantern.scene.motion import Keyed, Motion, Turntable, ValueKey
from lantern.scene.reading import read_scene
from server.errors import Refused
from server.prints import filling, sequence, working
from server.prints.actions import DeletePrint, QueuePrint
from server.prints.models import Print
from tests.server.test_prints import _Killed, finished

pytestmark = pytest.mark.django_db(transaction=True)
FRAMES = 5


@pytest.fixture
def moving(people, project):
    """The project with its camera on a turntable, getting brighter: five frames of four samples."""
    scene = project.document()
    exposure = (ValueKey(time=0.0, value=0.0), ValueKey(time=0.5, value=2.0))
    moves = {
        "turn": Turntable(name="Turn", degrees=60.0, seconds=0.5, pivot=scene.camera.target),
        "look": Keyed(name="Look", path="/look/exposure", keys=exposure),
    }
    motion = Motion(rate=10.0, seconds=0.5, moves=moves)
    printed = scene.print.model_copy(update={"samples": 4})
    project.scene = scene.model_copy(update={"motion": motion, "print": printed}).model_dump(mode="json")
    project.save()
    return project


def queued(people, project, form, **more):
    return QueuePrint(people["owner"], project.pk, form, **more).execute()


def made(people, project, form, **more):
    number = queued(people, project, form, **more).pk
    working.work_on(number)
    done = Print.objects.get(pk=number)
    assert (done.state, done.error) == (Print.State.DONE, "")
    assert done.samples_done == done.samples == FRAMES * 4
    return done


def pictures(item):
    """The frames of a zip, (h, w, channels)."""
    with zipfile.ZipFile(finished(item, "frames")) as found:
        assert found.namelist() == [f"frame-{k:05d}.png" for k in range(FRAMES)]
        return [np.asarray(Image.open(io.BytesIO(found.read(name)))) for name in found.namelist()]


def test_each_frame_is_the_still_of_its_moment(people, moving):
    frames = pictures(made(people, moving, "frames"))
    for number in (0, 3):
        scene = sequence.frame_scene(moving.document(), number)
        moving.scene = scene.model_dump(mode="json")
        moving.save()
        still = QueuePrint(people["owner"], moving.pk).execute()
        working.work_on(still.pk)
        assert (np.asarray(Image.open(finished(still, "png"))) == frames[number]).all()
    assert frames[4].mean() > 1.3 * frames[0].mean() and (frames[1] != frames[2]).any()


@pytest.mark.parametrize(("form", "kind"), [("frames-jpg", "jpg"), ("frames-tif", "tif"), ("frames-exr", "exr")])
def test_frames_come_in_other_formats_as_the_still_of_their_moment(people, moving, form, kind):
    scene = moving.document()
    wanted = {"data_layers": True, "matte_layers": kind == "exr"}
    moving.scene = scene.model_copy(update={"print": scene.print.model_copy(update=wanted)}).model_dump(mode="json")
    moving.save()
    done = made(people, moving, form)
    with zipfile.ZipFile(finished(done, "frames")) as found:
        assert found.namelist() == [f"frame-{k:05d}.{kind}" for k in range(FRAMES)]
        found.extractall(done.folder)
    third = done.folder / f"frame-00003.{kind}"
    moment = read_scene(read_told(third, third.name)["document"]).shutter.time
    assert moment == pytest.approx(0.3)
    settings = {**scene.model_dump(mode="json")["print"], **wanted, "jpeg": 92, "tiff": "shown"}
    at_moment = sequence.frame_scene(scene, 3).model_dump(mode="json") | {"print": settings}
    moving.scene = at_moment
    moving.save()
    still = QueuePrint(people["owner"], moving.pk).execute()
    working.work_on(still.pk)
    one, other = (oiio.ImageBuf(str(path)) for path in (third, finished(still, kind)))
    assert one.spec().channelnames == other.spec().channelnames
    assert (one.get_pixels(oiio.FLOAT) == other.get_pixels(oiio.FLOAT)).all()


@pytest.mark.parametrize("fresh", [False, True])
def test_noise_rests_or_moves_as_is_wanted(people, moving, fresh):
    scene = moving.document()
    printed = scene.print.model_copy(update={"fresh_noise": fresh, "denoise": False})
    still = scene.motion.model_copy(update={"moves": {}})
    moving.scene = scene.model_copy(update={"print": printed, "motion": still}).model_dump(mode="json")
    moving.save()
    first, *others = pictures(made(people, moving, "frames"))
    assert [bool((first == other).all()) for other in others] == [not fresh] * (FRAMES - 1)


def test_a_film_has_its_frames_its_rate_and_leaves_nothing_behind(people, moving, client):
    done = made(people, moving, "mp4")
    with av.open(str(finished(done, "film"))) as film:
        (stream,) = film.streams.video
        decoded = [frame.to_ndarray(format="rgb24") for frame in film.decode(stream)]
        assert float(stream.average_rate) == 10 and len(decoded) == FRAMES and decoded[0].shape == (32, 48, 3)
    frames = pictures(made(people, moving, "frames"))
    assert np.abs(decoded[2].astype(int) - frames[2]).mean() < 4
    left = sorted(path.name for path in done.folder.iterdir()) if done.folder.exists() else []
    assert left in ([], [f"print-{done.pk}.mp4"]), "tests keep prints and films in one folder"
    client.force_login(people["owner"])
    entry = client.get(f"/api/v1/projects/{moving.pk}/prints").json()["items"][1]
    assert (entry["form"], entry["frames"], entry["files"]) == ("mp4", FRAMES, ["film"])
    sent = client.get(f"/api/v1/prints/{done.pk}/files/film")
    assert sent["Content-Type"] == "video/mp4" and "Square-001.mp4" in sent["Content-Disposition"]
    path = finished(done, "film")
    DeletePrint(people["owner"], done.pk).execute()
    assert not path.exists()


def test_a_killed_worker_s_film_goes_on_and_is_equal_to_the_bit(people, moving, monkeypatch):
    whole = pictures(made(people, moving, "frames"))
    number = queued(people, moving, "frames").pk
    monkeypatch.setattr(filling, "KEEP_FILM_SECONDS", 0.0)
    real, kept = filling.keep_film, []

    def keep_and_die(path, film):
        real(path, film)
        kept.append(path.name)
        if kept.count("film-2.npz") == 2:
            raise _Killed

    monkeypatch.setattr(filling, "keep_film", keep_and_die)
    with pytest.raises(_Killed):
        working.work_on(number)
    monkeypatch.setattr(filling, "keep_film", real)
    interrupted = Print.objects.get(pk=number)
    there = sorted(path.name for path in (interrupted.folder / "frames").iterdir())
    assert there == ["frame-00000.png", "frame-00001.png"] and (interrupted.folder / "film-2.npz").is_file()
    at = {path: path.stat().st_mtime_ns for path in (interrupted.folder / "frames").iterdir()}
    wrote = []
    write = sequence.Frames.make
    monkeypatch.setattr(
        sequence.Frames,
        "make",
        lambda self, place, path, *more: (wrote.append(path.name), write(self, place, path, *more)),
    )
    working.work_on(number)
    assert wrote == ["frame-00002.png", "frame-00003.png", "frame-00004.png"], (wrote, at)
    resumed = pictures(Print.objects.get(pk=number))
    assert all((a == b).all() for a, b in zip(whole, resumed, strict=True))


def test_a_transparent_film_has_its_alpha_or_is_refused(people, moving):
    scene = moving.document()
    printed = scene.print.model_copy(update={"transparent": True})
    moving.scene = scene.model_copy(update={"print": printed}).model_dump(mode="json")
    moving.save()
    with pytest.raises(Refused, match=r"MP4, H\.264 has no transparency"):
        queued(people, moving, "mp4")
    with pytest.raises(Refused, match="JPEG has no transparency"):
        queued(people, moving, "frames-jpg")
    frames = pictures(made(people, moving, "frames"))
    assert frames[0].shape[2] == 4 and 0 < frames[0][..., 3].mean() < 255
    with av.open(str(finished(made(people, moving, "mov"), "film"))) as film:
        first = next(film.decode(video=0)).to_ndarray(format="rgba")
    assert np.abs(first[..., 3].astype(int) - frames[0][..., 3]).mean() < 4


def test_what_cannot_be_made_is_said_before(people, moving, client, monkeypatch):
    monkeypatch.setattr(shutil, "disk_usage", lambda path: shutil._ntuple_diskusage(10**9, 10**9, 10))
    with pytest.raises(Refused, match="are free: make room"):
        queued(people, moving, "mp4")
    scene = moving.document()
    long = scene.motion.model_copy(update={"seconds": 3600.0})
    moving.scene = scene.model_copy(update={"motion": long}).model_dump(mode="json")
    moving.save()
    with pytest.raises(Refused, match="36,000 frames, and 20,000 are the most"):
        queued(people, moving, "mp4")
    client.force_login(people["owner"])
    for wrong in ({"form": "avi"}, {"form": "mp4", "quality": 101}):
        answer = client.post(f"/api/v1/projects/{moving.pk}/prints?{urlencode(wrong)}")
        assert answer.status_code == 422
    assert not Print.objects.exists()


def test_a_film_that_is_stopped_leaves_its_folder_empty(people, moving, monkeypatch):
    number = queued(people, moving, "mp4").pk
    real = sequence.write_png

    def stop(*file):
        real(*file)
        Print.objects.filter(pk=number).update(state=Print.State.CANCELED)

    monkeypatch.setattr(sequence, "write_png", stop)
    monkeypatch.setattr(filling, "LOOK_SECONDS", 0.01)
    working.work_on(number)
    item = Print.objects.get(pk=number)
    assert item.state == Print.State.CANCELED and not Path(item.folder).exists()
    assert not storages["prints"].exists(item.file_name("film"))
