"""Panes over a real engine, for tests: opened, looked at otherwise, edited, asked."""

from lantern.engine.engine import Engine
from lantern.scene.document import Scene
from lantern.scene.look import Look
from server.host import pane
from server.host.answers import answer
from server.protocol.panes import PaneState


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


def expose(view, engine, value):
    before = engine.scene
    scene = before.model_copy(update={"look": before.look.model_copy(update={"exposure": value})})
    change = engine.apply(scene, None)
    view.take_document(before, change.restarts, 2, 1)


def looked(view, engine, **look):
    before = engine.scene
    scene = before.model_copy(update={"look": Look.model_validate(look)})
    change = engine.apply(scene, None)
    view.take_document(before, change.restarts, 2, 1)


def state_of(view, **changes):
    view.take_state(view.state.model_copy(update={"serial": view.state.serial + 1, **changes}))


def settle(view):
    while not view.settled:
        view.step(True, lambda *_: None)
    return view.film


def edited(view, engine, **sections):
    before = engine.scene
    change = engine.apply(before.model_copy(update=sections), None)
    view.take_document(before, change.restarts, 3, 2)


def ask(view, engine, question):
    return answer(question, engine, view, None)
