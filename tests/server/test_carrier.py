"""The first picture of an edit: what of the last whole one is carried over, and that it stays for a moment."""

import numpy as np
import pytest

from lantern.engine.engine import Engine
from lantern.film.carried import carried_over
from lantern.scene.document import Camera, Material
from lantern.scene.lights import RectangleLight
from server.host import pane
from server.host.carrier import only_relit
from server.protocol import frames
from server.protocol.panes import PaneState
from tests.core.shapes import no_files, one_part


@pytest.fixture
def view():
    """A pane that shows a ball, denoised and whole."""
    engine = Engine(1)
    scene, asset = one_part(Material(name="m", base_color=(0.6, 0.3, 0.2)), ground=True)
    scene = scene.model_copy(update={"proof": scene.proof.model_copy(update={"samples": 4, "denoise": True})})
    engine.open(scene, no_files, asset)
    sent = []
    shown = pane.Pane("1.0", 1, engine, lambda head, body: sent.append((head, body)))
    shown.take_state(PaneState(pane=0, serial=0, width=320, height=200))
    finish(shown, engine)
    yield shown, engine, sent
    engine.close()


def finish(shown, engine):
    """Step until the picture has settled, denoising at once what is asked for."""

    def denoise(target, means, quality, flags, region):
        picture = engine.develop(target.film, denoise=quality)
        target.developed(picture, target.generation, means.samples, flags, region)

    while shown.has_work(True):
        shown.step(True, denoise)


def edit(shown, engine, **changes):
    """Apply an edit and make its first picture; returns the header and how far it is from the finished one [RMS]."""
    before = engine.scene
    change = engine.apply(before.model_copy(update=changes), no_files)
    shown.take_document(before, change.restarts, 2, 1)
    shown.step(True, lambda *_: pytest.fail("the first picture is not denoised beside"))
    return shown.shown.flags, shown.shown.picture.radiance


def brass(scene):
    return {"materials": {"m": scene.materials["m"].model_copy(update={"base_color": (0.8, 0.6, 0.2)})}}


def test_a_change_of_colour_keeps_the_detail_of_the_whole_picture(view):
    shown, engine, _ = view
    flags, first = edit(shown, engine, **brass(engine.scene))
    assert flags & frames.COARSE and first.shape[:2] == (100, 160), "half the frame, sharper than any coarse picture"
    finish(shown, engine)
    whole = shown.shown.picture.radiance
    blocks = whole.reshape(100, 2, 160, 2, 3).mean((1, 3))
    assert np.sqrt(((first - blocks) ** 2).mean()) < 0.03 * blocks.mean()
    assert shown.shown.is_settled and not shown.shown.is_coarse


def test_a_move_of_the_camera_shows_a_coarse_picture_denoised(view):
    shown, engine, _ = view
    camera = engine.scene.camera.model_copy(update={"position": (0.3, 0.2, 1.0)})
    flags, first = edit(shown, engine, camera=camera)
    assert flags == frames.COARSE | frames.DENOISED and not shown._carrier.carries
    assert first.shape[:2] == (shown._coarse.height, shown._coarse.width), "the coarse picture itself"


def test_what_is_carried_over_counts_no_sample_and_is_carried_from_the_whole_picture_again(view):
    """A drag of ten edits: each is set against the last whole picture, not against the one before."""
    shown, engine, _ = view
    for step in range(10):
        colour = (0.3 + 0.05 * step, 0.3, 0.2)
        _, first = edit(
            shown, engine, materials={"m": engine.scene.materials["m"].model_copy(update={"base_color": colour})}
        )
    assert shown.done == 0
    finish(shown, engine)
    blocks = shown.shown.picture.radiance.reshape(100, 2, 160, 2, 3).mean((1, 3))
    assert np.sqrt(((first - blocks) ** 2).mean()) < 0.03 * blocks.mean()


def test_only_light_and_materials_may_differ():
    scene, _ = one_part(Material(name="m"), ground=True)
    part = scene.parts["part"]
    relit = [
        brass(scene),
        {"lights": {"l": RectangleLight(name="l")}},
        {"environment": scene.environment.model_copy(update={"rotation": 20.0})},
        {"haze": scene.haze.model_copy(update={"enabled": True})},
    ]
    moved = [
        {"parts": {"part": part.model_copy(update={"matrix": (2.0, *part.matrix[1:])})}},
        {"parts": {"part": part.model_copy(update={"visible": False})}},
        {"parts": {}},
        {"ground": scene.ground.model_copy(update={"height": 0.1})},
        {"shutter": scene.shutter.model_copy(update={"time": 1.0})},
    ]
    assert all(only_relit(scene, scene.model_copy(update=change)) for change in relit)
    assert not any(only_relit(scene, scene.model_copy(update=change)) for change in moved)


def test_where_the_old_picture_is_black_the_new_coarse_one_stands():
    whole, before = np.zeros((8, 8, 3), np.float32), np.zeros((4, 4, 3), np.float32)
    after = np.full((4, 4, 3), 2.0, np.float32)
    assert carried_over(whole, before, after) == pytest.approx(2.0)
    bright = np.full((8, 8, 3), 3.0, np.float32)
    assert carried_over(bright, after, after) == pytest.approx(3.0), "nothing has changed, nothing does"
    assert carried_over(bright, after, after * 1.5) == pytest.approx(4.5, rel=0.02)
    assert carried_over(bright, after, after * 100) == pytest.approx(200), "a wild ratio is not believed"


def test_another_camera_of_the_pane_is_not_carried(view):
    shown, _, sent = view
    own = Camera(position=(0.5, 0.5, 1), target=(0, 0, 0)).model_dump(mode="json")
    shown.take_state(PaneState(pane=0, serial=1, width=320, height=200, camera=own))
    shown.step(True, lambda *_: None)
    header = next(frames.unpack_frame(body)[0] for head, body in reversed(sent) if getattr(head, "kind", "") == "frame")
    assert header.flags & frames.COARSE and not shown._carrier.carries
