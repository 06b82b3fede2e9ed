"""One pane over a real engine: what it sends when only the look changes."""

import io

import numpy as np
import pytest

from lantern.compile.view import Way
from lantern.film.film import film_bytes
from lantern.scene.document import Material
from lantern.scene.look import EFFECTS, Look
from lantern.scene.surroundings import Ground
from server.host import shown as shown_module
from server.host.answers import answer
from server.host.ladder import Speed, within
from server.host.loop import FILM_BYTES, Host
from server.protocol import frames, takes
from server.protocol import host as said
from server.protocol.panes import PaneState
from tests.server.panes import edited, expose, looked, no_file, opened, settle, state_of


def last_frame(sent):
    return next(frames.unpack_frame(body) for head, body in reversed(sent) if getattr(head, "kind", "") == "frame")


def test_another_look_traces_nothing_and_is_sharpened_when_the_hand_rests(shown, sent, monkeypatch):
    view, engine = shown
    rays = engine.ray_counts().rays
    expose(view, engine, 1.0)
    info, _ = last_frame(sent)
    assert (info.codec, info.width, info.samples) == (frames.JPEG, 320, 4)
    assert view.has_work(True) and view.only_sharpens(True)
    monkeypatch.setattr(shown_module, "SHARPEN_AFTER_SECONDS", 0.0)
    view.step(True, lambda *_: None)
    info, _ = last_frame(sent)
    assert info.codec == frames.PNG and not view.has_work(True)
    assert engine.ray_counts().rays == rays


def test_on_a_slow_machine_another_look_comes_small_first_and_whole_later(shown, sent, monkeypatch):
    view, engine = shown
    view.shown.speed = Speed(1e-5)
    expose(view, engine, 1.0)
    small, _ = last_frame(sent)
    assert 320 // 6 <= small.width < 100 and small.full == (320, 200)
    count = len(sent)
    view.step(True, lambda *_: None)
    assert len(sent) == count, "not while the hand may still move"
    monkeypatch.setattr(shown_module, "SHARPEN_AFTER_SECONDS", 0.0)
    view.step(True, lambda *_: None)
    whole, _ = last_frame(sent)
    assert whole.width == 320 and not view.has_work(True)


def test_a_held_picture_that_has_not_settled_is_sharpened_too(shown, sent, monkeypatch):
    view, engine = shown
    view.settled, view.shown.flags = False, 0
    view.shown.speed = Speed(1e-5)
    expose(view, engine, 1.0)
    assert view.has_work(False) and view.only_sharpens(False)
    monkeypatch.setattr(shown_module, "SHARPEN_AFTER_SECONDS", 0.0)
    view.step(False, lambda *_: None)
    assert last_frame(sent)[0].width == 320
    assert not view.has_work(False), "and then it costs nothing"


def test_no_sample_is_taken_before_a_picture_sent_in_a_hurry_is_whole(shown, sent, monkeypatch):
    view, engine = shown
    view.settled, view.shown.flags = False, 0
    view.shown.speed = Speed(1e-5)
    rays = engine.ray_counts().rays
    expose(view, engine, 1.0)
    assert view.only_sharpens(True)
    view.step(True, lambda *_: None)
    assert engine.ray_counts().rays == rays, "a pass would have the whole picture wait"
    monkeypatch.setattr(shown_module, "SHARPEN_AFTER_SECONDS", 0.0)
    view.step(True, lambda *_: None)
    assert last_frame(sent)[0].width == 320 and not view.only_sharpens(True)


EVERY = {name: {"enabled": True} for name in EFFECTS if name not in ("table", "monochrome")}


def test_no_effect_of_the_look_traces_a_ray(shown, sent):
    view, engine = shown
    rays = engine.ray_counts().rays
    plain = view.displayed()
    looked(view, engine, **EVERY)
    assert engine.ray_counts().rays == rays
    assert np.abs(view.displayed().astype(int) - plain).max() > 20


def test_the_picture_is_seen_before_its_look_beside_it_and_with_one_effect_alone(shown, sent):
    view, engine = shown
    plain = view.displayed()
    looked(view, engine, contrast={"enabled": True, "contrast": 1.8}, vignette={"enabled": True, "edge": -2.0})
    after = view.displayed()
    state_of(view, before=True)
    assert (view.displayed() == plain).all()
    state_of(view, before=False, edge=0.25)
    joined = view.displayed()
    assert (joined[:, :80] == plain[:, :80]).all() and (joined[:, 80:] == after[:, 80:]).all()
    state_of(view, edge=None, solo="contrast")
    alone = view.displayed()
    assert (alone != after).any() and (alone != plain).any()
    assert engine.compile_counts is not None and view.done == 4, "and no sample is lost"


def test_a_look_of_its_own_is_seen_in_one_pane_and_kept_with_its_picture(shown, sent):
    view, engine = shown
    plain = view.displayed()
    own = Look(exposure=Look().exposure + 1)
    state_of(view, look=own)
    brighter = view.displayed()
    assert brighter.mean() > plain.mean() + 5 and view.done == 4, "and no sample is lost"
    assert view.values_at(0.5, 0.5)["display"] != list(plain[100, 160])
    expose(view, engine, -3.0)
    assert (view.displayed() == brighter).all(), "the look of the document is another pane's business"
    found = answer(takes.Still(pane=0, request="one"), engine, view, no_file)
    assert found.look["exposure"] == own.exposure
    gone = Look.model_validate({"table": {"enabled": True, "file": {"sha256": "0" * 64, "name": "gone.cube"}}})
    state_of(view, look=gone)
    assert (view.displayed() == plain).all(), "a file that is not there leaves out what it is for"
    state_of(view, look=None)
    assert view.displayed().mean() < plain.mean()


def test_a_kept_film_goes_on_as_if_it_had_never_been_away(shown, sent, tmp_path):
    view, engine = shown
    path = str(tmp_path / "film.npz")
    kept = answer(takes.Still(pane=0, request="one", film_to=path), engine, view, no_file)
    assert kept.problem == "" and view.done == 4
    expose(view, engine, 3.0)
    looked_like = view.displayed()
    proof = engine.scene.proof.model_copy(update={"samples": 8})
    edited(view, engine, proof=proof)
    whole = settle(view).rows.copy()
    state_of(view, width=480, height=300)
    assert view.film.width == 480 and view.done == 0

    opened = answer(takes.OpenFilm(pane=0, request="two", path=path), engine, view, no_file)
    assert (opened.problem, opened.samples) == ("", 4) and view.film.width == 320, "its size is that of its samples"
    view.step(True, lambda *_: None)
    assert (view.displayed() == looked_like).all(), "the look is that of now"
    again = settle(view).rows
    assert all((again[name] == whole[name]).all() for name in again.dtype.names), "and every sample is the same"

    edited(view, engine, materials={"own": Material(name="Own")}, ground=Ground(reflection=0.5))
    assert view.film.width == 480, "what is shown has changed: it fills the window again"
    refused = answer(takes.OpenFilm(pane=0, request="three", path=path), engine, view, no_file)
    assert "differs" in refused.problem and view.film.width == 480
    broken = tmp_path / "broken.npz"
    broken.write_bytes(b"nothing")
    assert (
        "cannot be read"
        in answer(takes.OpenFilm(pane=0, request="four", path=str(broken)), engine, view, no_file).problem
    )
    state_of(view, way=Way.CLAY)
    assert "Only a proof" in answer(takes.OpenFilm(pane=0, request="five", path=path), engine, view, no_file).problem


def test_clipping_is_marked_in_the_picture_alone(shown, sent):
    view, engine = shown
    expose(view, engine, 12.0)
    white = view.displayed()
    state_of(view, marks="clipping")
    marked = view.displayed()
    assert (white == 255).any() and (marked[(white == 255).all(axis=-1)] != 255).any()
    with pytest.raises(ValueError, match="there is no effect"):
        PaneState(pane=0, serial=0, width=320, height=200, solo="sparkle")


def test_under_a_loupe_the_look_is_that_of_the_whole_picture(shown, sent):
    view, engine = shown
    looked(view, engine, vignette={"enabled": True, "edge": -3.0})
    whole = view.displayed()
    frame = view._frame
    x, y, width, height = 240, 0, 80, 60
    part = view.shown._display(view.shown.picture.radiance, frame, (x, y, width, height))
    assert (part == whole[y : y + height, x : x + width]).all()


def test_exposure_doubles_what_is_shown(shown, sent):
    view, engine = shown
    values = view.values_at(0.5, 0.5)
    expose(view, engine, -2.0)
    darker = view.values_at(0.5, 0.5)
    assert darker["linear"] == values["linear"] and np.all(np.less(darker["display"], values["display"]))


def finished(job, engine, view):
    """What the denoiser answers."""
    layers, quality, flags, region = job
    return engine.develop(view.film, denoise=quality), view.generation, layers.samples, flags, region


def test_another_look_does_not_cost_the_picture_that_is_being_denoised(awaited, sent):
    view, engine, given = awaited
    assert not view.has_work(True), "no sample is taken while the first whole picture is denoised"
    expose(view, engine, 1.0)
    assert last_frame(sent)[0].flags & frames.COARSE
    assert not view.developed(*finished(given[0], engine, view))
    info, _ = last_frame(sent)
    assert info.flags == frames.DENOISED and info.width == 320
    assert view.has_work(True), "and then it goes on"


def test_a_denoiser_that_gave_way_is_asked_again_unless_nobody_waits(awaited):
    view, _, given = awaited
    assert view.developed(None, view.generation, 1, 0, None), "the picture is still wanted"
    view.develop_full(True, lambda _, *job: given.append(job))
    assert len(given) == 2
    view.restart()
    assert not view.developed(None, view.generation - 1, 1, 0, None)
    assert view.has_work(True)


def test_a_held_picture_has_all_samples_that_were_taken(awaited, sent):
    view, engine, given = awaited

    def start(_, *job):
        given.append(job)

    view.developed(*finished(given.pop(), engine, view))
    while not given:
        view.step(True, start)
    older = finished(given.pop(), engine, view)
    view.step(True, start)
    done = view.done
    assert done > older[2] and not given, "one more pass while the denoiser is busy"
    assert not view.has_work(False), "held, it waits for the picture that is on its way"
    view.developed(*older)
    assert view.has_work(False)
    view.step(False, start)
    view.developed(*finished(given.pop(), engine, view))
    assert not view.has_work(False) and view.done == done == last_frame(sent)[0].samples


def test_an_older_picture_never_takes_the_place_of_a_newer_one(awaited, sent):
    view, engine, given = awaited
    job = finished(given[0], engine, view)
    view.restart()
    count = len(sent)
    view.developed(*job)
    assert len(sent) == count


def test_the_denoiser_is_stopped_only_by_what_asks_for_samples():
    host = Host(io.BytesIO(), io.BytesIO())
    state = PaneState(pane=0, serial=1, width=100, height=50)

    def asks(message):
        return host._asks_for_samples(message)

    def in_hand(serial, path, value):
        patch = [{"op": "replace", "path": path, "value": value}]
        return asks(said.InHand(seat=1, patch=patch, serial=serial))

    assert asks(said.WholeDocument(scene={}, revision=1, paths={}))
    assert not in_hand(1, "/look/exposure", 3)
    assert in_hand(2, "/camera/focal_length", 20) and in_hand(3, "/camera/focal_length", 30)
    thirty = [{"op": "replace", "path": "/camera/focal_length", "value": 30.0}]
    change = said.Changed(patch=thirty, revision=2, paths={}, released=1)
    assert not asks(change), "let go of, it shows what it showed in the hand"
    assert asks(change), "now it is news"
    assert in_hand(4, "/camera/focal_length", 40) and asks(said.InHand(seat=1, patch=[], serial=5)), "taken back"
    assert not asks(said.InHand(seat=1, patch=[], serial=6)), "nothing was in hand"

    def pane(seat=1, **changes):
        return asks(said.PaneOfSeat(seat=seat, state=state.model_copy(update=changes), budget=None))

    assert pane() and not pane(selected=("a",)) and pane(seat=2) and pane(way=Way.CLAY)
    assert not asks(said.RunProof(running=False))


@pytest.mark.parametrize(("width", "samples"), [(400, 4), (640, 1)])
def test_a_good_picture_stays_until_one_of_the_new_size_is_as_good(shown, sent, width, samples):
    view, _ = shown
    count = len(sent)
    view.take_state(PaneState(pane=0, serial=1, width=width, height=width * 5 // 8))
    assert view.shown.picture is not None and not view.has_work(False), "held, the picture is scaled and costs nothing"
    while not any(getattr(head, "kind", "") == "frame" for head, _ in sent[count:]):
        assert view.has_work(True)
        view.step(True, lambda *_: None)
    info, _ = last_frame(sent)
    assert (info.width, info.samples) == (width, samples), "no coarse one comes between"


def test_a_coarse_picture_is_not_worth_keeping(sent):
    view, engine = opened(sent, samples=64, denoise=False)
    view.step(True, lambda *_: None)
    assert last_frame(sent)[0].flags & frames.COARSE
    view.take_state(PaneState(pane=0, serial=1, width=480, height=300))
    assert view.shown.picture is None
    engine.close()


class AlwaysSlow(Speed):
    """A machine that stays as slow as it is said to be."""

    def learn(self, pixel_samples, seconds):
        pass


def test_when_the_whole_picture_is_far_off_one_in_the_middle_comes_first(sent):
    view, engine = opened(sent, samples=64, denoise=True)
    view._coarse.speed = AlwaysSlow(4e-5, 4e-5)
    view.restart()
    given = []
    while not given:
        view.step(True, lambda _, *job: given.append(job))
    engine.close()
    shown = [frames.unpack_frame(body)[0] for head, body in sent if getattr(head, "kind", "") == "frame"]
    sizes = [info.width for info in shown]
    assert len(sizes) == 3 and sizes[0] == sizes[1], "coarse, the same with more samples, and the one in the middle"
    assert 2 * sizes[0] <= sizes[2] < view.film.width
    assert all(info.flags & frames.COARSE for info in shown) and shown[2].flags & frames.DENOISED
    assert view.film.samples >= 1, "then the whole frame"


def test_all_panes_share_the_memory_for_films(shown):
    """A pane that asks for more than its share is drawn smaller, in the same shape, and knows it."""
    assert within((300, 200), 60_000) == (300, 200)
    width, height = within((3000, 2000), 60_000)
    assert 59_000 < width * height <= 60_000 and width / height == pytest.approx(1.5, rel=0.01)
    view, _ = shown
    assert not view.size.is_limited
    view.size.most_pixels = 20_000
    view.take_state(view.state)
    assert view.film.width * view.film.height <= 20_000 and view.size.is_limited

    host = Host(io.BytesIO(), io.BytesIO())
    for seat in (1, 2, 3):
        state = PaneState(pane=0, serial=0, width=100, height=50)
        host._handle(said.PaneOfSeat(seat=seat, state=state, budget=None))
    a_pixel = film_bytes(1, 1, groups=2)
    assert {pane.size.most_pixels for pane in host._panes.values()} == {FILM_BYTES // a_pixel // 3}
    host._handle(said.Drop(pane="3.0"))
    assert {pane.size.most_pixels for pane in host._panes.values()} == {FILM_BYTES // a_pixel // 2}
