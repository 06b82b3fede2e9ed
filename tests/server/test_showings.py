"""Showings: made, prepared with the real engine, opened by a link, led, commented on, withdrawn, written to a file."""

import io
import json
import re
import zipfile
from datetime import timedelta
from pathlib import Path

import numpy as np
import pytest
from django.core.cache import cache
from django.test import Client
from django.utils import timezone
from PIL import Image

from lantern.scene.reading import read_scene
from server.administration.collecting import collect_files
from server.errors import Refused
from server.projects.actions import ApplyEdit
from server.projects.models import StoredFile
from server.showings import visiting
from server.showings.actions import ChangeShowing, CreateShowing, PrepareAgain, RemoveShowing, WithdrawShowing
from server.showings.models import Showing, SlidePicture
from server.showings.preparing import prepare
from server.showings.rights import TURNS
from server.showings.tokens import token_of
from server.takes.actions import SayOfTake
from server.takes.models import Comment, Take
from tests.core.test_orders import furnished

pytestmark = pytest.mark.django_db(transaction=True)
JSON = "application/json"


@pytest.fixture(autouse=True)
def _nothing_is_counted_yet():
    cache.clear()


def new_showing(person, project, **more):
    wanted = {"name": "For Mara", "ends": timezone.now() + timedelta(days=7), "longer_side": 96, "samples": 8} | more
    wanted.setdefault("rights", ["switch", "compare", "comment"])
    return CreateShowing(person, project.pk, **wanted).execute()


@pytest.fixture
def dressed(people, project):
    """The project with two editions, a shot and evening light."""
    scene = furnished()
    printed = scene.print.model_copy(update={"width": 48, "height": 32, "samples": 12})
    project.scene = scene.model_copy(update={"print": printed}).model_dump(mode="json")
    project.save()
    return project


def enter(client, showing, password="", token=None):
    body = {"token": token or token_of(showing.nonce), "password": password}
    return client.post("/api/v1/visits", body, content_type=JSON)


def remark(client, showing, **said):
    slide = showing.slides.first()
    return client.post(f"/api/v1/visits/{showing.pk}/pictures/{slide.pk}/remarks", said, content_type=JSON)


def test_pictures_are_prepared_of_each_combination_and_hang_on_a_board(people, dressed):
    scene = dressed.document()
    showing = new_showing(
        people["owner"], dressed, editions=list(scene.editions), shots=list(scene.shots), conditions=["evening"]
    )
    ApplyEdit(people["owner"], dressed.pk, [{"op": "replace", "path": "/look/exposure", "value": 3.0}], "E").execute()
    prepare(showing.pk)
    slides = list(showing.slides.all())
    assert [slide.names for slide in slides] == [
        ["In steel", "Shot 1", "Evening"],
        ["In brass", "Shot 1", "Evening"],
    ]
    assert [slide.state for slide in slides] == ["done", "done"]
    for slide, metal in zip(slides, ("steel", "brass"), strict=True):
        take = slide.take
        assert (take.board, take.reason, take.note) == ("For Mara", "showing", f"In {metal} · Shot 1 · Evening")
        seen = read_scene(take.scene)
        assert seen.parts["base"].material == metal and seen.look.exposure == -2.0, "as it was when it was made"
        image = Image.open(io.BytesIO(slide.pictures.get().picture.file.read()))
        assert image.size == (96, 60) == (take.width, take.height) and np.asarray(image).std() > 1
    prepare(showing.pk)
    assert Take.objects.count() == 2 == SlidePicture.objects.count(), "what is made is not made again"


def test_a_picture_is_that_of_the_print(people, project):
    """At the size and samples of the print it is the print to the last value, but for the JPEG."""
    from lantern.engine.engine import Engine
    from lantern.picture.develop import display_rgb
    from server.projects import storage

    showing = new_showing(people["owner"], project, longer_side=48, samples=12)
    prepare(showing.pk)
    scene = project.document()
    paths = storage.paths_for(scene)
    engine = Engine(final=True)
    engine.open(scene, lambda reference: Path(paths[reference.sha256]))
    film = engine.film_for(48, 32)
    engine.trace(film, 12)
    wanted = display_rgb(engine.develop(film, denoise="high"), scene.look, engine.surround(film, clean=True))
    engine.close()
    kept = np.asarray(Image.open(io.BytesIO(showing.slides.get().take.picture.file.read())))
    assert np.array_equal(kept, wanted)


def test_a_ring_goes_once_around(people, project):
    showing = new_showing(people["owner"], project, rights=["turn"], samples=2, longer_side=48)
    prepare(showing.pk)
    pictures = list(showing.slides.get().pictures.all())
    assert [one.turn for one in pictures] == list(range(TURNS))
    assert len({one.picture_id for one in pictures}) > TURNS // 2, "and it is not the same picture all around"
    assert Take.objects.count() == 1, "the ring is no take"
    visitor = Client()
    assert len(enter(visitor, showing).json()["slides"][0]["pictures"]) == TURNS
    SlidePicture.objects.filter(turn__gt=5).delete()
    assert len(enter(visitor, showing).json()["slides"][0]["pictures"]) == 1, "half a ring is none"
    ChangeShowing(people["owner"], showing.pk, rights=["switch"]).execute()
    assert len(enter(visitor, showing).json()["slides"][0]["pictures"]) == 1


def test_a_picture_that_cannot_be_made_says_why_and_the_others_are(people, dressed, tmp_path):
    showing = new_showing(people["owner"], dressed, editions=list(dressed.document().editions))
    first = showing.slides.first()
    first.attempts = 3  # its worker has died of it so often
    first.save()
    prepare(showing.pk)
    assert [slide.state for slide in showing.slides.all()] == ["failed", "done"]
    assert "the worker died of it" in showing.slides.first().error
    PrepareAgain(people["owner"], showing.pk).execute()
    prepare(showing.pk)
    assert {slide.state for slide in showing.slides.all()} == {"done"}


def test_what_was_withdrawn_meanwhile_is_not_made(people, project):
    showing = new_showing(people["owner"], project)
    WithdrawShowing(people["owner"], showing.pk).execute()
    prepare(showing.pk)
    assert not SlidePicture.objects.exists()


@pytest.mark.parametrize(
    ("wrong", "words"),
    [
        ({"name": " "}, "1 to 80 characters"),
        ({"ends": timezone.now() - timedelta(days=1)}, "in the future"),
        ({"ends": timezone.now() + timedelta(days=900)}, "within a year"),
        ({"password": "short"}, "6 to 200"),
        ({"editions": ["gone"]}, "gone: choose again"),
        ({"shots": [f"s{k}" for k in range(26)], "rights": ["turn"]}, "624 pictures, and 600 are the most"),
    ],
)
def test_what_cannot_be_shown_is_refused(people, project, wrong, words):
    with pytest.raises(Refused, match=words):
        new_showing(people["owner"], project, **wrong)
    assert not Showing.objects.exists()


def test_a_link_opens_with_its_token_until_it_ends(people, project):
    showing = new_showing(people["owner"], project)
    prepare(showing.pk)
    visitor = Client()
    seen = enter(visitor, showing).json()
    assert (seen["name"], seen["by"], seen["wanted"], seen["may_lead"]) == ("For Mara", "ada", 1, False)
    picture = visitor.get(seen["slides"][0]["pictures"][0])
    assert picture["Content-Type"] == "image/jpeg" and Image.open(io.BytesIO(picture.content)).size == (96, 64)
    assert token_of(showing.nonce) not in json.dumps(list(Showing.objects.values("nonce", "digest", "name"))), (
        "a copy of the database opens nothing"
    )
    assert enter(visitor, showing).status_code == 200
    assert showing.visits.count() == 1, "one browser is one visitor"
    Showing.objects.filter(pk=showing.pk).update(ends=timezone.now() - timedelta(seconds=1))
    assert visitor.get(f"/api/v1/visits/{showing.pk}").status_code == 404
    assert visitor.get(seen["slides"][0]["pictures"][0]).status_code == 404
    over = enter(visitor, showing)
    assert over.status_code == 404 and "ended or was withdrawn" in over.json()["detail"]


def test_withdrawn_and_removed_it_opens_for_nobody(people, project):
    for end in (WithdrawShowing, RemoveShowing):
        showing = new_showing(people["owner"], project)
        visitor = Client()
        assert enter(visitor, showing).status_code == 200
        end(people["owner"], showing.pk).execute()
        assert visitor.get(f"/api/v1/visits/{showing.pk}").status_code == 404
        assert enter(visitor, showing).status_code == 404


def test_a_password_is_asked_for_and_another_closes_what_is_open(people, project):
    showing = new_showing(people["owner"], project, password="brass-and-oil")
    assert "brass" not in showing.password
    visitor = Client()
    asked = enter(visitor, showing)
    assert asked.status_code == 401 and "opens with a password" in asked.json()["detail"]
    assert enter(visitor, showing, "wrong-one").status_code == 401
    assert enter(visitor, showing, "brass-and-oil").status_code == 200
    assert visitor.get(f"/api/v1/visits/{showing.pk}").status_code == 200
    ChangeShowing(people["owner"], showing.pk, password="another-one").execute()
    assert visitor.get(f"/api/v1/visits/{showing.pk}").status_code == 404
    ChangeShowing(people["owner"], showing.pk, password="").execute()
    assert enter(visitor, showing).status_code == 200


def test_guessing_has_to_wait_and_hinders_nobody_else(people, project, caplog):
    showing = new_showing(people["owner"], project, password="brass-and-oil")
    visitor = Client()
    answers = [enter(visitor, showing, token="0" * 48).status_code for _ in range(visiting.GUESSES + 2)]
    assert answers == [404] * visiting.GUESSES + [429] * 2
    assert enter(visitor, showing, "brass-and-oil").status_code == 429, "nor does the right one help from there"
    elsewhere = Client(REMOTE_ADDR="192.0.2.7")
    assert enter(elsewhere, showing, "brass-and-oil").status_code == 200
    wrong = [enter(elsewhere, showing, "wrong-one").status_code for _ in range(visiting.GUESSES + 1)]
    assert wrong == [401] * visiting.GUESSES + [429]
    assert enter(Client(REMOTE_ADDR="192.0.2.8"), showing, "brass-and-oil").status_code == 200
    assert f"wrong password for showing {showing.pk}" in caplog.text


def test_behind_a_proxy_those_who_guess_are_told_apart_by_what_it_passes_on(people, project, settings):
    settings.BEHIND_TLS = True
    showing = new_showing(people["owner"], project)
    guesser = Client(headers={"x-forwarded-for": "192.0.2.9"})
    made_up = [Client(headers={"x-forwarded-for": f"198.51.100.{k}, 192.0.2.9"}) for k in range(visiting.GUESSES)]
    for each in (guesser, *made_up):
        enter(each, showing, token="0" * 48)
    assert enter(guesser, showing).status_code == 429, "what a client claims itself does not help"
    assert enter(Client(headers={"x-forwarded-for": "192.0.2.10"}), showing).status_code == 200


def test_what_visitors_say_arrives_at_the_take_and_the_makers_words_stay_theirs(people, project):
    showing = new_showing(people["owner"], project)
    prepare(showing.pk)
    take = showing.slides.get().take
    SayOfTake(people["owner"], take.pk, "They will not like the strap").execute()
    visitor = Client()
    enter(visitor, showing)
    said = remark(visitor, showing, name="Mara", text="Warmer, please", pin=[0.25, 0.75])
    assert said.status_code == 200, said.content
    SayOfTake(people["owner"], take.pk, "Tomorrow", said.json()["id"]).execute()
    assert remark(visitor, showing, name="Mara", chosen=True).json()["text"] == "Chosen."
    (slide,) = visitor.get(f"/api/v1/visits/{showing.pk}").json()["slides"]
    assert [(c["author"], c["text"], c["pin"]) for c in slide["comments"]] == [
        ("Mara", "Warmer, please", [0.25, 0.75]),
        ("ada", "Tomorrow", None),
        ("Mara", "Chosen.", None),
    ]
    owner = Client()
    owner.force_login(people["owner"])
    (entry,) = owner.get(f"/api/v1/projects/{project.pk}/takes").json()["items"]
    assert entry["labels"] == ["chosen"] and [c["is_visitor"] for c in entry["comments"]] == [False, True, False, True]


def test_what_visitors_may_not_say_is_refused(people, project):
    showing = new_showing(people["owner"], project)
    visitor = Client()
    enter(visitor, showing)
    no_take = remark(visitor, showing, name="Mara", text="Too early")
    assert no_take.status_code == 422 and "takes no comments any more" in no_take.json()["detail"]
    prepare(showing.pk)
    assert "who you are" in remark(visitor, showing, name=" ", text="x").json()["detail"]
    assert "Write something" in remark(visitor, showing, name="Mara", text=" ").json()["detail"]
    assert remark(visitor, showing, name="Mara", text="x", pin=[1.5, 0]).status_code == 422
    assert "at most 2,000" in remark(visitor, showing, name="Mara", text="x" * 2001).json()["detail"]
    answers = [remark(visitor, showing, name="M", text="x").status_code for _ in range(visiting.COMMENTS + 1)]
    assert answers == [200] * visiting.COMMENTS + [429]
    ChangeShowing(people["owner"], showing.pk, rights=["switch"]).execute()
    assert "takes no comments" in remark(visitor, showing, name="Mara", text="x").json()["detail"]
    assert Comment.objects.count() == visiting.COMMENTS


def test_signing_out_closes_what_the_browser_had_opened(people, project):
    """And signing in keeps it: a maker who looks at a showing is not thrown out of it."""
    showing = new_showing(people["owner"], project)
    browser = Client()
    enter(browser, showing)
    browser.post("/api/v1/session", {"username": "ada", "password": "lamp-oil"}, content_type=JSON)
    assert browser.get(f"/api/v1/visits/{showing.pk}").json()["may_lead"] is True
    browser.delete("/api/v1/session")
    assert browser.get(f"/api/v1/visits/{showing.pk}").status_code == 404


def test_its_files_are_kept_and_go_with_it(people, project):
    showing = new_showing(people["owner"], project)
    prepare(showing.pk)
    before = set(StoredFile.objects.values_list("sha256", flat=True))
    StoredFile.objects.update(created=timezone.now() - timedelta(days=3))
    collect_files()
    assert set(StoredFile.objects.values_list("sha256", flat=True)) == before
    RemoveShowing(people["owner"], showing.pk).execute()
    Take.objects.all().delete()
    collect_files()
    assert StoredFile.objects.count() == len(before) - 2, "its picture and that of its take are gone"


@pytest.fixture
def page(settings, tmp_path):
    """A built page, as small as can be."""
    settings.WEB_BUILD = tmp_path / "dist"
    (tmp_path / "dist" / "showing").mkdir(parents=True)
    (tmp_path / "dist" / "showing" / "showing.css").write_text("body{}")
    (tmp_path / "dist" / "showing" / "showing.js").write_text('say("</script>")')


def test_it_is_written_to_one_file_and_to_a_folder(people, project, page):
    owner = Client()
    owner.force_login(people["owner"])
    showing = new_showing(people["owner"], project, name="</title><b>Q&A")
    address = f"/api/v1/showings/{showing.pk}/file"
    assert "wait for the first one" in owner.get(address).json()["detail"]
    prepare(showing.pk)
    visitor = Client()
    enter(visitor, showing)
    remark(visitor, showing, name="Mara", text="Between us")
    text = owner.get(address).content.decode()
    assert text.count("</script>") == 2 and "<b>" not in text and "Between us" not in text
    told = json.loads(re.search(r"window\.SHOWING=(\{.*?\});</script>", text)[1])
    assert told["name"] == showing.name and told["rights"] == ["switch", "compare"]
    assert told["slides"][0]["pictures"][0].startswith("data:image/jpeg;base64,/9j/")
    folder = zipfile.ZipFile(io.BytesIO(owner.get(address + "?form=folder").content))
    name = f"pictures/{showing.slides.get().pk}-00.jpg"
    assert sorted(folder.namelist()) == ["index.html", name]
    assert name in folder.read("index.html").decode() and folder.read(name)[:2] == b"\xff\xd8"
