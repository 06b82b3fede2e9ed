"""Questions about brand colours, with a real engine behind a pane."""

import asyncio

import numpy as np
import pytest

from lantern.scene.brand import BrandColor as Brand
from lantern.scene.patching import apply_operations
from lantern.scene.reading import read_scene
from server.host.answers import answer
from server.protocol.fidelity import Fidelity, NearestBase, ReadBrand
from server.protocol.questions import Values
from tests.core.test_brand import CAMERA, CXF, ball
from tests.server.panes import opened
from tests.server.test_viewport import is_type, joined, leave, look, until


@pytest.fixture
def painted():
    """A pane on a ball of grey paint that fills much of the picture, with its first whole picture shown."""
    view, engine = opened([])
    scene = ball(base_color=(0.4, 0.4, 0.4))
    proof = scene.proof.model_copy(update={"samples": 4, "denoise": False})
    engine.open(scene.model_copy(update={"proof": proof}), None)
    view.take_state(view.state.model_copy(update={"camera": CAMERA}))
    yield view, engine
    engine.close()


def ask(view, engine, question):
    return answer(question, engine, view, None)


def put(engine, made):
    engine.apply(read_scene(apply_operations(engine.scene.plain(), made.patch)[0]), None)


def read(view, engine, text, *parts):
    return ask(view, engine, ReadBrand(type="read_brand", pane=0, text=text, parts=parts, request="r"))


def fidelity(view, engine, brand, **under):
    return ask(view, engine, Fidelity(type="fidelity", pane=0, brand=brand, request="f", **under))


def nearest(view, engine, brand):
    return ask(view, engine, NearestBase(type="nearest_base", pane=0, brand=brand, request="n"))


def test_a_colour_is_tied_measured_and_reached(painted):
    view, engine = painted
    made = read(view, engine, "#b08060", "ball").made
    assert made.label == "Brand colour #b08060"
    put(engine, made)
    before = fidelity(view, engine, made.key)
    assert before.even > 8
    better = nearest(view, engine, made.key).made
    assert better.label.startswith("Paint: #b08060, ΔE") and [step["path"] for step in better.patch] == [
        "/materials/paint/base_color"
    ]
    put(engine, better)
    after = fidelity(view, engine, made.key)
    assert after.even < 1
    while not view.settled:
        view.step(True, lambda *started: None)
    shown = fidelity(view, engine, made.key)
    assert shown.typical is not None and shown.typical <= shown.worst


def test_under_the_pointer_it_is_said_how_far_a_pixel_is_from_its_brand(painted):
    view, engine = painted
    while not view.settled:
        view.step(True, lambda *started: None)
    rows, columns = np.nonzero(view.film.parts() == 0)
    ball = (columns.mean() / view.film.width, rows.mean() / view.film.height)

    def at(place):
        return ask(view, engine, Values(type="values", pane=0, x=place[0], y=place[1], request="v"))

    inside, beside = at(ball), at((0.01, 0.01))
    assert inside.values["brands"] == beside.values["brands"] == [], "it has none yet"
    shown = inside.values["display"]
    put(engine, read(view, engine, "#" + bytes(shown).hex(), "ball").made)
    put(engine, read(view, engine, "#3060c0", "ball").made)
    view.step(True, lambda *started: None)
    inside, beside = at(ball), at((0.01, 0.01))
    same, other = inside.values["brands"]
    assert same["delta_e"] < 0.01 and other["name"] == "#3060c0" and other["delta_e"] > 20
    assert beside.values["brands"] == [], "beside the ball it is of nothing"


def test_a_file_of_several_ties_none_of_them(painted):
    view, engine = painted
    made = read(view, engine, CXF, "ball").made
    assert made.label == "3 brand colours"
    put(engine, made)
    assert [(one.name, one.parts) for one in engine.scene.brand_colors.values()] == [
        ("Ember", ()), ("Slate", ()), ("c3", ()),
    ]  # fmt: skip
    assert fidelity(view, engine, made.key).even is None


def test_what_cannot_be_had_is_said(painted):
    view, engine = painted
    assert "Is no colour" in read(view, engine, "mauve").problem.replace("'mauve' is", "Is")
    assert fidelity(view, engine, "brand-9").problem == "This brand colour is gone."
    assert nearest(view, engine, "brand-9").problem == "This brand colour is gone."
    put(engine, read(view, engine, "#888888").made)
    assert "wear one material" in nearest(view, engine, "brand-1").problem
    put(engine, read(view, engine, "#888888", "other").made)
    assert "turn to them first" in nearest(view, engine, "brand-2").problem
    assert "gone: choose again" in fidelity(view, engine, "brand-1", edition="gone").problem
    put(engine, read(view, engine, CXF).made)
    full = {f"brand-{k}": engine.scene.brand_colors["brand-1"] for k in range(64)}
    engine.apply(engine.scene.model_copy(update={"brand_colors": full}), None)
    assert "there can be 64" in read(view, engine, "#888888").problem.lower()


@pytest.mark.django_db(transaction=True)
async def test_a_search_is_not_ended_by_other_questions(people, project):
    """A pointer that moves over the picture asks about each pixel."""
    scene = ball(base_color=(0.4, 0.4, 0.4))
    made = Brand(name="Ember", lab=(60.0, 20.0, 30.0), parts=("ball",))
    kept = scene.model_copy(update={"brand_colors": {"brand-1": made}, "camera": CAMERA})
    project.scene = kept.model_dump(mode="json")
    await project.asave()
    socket = await joined(people, project)
    try:
        await look(socket)
        await until(socket, lambda message: isinstance(message, tuple))
        await socket.send_json_to({"type": "nearest_base", "pane": 0, "brand": "brand-1", "request": "n"})
        for _ in range(100):
            await socket.send_json_to({"type": "values", "pane": 0, "x": 0.5, "y": 0.5, "request": "v"})
            await asyncio.sleep(0.005)
        found = await until(socket, lambda message: isinstance(message, dict) and message.get("asked") == "n")
        assert found["type"] != "not_made", found
        await until(socket, is_type("values"))
    finally:
        await leave(socket)
