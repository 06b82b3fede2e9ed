"""What a pane answers about looks, shots, focus, exposure and layouts, over a real engine."""

import base64
import io

import numpy as np
import pytest
from PIL import Image

from lantern.scene.document import Camera, Material, Part, Scene
from lantern.scene.forms import BallForm
from lantern.scene.look import Look
from lantern.scene.model import FileRef
from lantern.scene.patching import apply_operations
from lantern.scene.reading import read_scene
from server.host.answers import answer
from server.protocol import cameras, looks
from tests.server.panes import ask, opened


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
