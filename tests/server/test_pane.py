"""One pane over a real engine: what it sends when only the look changes."""

import base64
import io

import numpy as np
import pytest
from PIL import Image

from lantern.compile.view import Way
from lantern.engine.engine import Engine
from lantern.film.film import film_bytes
from lantern.scene.document import Camera, Material, Part, Scene
from lantern.scene.forms import BallForm
from lantern.scene.look import EFFECTS, Look
from lantern.scene.model import FileRef
from lantern.scene.patching import apply_operations
from lantern.scene.reading import read_scene
from lantern.scene.surroundings import Ground
from server.host import pane
from server.host import shown as shown_module
from server.host.answers import answer
from server.host.ladder import Speed, within
from server.host.loop import FILM_BYTES, Host
from server.protocol import cameras, frames, looks, takes
from server.protocol import host as said
from server.protocol.panes import PaneState


@pytest.fixture
def sent():
    return []


def no_file(reference):
    raise FileNotFoundError(reference.name)


def opened(sent, **proof):
    """A pane on an empty scene."""
    engine = Engine(1)
    scene = Scene()
    engine.open(scene.model_copy(update={"proof": scene.proof.model_copy(update=proof)}), None)
    view = pane.Pane("1.0", 1, engine, lambda head, body: sent.append((head, body)), no_file)
    view.take_state(PaneState(pane=0, serial=0, width=320, height=200))
    return view, engine


@pytest.fixture
def shown(sent):
    """A pane that has settled."""
    view, engine = opened(sent, samples=4, denoise=False)
    while not view.settled:
        view.step(True, lambda *_: None)
    yield view, engine
    engine.close()


@pytest.fixture
def awaited(sent):
    """A pane whose first picture of the whole frame is with the denoiser, and what the denoiser was given."""
    view, engine = opened(sent, samples=64, denoise=True)
    given = []
    while not given:
        assert view.has_work(True)
        view.step(True, lambda _, *job: given.append(job))
    yield view, engine, given
    engine.close()


def expose(view, engine, value):
    before = engine.scene
    scene = before.model_copy(update={"look": before.look.model_copy(update={"exposure": value})})
    change = engine.apply(scene, None)
    view.take_document(before, change.restarts, 2, 1)


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


def looked(view, engine, **look):
    before = engine.scene
    scene = before.model_copy(update={"look": Look.model_validate(look)})
    change = engine.apply(scene, None)
    view.take_document(before, change.restarts, 2, 1)


def test_no_effect_of_the_look_traces_a_ray(shown, sent):
    view, engine = shown
    rays = engine.ray_counts().rays
    plain = view.displayed()
    looked(view, engine, **EVERY)
    assert engine.ray_counts().rays == rays
    assert np.abs(view.displayed().astype(int) - plain).max() > 20


def state_of(view, **changes):
    view.take_state(view.state.model_copy(update={"serial": view.state.serial + 1, **changes}))


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


def settle(view):
    while not view.settled:
        view.step(True, lambda *_: None)
    return view.film


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


def edited(view, engine, **sections):
    before = engine.scene
    change = engine.apply(before.model_copy(update=sections), None)
    view.take_document(before, change.restarts, 3, 2)


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


def ask(view, engine, question):
    return answer(question, engine, view, None)


def test_a_look_is_shown_small_on_what_is_seen_and_taken_as_much_as_is_said(shown, sent):
    view, engine = shown
    rays = engine.ray_counts().rays
    mono = Look.model_validate({"monochrome": {"enabled": True}, "exposure": 5.0})
    seen = ask(view, engine, looks.LookPicture(type="look_picture", pane=0, look=mono, request="1"))
    assert seen.picture.startswith("data:image/jpeg;base64,") and engine.ray_counts().rays == rays
    asked = looks.TakeLook(type="take_look", pane=0, name="Mono", look=mono, amount=0.5, request="2")
    made = ask(view, engine, asked).made
    assert [step["path"] for step in made.patch] == ["/look/monochrome"], "exposure is of the light that is there"
    assert made.patch[0]["value"]["amount"] == 0.5
    kept = ask(view, engine, looks.KeepLook(type="keep_look", pane=0, name="Mine", request="3"))
    assert kept.look == engine.scene.look
    scopes = ask(view, engine, looks.ScopesWanted(type="scopes", pane=0, request="4"))
    assert scopes.waveform.startswith("data:image/png") and scopes.vectorscope.startswith("data:image/png")


def test_a_shot_is_kept_seen_and_taken_again(shown, sent):
    view, engine = shown
    kept = ask(view, engine, cameras.KeepShot(type="keep_shot", pane=0, request="1")).made
    scene = read_scene(apply_operations(engine.scene.plain(), kept.patch)[0])
    other = scene.camera.model_copy(update={"focal_length": 35.0})
    scene = scene.model_copy(update={"camera": other})
    engine.apply(scene, None)
    seen = ask(view, engine, cameras.ShotPicture(type="shot_picture", pane=0, shot=kept.key, request="2"))
    assert seen.picture is not None and engine.scene.camera == other
    back = ask(view, engine, cameras.TakeShot(type="take_shot", pane=0, shot=kept.key, request="3")).made
    assert read_scene(apply_operations(scene.plain(), back.patch)[0]).camera.focal_length == 70.0
    gone = cameras.TakeShot(type="take_shot", pane=0, shot="gone", request="4")
    assert ask(view, engine, gone).made is None


def test_the_focus_follows_what_is_pressed_and_lies_between_two_places(sent):
    view, engine = opened(sent)
    ball = Part(name="Ball", material="m", form=BallForm(radius=0.1), offset=(0.0, -0.1, 0.0))
    camera = Camera(position=(0, 0, 1), target=(0, 0, 0), focal_length=50, f_number=2.0)
    scene = Scene(parts={"ball": ball}, materials={"m": Material(name="M")}, camera=camera)
    scene = scene.model_copy(update={"ground": scene.ground.model_copy(update={"enabled": False})})
    engine.open(scene, None)

    def camera_after(question):
        made = ask(view, engine, question).made
        return None if made is None else read_scene(apply_operations(engine.scene.plain(), made.patch)[0]).camera

    pressed = cameras.FollowFocus(type="follow_focus", pane=0, at=(0.5, 0.5), request="1")
    camera = camera_after(pressed)
    assert camera.focus_on.part == "ball" and camera.focus_distance == pytest.approx(0.9, abs=1e-3)
    engine.apply(engine.scene.model_copy(update={"camera": camera}), None)
    view.take_document(engine.scene, True, 2, 2)
    free = camera_after(cameras.FollowFocus(type="follow_focus", pane=0, at=None, request="2"))
    assert free.focus_on is None and free.focus_distance == pytest.approx(0.9, abs=1e-3)
    assert camera_after(cameras.FollowFocus(type="follow_focus", pane=0, at=(0.01, 0.01), request="3")) is None
    ends = {"near": (0.5, 0.5), "far": (0.5, 0.58)}
    between = camera_after(cameras.FocusBetween(type="focus_between", pane=0, request="4", **ends))
    assert between.focus_on is None and 0.9 < between.focus_distance < 1.0 and between.f_number != camera.f_number
    nothing = {"near": (0.5, 0.5), "far": (0.01, 0.01)}
    assert camera_after(cameras.FocusBetween(type="focus_between", pane=0, request="5", **nothing)) is None


def test_exposure_goes_over_to_the_shutter_and_back_as_bright_and_traces_nothing(shown, sent):
    view, engine = shown
    before, rays = view.displayed(), engine.ray_counts().rays
    for how in ("shutter", "ev"):
        made = ask(view, engine, cameras.ExposeBy(type="expose_by", pane=0, how=how, request=how)).made
        scene, known = read_scene(apply_operations(engine.scene.plain(), made.patch)[0]), engine.scene
        change = engine.apply(scene, None)
        view.take_document(known, change.restarts, 3, 3)
        assert not change.restarts and np.abs(view.displayed().astype(int) - before).max() <= 1
        assert (engine.scene.camera.exposure_time is not None) == (how == "shutter")
    assert engine.ray_counts().rays == rays


def test_a_photograph_is_matched_or_it_is_said_why_not(shown, sent):
    view, engine = shown
    lines = {"along": ((0.22, 0.62, 0.5, 0.86), (0.5, 0.5, 0.8, 0.66)),
             "across": ((0.8, 0.66, 0.5, 0.86), (0.5, 0.5, 0.22, 0.62))}  # fmt: skip
    found = ask(view, engine, cameras.MatchView(type="match_view", pane=0, foot=(0.5, 0.6), request="1", **lines))
    assert found.problem is None and found.camera.focal_length != engine.scene.camera.focal_length
    lines["along"] = (lines["along"][0],) * 2
    found = ask(view, engine, cameras.MatchView(type="match_view", pane=0, foot=(0.5, 0.6), request="2", **lines))
    assert found.camera is None and "are one" in found.problem


def test_the_drawing_of_a_layout_is_shown_small_and_one_that_is_gone_is_said(shown, sent, tmp_path):
    view, engine = shown
    asked = cameras.LayoutPicture(type="layout_picture", pane=0, request="1")
    assert ask(view, engine, asked).picture is None
    file = FileRef(sha256="2" * 64, name="layout.png")
    path = tmp_path / "layout.png"
    drawn = np.zeros((30, 5000, 4), np.uint8)
    drawn[:, :100] = 255
    Image.fromarray(drawn).save(path)
    engine.apply(engine.scene.model_copy(update={"layout": file}), None)
    seen = answer(asked, engine, view, lambda _: path)
    picture = Image.open(io.BytesIO(base64.b64decode(seen.picture.split(",")[1])))
    assert picture.mode == "RGBA" and max(picture.size) == 2048 and picture.getpixel((2000, 5))[3] == 0
    path.write_bytes(b"no picture")
    assert "layout.png" in answer(asked, engine, view, lambda _: path).problem


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
