"""Answers to the questions of a window about the look.

In: the question, the engine, the pane it is about. Out: the answer. Called by `answers`.
"""

import base64

import numpy as np

from lantern.engine.engine import Engine
from lantern.picture.encode import block_means, encode_jpeg, encode_png
from lantern.picture.look.files import views_of
from lantern.picture.look.pipeline import Finisher
from lantern.picture.scopes import vectorscope, waveform
from lantern.scene import looks
from lantern.scene.making import Made, new_local
from server.host.pane import Pane
from server.protocol import looks as asked_of_look

WIDTH = 228
"""Pixels of a small picture across, at least."""


def look_made(question: asked_of_look.LookQuestion, engine: Engine, pane: Pane) -> Made | None:
    """The patch that a question asks for; None where it cannot be had, or is no question of a patch."""
    match question:
        case asked_of_look.TakeLook():
            return looks.taken(engine.scene, question.name, question.look, question.amount)
        case asked_of_look.MakeLocal():
            return new_local(engine.scene, question.kind, question.parts)
    return None


def look_answer(
    question: asked_of_look.LookQuestion, engine: Engine, pane: Pane | None
) -> asked_of_look.LookAnswer | None:
    """The answer of a question that does not ask for a patch; None for one that does."""
    asked = question.request
    match question:
        case asked_of_look.LookPicture():
            shown = _with(question, engine, pane) if pane else None
            picture = None if shown is None else data_address(encode_jpeg(shown), "jpeg")
            return asked_of_look.LookSeen(asked=asked, picture=picture, later=picture is None)
        case asked_of_look.KeepLook():
            return asked_of_look.LookKept(asked=asked, look=looks.kept_look(engine.scene) if pane else None)
        case asked_of_look.ScopesWanted():
            seen = pane.displayed() if pane else None
            if seen is None:
                return asked_of_look.ScopesFound(asked=asked, waveform=None, vectorscope=None)
            drawn = (data_address(encode_png(draw(seen)), "png") for draw in (waveform, vectorscope))
            return asked_of_look.ScopesFound(asked=asked, waveform=next(drawn), vectorscope=next(drawn))
        case asked_of_look.TransformNames():
            return _names(asked, engine)
    return None


def _names(asked: str, engine: Engine) -> asked_of_look.NamesFound:
    path = engine.look_files.config
    if path is None:
        return asked_of_look.NamesFound(asked=asked, displays=None)
    displays, named = views_of(path)
    return asked_of_look.NamesFound(asked=asked, displays=displays, looks=named)


def _with(question: asked_of_look.LookPicture, engine: Engine, pane: Pane) -> np.ndarray | None:
    """(h, w, 3) uint8 of what the pane shows, small, with another look."""
    light = pane.light()
    if light is None:
        return None
    small = block_means(light, max(light.shape[1] // WIDTH, 1))
    look = looks.with_look(engine.scene, question.look)
    return Finisher().bytes_of(small, look, engine.surround(None, clean=True, camera=pane.camera))


def data_address(data: bytes, kind: str) -> str:
    return f"data:image/{kind};base64,{base64.b64encode(data).decode()}"
