"""Takes: kept through the socket with a real host, said of, compared, restored, printed on a sheet."""

import base64
import io
import json
from datetime import timedelta
from pathlib import Path

import numpy as np
import pytest
from channels.db import database_sync_to_async
from django.conf import settings
from django.utils import timezone
from PIL import Image
from pypdf import PdfReader

from lantern.picture.encode import encode_png
from lantern.scene.patching import apply_operations
from lantern.scene.reading import read_scene
from server.administration.collecting import collect_files
from server.errors import Missing, Refused
from server.projects.actions import ApplyEdit
from server.projects.keeping import DuplicateProject
from server.projects.models import StoredFile
from server.takes import actions
from server.takes.actions import ChangeTake, KeepTake, RemoveTake, SayOfTake, Still, film_path
from server.takes.comparing import compared, difference, to_restore
from server.takes.marks import Mark
from server.takes.models import Take
from tests.server.test_viewport import is_frame, is_type, joined, leave, look, until

pytestmark = pytest.mark.django_db(transaction=True)


def picture(value, size=(48, 32)):
    return encode_png(np.full((size[1], size[0], 3), value, np.uint8))


def keep(person, project, value=100, request="r", **more):
    project.refresh_from_db()
    still = Still(picture(value), 16, 0.02)
    return KeepTake(person, project.pk, project.scene, project.revision, still, request, **more).execute()


def edit(person, project, path, value):
    ApplyEdit(person, project.pk, [{"op": "replace", "path": path, "value": value}], "Edit").execute()


async def test_a_take_is_the_picture_and_the_camera_that_are_seen(people, project):
    socket = await joined(people, project)
    free = project.document().camera.model_copy(update={"position": (1.0, -14.0, 5.0)})
    try:
        await look(socket, camera=free.model_dump(mode="json"))
        await until(socket, is_frame(samples=1))
        await socket.send_json_to({"type": "take", "pane": 0, "request": "once", "note": "from the side"})
        kept = await until(socket, is_type("take_kept"))
        assert kept["asked"] == "once"
        await socket.send_json_to({"type": "take", "pane": 0, "request": "once"})
        again = await until(socket, is_type("take_kept"))
        assert again["take"] == kept["take"], "asked for again it is kept once"
        take = await database_sync_to_async(Take.objects.select_related("picture").get)()
    finally:
        await leave(socket)
    image = Image.open(take.picture.file.path)
    assert image.size == (take.width, take.height) and np.asarray(image.convert("RGB")).std() > 1
    assert take.samples >= 1 and take.note == "from the side" and take.revision == project.revision
    assert read_scene(take.scene).camera.position == (1.0, -14.0, 5.0)


async def test_a_take_with_its_film_goes_on_from_the_samples_that_it_had(people, project):
    socket = await joined(people, project)
    try:
        await look(socket)
        await until(socket, is_frame(samples=8))
        await socket.send_json_to({"type": "take", "pane": 0, "request": "film", "film": True})
        kept = await until(socket, is_type("take_kept"))
        assert kept["problem"] == ""
        await socket.send_json_to({"type": "take", "pane": 0, "request": "plain"})
        plain = await until(socket, is_type("take_kept"))
        await socket.send_json_to({"type": "reopen", "pane": 0, "take": kept["take"], "request": "again"})
        opened = await until(socket, is_type("film_opened"))
        assert opened["problem"] == "" and opened["samples"] >= 1
        goes_on = await until(socket, is_frame(samples=opened["samples"]))
        assert goes_on
        await socket.send_json_to({"type": "reopen", "pane": 0, "take": plain["take"], "request": "none"})
        said = await until(socket, is_type("refused"))
        assert "not kept" in said["message"]
        take = await database_sync_to_async(Take.objects.select_related("film").get)(pk=kept["take"])
    finally:
        await leave(socket)
    assert take.film.size > 100_000
    assert not list(settings.READING_FOLDER.glob("*/film.npz")), "nothing is left of the way"


def test_a_film_is_of_its_own_project_and_stays_as_long_as_its_take(people, project, tmp_path):
    owner = people["owner"]
    (tmp_path / "film.npz").write_bytes(b"film")
    still = Still(picture(90), 16, 0.02, tmp_path / "film.npz")
    take = KeepTake(owner, project.pk, project.scene, project.revision, still, "r").execute()
    assert Path(film_path(owner, project.pk, take.pk)).read_bytes() == b"film"
    with pytest.raises(Missing, match="no take"):
        film_path(people["stranger"], project.pk, take.pk)
    with pytest.raises(Missing, match="in this project"):
        film_path(owner, project.pk + 1, take.pk)
    StoredFile.objects.update(created=timezone.now() - timedelta(days=3))
    collect_files()
    assert Path(film_path(owner, project.pk, take.pk)).is_file()
    digest = take.film.sha256
    RemoveTake(owner, take.pk).execute()
    collect_files()
    assert not StoredFile.objects.filter(sha256=digest).exists()


async def test_before_there_is_a_picture_nothing_is_kept_and_that_is_said(people, project):
    socket = await joined(people, project)
    try:
        await until(socket, is_type("document"))
        await look(socket)
        await until(socket, is_type("opened"))
        await socket.send_json_to({"type": "take", "pane": 3, "request": "none"})
        said = await until(socket, is_type("refused"))
        assert said["request"] == "none"
    finally:
        await leave(socket)
    assert not await database_sync_to_async(Take.objects.exists)()


def test_what_is_said_of_a_take_is_checked_and_listed(client, people, project):
    owner = people["owner"]
    take = keep(owner, project)
    client.force_login(owner)
    change = {"note": " darker \x00", "stars": 4, "labels": ["evening", "", "evening"], "board": "Tuesday",
              "marks": [{"kind": "arrow", "start": [0.1, 0.2], "end": [0.5, 0.5]}]}  # fmt: skip
    answer = client.patch(f"/api/v1/takes/{take.pk}", json.dumps(change), content_type="application/json")
    assert answer.status_code == 200, answer.content
    first = SayOfTake(owner, take.pk, "Too cold?").execute()
    SayOfTake(people["superuser"], take.pk, "No", first.pk).execute()
    (listed,) = client.get(f"/api/v1/projects/{project.pk}/takes").json()["items"]
    assert (listed["note"], listed["stars"], listed["labels"], listed["board"]) == ("darker", 4, ["evening"], "Tuesday")
    assert [(c["author"], c["text"], c["answers"]) for c in listed["comments"]] == [
        ("ada", "Too cold?", None), ("cy", "No", first.pk),
    ]  # fmt: skip
    assert client.get(listed["picture"]).headers["Content-Type"] == "image/png"
    assert Image.open(io.BytesIO(client.get(listed["thumbnail"]).content)).format == "JPEG"
    off = {"marks": [{"kind": "ring", "start": [0.1, 0.2], "end": [1.5, 0.5]}]}
    answer = client.patch(f"/api/v1/takes/{take.pk}", json.dumps(off), content_type="application/json")
    assert answer.status_code == 422 and "end" in answer.json()["detail"]
    for action, words in (
        (ChangeTake(owner, take.pk, stars=6), "no to 5 stars"),
        (ChangeTake(owner, take.pk, note="n" * 5000), "at most 4,000"),
        (ChangeTake(owner, take.pk, marks=[Mark(kind="ring", start=(0, 0), end=(1, 1))] * 101), "at most 100 marks"),
        (SayOfTake(owner, take.pk, "  "), "Write something"),
    ):
        with pytest.raises(Refused, match=words):
            action.execute()


def test_two_things_that_are_said_at_once_both_stay(people, project, monkeypatch):
    """A note that comes while the board is being changed, as by a hand that goes from one field to the next."""
    owner, read = people["owner"], actions.take_for
    take = keep(owner, project)

    def read_while_a_note_comes(person, number):
        found = read(person, number)
        monkeypatch.setattr(actions, "take_for", read)
        ChangeTake(owner, number, note="Cooler at the handle").execute()
        return found

    monkeypatch.setattr(actions, "take_for", read_while_a_note_comes)
    ChangeTake(owner, take.pk, board="For Tuesday").execute()
    take.refresh_from_db()
    assert (take.note, take.board) == ("Cooler at the handle", "For Tuesday")


def test_two_takes_differ_in_words_each_taken_over_alone_and_in_the_picture(client, people, project):
    owner = people["owner"]
    first = keep(owner, project, 100, "a")
    edit(owner, project, "/look/exposure", 0.5)
    edit(owner, project, "/environment/rotation", 30.0)
    second = keep(owner, project, 110, "b")
    edit(owner, project, "/look/exposure", 2.0)
    found = compared(owner, first.pk, second.pk)
    assert [(told.area, told.said) for told in found.differences] == [
        ("light", "Environment: rotation 0 ° → 30 °"), ("look", "Look: exposure 0 EV → 0.5 EV"),
    ]  # fmt: skip
    project.refresh_from_db()
    as_second = read_scene(apply_operations(project.scene, found.differences[1].as_second)[0])
    assert (as_second.look.exposure, as_second.environment.rotation) == (0.5, 30.0)
    assert len(compared(owner, first.pk, None).differences) == 2
    client.force_login(owner)
    told = client.get(f"/api/v1/takes/{first.pk}/words?other={second.pk}").json()
    assert [each["said"] for each in told["differences"]] == [each.said for each in found.differences]
    assert told["more"] == 0
    assert difference(owner, first.pk, second.pk, "absolute").mean == pytest.approx(10)
    address = f"/api/v1/takes/{first.pk}/difference?other={second.pk}&kind=colour"
    answer = client.get(address).json()
    shown = Image.open(io.BytesIO(base64.b64decode(answer["picture"].partition(",")[2])))
    assert shown.size == (48, 32) and 2 < answer["mean"] < 6 and answer["unit"] == "ΔE2000"


def test_pictures_of_two_sizes_are_compared_at_the_smaller(people, project):
    owner = people["owner"]
    first = keep(owner, project, 100, "a")
    still = Still(picture(120, (96, 64)), 4, None)
    second = KeepTake(owner, project.pk, project.scene, project.revision, still, "b").execute()
    assert difference(owner, second.pk, first.pk, "absolute").values.shape == (32, 48)


def test_a_take_is_restored_whole_or_in_part_as_one_step_of_undo(client, people, project):
    owner = people["owner"]
    before = project.document()
    take = keep(owner, project)
    for path, value in (("/look/exposure", 1.5), ("/camera/focal_length", 120.0), ("/environment/rotation", 70.0)):
        edit(owner, project, path, value)
    client.force_login(owner)
    asked = json.dumps({"areas": ["look"]})
    part = client.post(f"/api/v1/takes/{take.pk}/restoring", asked, content_type="application/json").json()
    assert part["label"].endswith("(look)")
    ApplyEdit(owner, project.pk, part["patch"], part["label"]).execute()
    project.refresh_from_db()
    assert project.document().look == before.look and project.document().camera.focal_length == 120
    whole = to_restore(owner, take.pk, ["asset", "materials", "light", "camera", "look", "print"])
    ApplyEdit(owner, project.pk, whole.patch, whole.label).execute()
    project.refresh_from_db()
    assert project.document() == before
    with pytest.raises(Refused, match="as it was then"):
        to_restore(owner, take.pk, ["look"])


def test_takes_of_two_projects_are_not_compared_nor_those_of_somebody_else(people, project):
    owner = people["owner"]
    first = keep(owner, project)
    other = DuplicateProject(owner, project.pk).execute()
    second = keep(owner, other)
    with pytest.raises(Refused, match="different projects"):
        compared(owner, first.pk, second.pk)
    for action in (ChangeTake(people["stranger"], first.pk, stars=1), RemoveTake(people["stranger"], first.pk)):
        with pytest.raises(Missing):
            action.execute()


def test_the_sheet_has_all_takes_and_what_was_said(client, people, project):
    owner = people["owner"]
    takes = [keep(owner, project, 90 + n, f"r{n}", note=f"Note number {n}") for n in range(8)]
    ring = Mark(kind="ring", start=(0.2, 0.2), end=(0.6, 0.7))
    arrow = Mark(kind="arrow", start=(0.9, 0.9), end=(0.5, 0.5), words="here")
    ChangeTake(owner, takes[0].pk, stars=3, labels=["evening"], marks=[ring, arrow]).execute()
    client.force_login(owner)
    query = "&".join(f"takes={take.pk}" for take in takes)
    answer = client.get(f"/api/v1/projects/{project.pk}/sheet?{query}")
    assert answer.status_code == 200 and answer["Content-Type"] == "application/pdf"
    pages = PdfReader(io.BytesIO(answer.content)).pages
    words = [page.extract_text() for page in pages]
    assert len(pages) == 2 and "Note number 5" in words[0] and "Note number 7" in words[1]
    assert "here" in words[0] and "evening" in words[0] and sum(len(page.images) for page in pages) == 8
    assert client.get(f"/api/v1/projects/{project.pk}/sheet?takes=999999").status_code == 404


def test_the_picture_of_a_take_stays_until_the_take_is_removed(people, project):
    owner = people["owner"]
    take = keep(owner, project)
    StoredFile.objects.update(created="2020-01-01T00:00:00Z")
    collect_files()
    assert StoredFile.objects.filter(pk=take.picture_id).exists()
    RemoveTake(owner, take.pk).execute()
    collect_files()
    assert not StoredFile.objects.filter(pk=take.picture_id).exists()
