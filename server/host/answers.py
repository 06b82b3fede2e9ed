"""Answers to the questions of a window about what the render host holds.

In: the question, the engine, and the pane it is about, or None while nothing can be said of that. Out: the answer.
Called by the host's loop.
"""

import base64
from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

import numpy as np

from lantern.color import lab_of
from lantern.compile.stock import Foreseen
from lantern.engine.cutting import merged, split
from lantern.engine.engine import Engine, Resolver
from lantern.engine.fidelity import difference_at
from lantern.engine.from_file import through_camera, with_clip
from lantern.engine.measuring import radiance_factor, reflectance
from lantern.engine.possible import doubts
from lantern.engine.press import Press
from lantern.engine.sticking import moved_decal, new_decal
from lantern.motion.focus import focused, set_distance
from lantern.picture.encode import encode_jpeg
from lantern.picture.thumbnail import thumbnail
from lantern.scene.arranging import Operation, about, arranged
from lantern.scene.document import Camera
from lantern.scene.dressing import with_input, with_layer, with_mask, with_relief
from lantern.scene.fields import Box
from lantern.scene.focus import focus_doubts, sharpness
from lantern.scene.framing import fit_camera, focus_through
from lantern.scene.making import Made, Spot, new_light, new_set
from lantern.scene.variants import VariantError
from lantern.scene.wardrobe import of_their_own, without_unworn
from server.host.camera_answers import camera_answer, camera_made
from server.host.fidelity_answers import fidelity_answer
from server.host.light_answers import SIZED, light_answer, made_of
from server.host.look_answers import look_answer, look_made
from server.host.motion_answers import motion_answer
from server.host.pane import Pane
from server.host.still import film_opened, still
from server.host.variant_answers import refused, variant_answer, variant_made
from server.protocol import questions
from server.protocol.cameras import CameraQuestion
from server.protocol.fidelity import FidelityQuestion
from server.protocol.looks import LookQuestion
from server.protocol.motion import MotionQuestion
from server.protocol.takes import HostAnswer, HostQuestion, OpenFilm, Still
from server.protocol.variants import VariantQuestion


def answer(
    question: questions.Question | HostQuestion, engine: Engine, pane: Pane | None, resolve: Resolver
) -> questions.Answer | HostAnswer:
    """The answer, which says null where there is nothing to say; `resolve` finds the document's files."""
    asked = question.request
    match question:
        case Still():
            return still(question, pane)
        case OpenFilm():
            return film_opened(question, pane)
        case questions.Pick():
            return questions.Picked(asked=asked, found=_picked(question, pane) if pane else None)
        case questions.Area():
            parts = pane.engine.parts_within(pane.camera, pane.shape, question.edges) if pane else ()
            return questions.PartsFound(asked=asked, parts=parts)
        case questions.Values():
            return questions.ValuesFound(asked=asked, values=_values(question, pane) if pane else None)
        case questions.Bounds():
            return questions.BoundsFound(asked=asked, box=_box(engine, question.parts) if pane else None)
        case questions.Density():
            foreseen = engine.foreseen(question.parts) if pane else Foreseen()
            return questions.DensityFound(asked=asked, **asdict(foreseen))
        case questions.Fit():
            return questions.Fitted(asked=asked, camera=_fitted(question, engine, pane) if pane else None)
        case questions.MakeLight():
            return _made(asked, _light(question, engine) if pane else None)
        case questions.MakeSet():
            return _made(asked, new_set(engine.scene, question.parts) if pane else None)
        case questions.Arrange():
            return _made(asked, _arranged(question.operation, engine) if pane else None)
        case questions.Cut():
            cut = split if question.how == "split" else merged
            return _made(asked, cut(engine, question.parts) if pane else None)
        case questions.FromFile():
            return _made(asked, _from_file(question, engine, resolve) if pane else None)
        case questions.MakeInput() | questions.MakeLayer() | questions.MakeMask() | questions.MakeRelief():
            return _made(asked, _dressed(question, engine) if pane else None)
        case questions.Stick():
            return _made(asked, _stuck(question, engine, pane) if pane else None)
        case questions.Reflectance():
            return _reflectance(question, engine, pane)
        case questions.DecalShape():
            decal = engine.scene.decals.get(question.decal)
            tall = engine.compiled.shape_of(decal.content) if pane and decal else None
            return questions.ShapeFound(asked=asked, tall=tall)
        case questions.Wardrobe():
            scene = engine.scene
            made = of_their_own(scene, question.parts) if question.how == "own" else without_unworn(scene)
            return _made(asked, made if pane else None)
        case questions.Sharp():
            return _sharp(question, engine, pane)
        case questions.Possible():
            found = doubts(engine.scene, question.materials) if pane else []
            return questions.DoubtsFound(asked=asked, doubts=tuple(questions.DoubtFound(**asdict(d)) for d in found))
        case questions.TextureQuestion():
            return questions.TexturePicture(asked=asked, picture=_texture(question, engine))
        case _ if isinstance(question, LookQuestion):
            said = look_answer(question, engine, pane)
            return said or _made(asked, look_made(question, engine, pane) if pane else None)
        case _ if isinstance(question, CameraQuestion):
            seen = camera_answer(question, engine, pane, resolve)
            return seen or _made(asked, camera_made(question, engine, pane) if pane else None)
        case _ if isinstance(question, VariantQuestion):
            return _of_variants(question, engine, pane, resolve)
        case _ if isinstance(question, MotionQuestion):
            told = motion_answer(question, engine, pane, resolve)
            return _made(asked, told) if told is None or isinstance(told, Made) else told
        case _ if isinstance(question, FidelityQuestion):
            near = fidelity_answer(question, engine, pane, resolve)
            return _made(asked, near) if near is None or isinstance(near, Made) else near
        case _:
            box = _box(engine, None) if pane and isinstance(question, SIZED) else None
            lit = light_answer(question, engine, pane, resolve, box)
            return lit or _made(asked, made_of(question, engine, pane, box) if pane else None)


def _of_variants(question: VariantQuestion, engine: Engine, pane: Pane | None, resolve: Resolver) -> questions.Answer:
    found = variant_answer(question, engine, pane, resolve)
    if found is not None:
        return found
    try:
        return _made(question.request, variant_made(question, engine.scene) if pane else None)
    except (VariantError, KeyError) as error:
        return refused(question, error)


def _values(question: questions.Values, pane: Pane) -> dict[str, Any] | None:
    """Of the pixel, and how far it is from the brand colours of its part."""
    found = pane.values_at(question.x, question.y)
    if found is None or pane.film is None or not pane.view.way.shows_light:
        return found
    column, row = found["pixel"]
    number = int(pane.film.parts()[row, column])
    part = pane.engine.compiled.part_keys[number] if number >= 0 else None
    brands = [brand for brand in pane.engine.scene.brand_colors.values() if part in brand.parts]
    encoding = pane.look.encoding
    differences = [{"name": one.name, "delta_e": difference_at(found["display"], one, encoding)} for one in brands]
    return found | {"brands": differences}


def _picked(question: questions.Pick, pane: Pane) -> questions.Found | None:
    camera, shape = pane.camera, pane.shape
    found = pane.engine.pick(camera, shape, question.x, question.y)
    if found is None:
        return None
    through = focus_through(camera, shape, question.x, question.y, found.depth)
    return questions.Found(**asdict(found), focus=set_distance(camera, through))


def _sharp(question: questions.Sharp, engine: Engine, pane: Pane | None) -> questions.SharpFound:
    if pane is None:
        return questions.SharpFound(asked=question.request)
    camera = focused(engine.shown, pane.camera)
    found = sharpness(camera, pane.shape)
    doubted = focus_doubts(camera, pane.shape, _box(engine, None))
    return questions.SharpFound(
        asked=question.request,
        near=found.near if found else None,
        far=found.far if found else None,
        doubts=tuple(questions.FocusDoubtFound(text=d.text, patch=list(d.patch)) for d in doubted),
    )


def _reflectance(question: questions.Reflectance, engine: Engine, pane: Pane | None) -> questions.ReflectanceFound:
    found: list[questions.Shares | None] = [None, None]
    if pane is not None:
        for place, measure in enumerate((reflectance, radiance_factor)):
            share = measure(engine, pane.camera, pane.shape, question.x, question.y)
            if share is not None:
                found[place] = questions.Shares(linear=share, lab=tuple(lab_of(np.array(share)).tolist()))
    return questions.ReflectanceFound(asked=question.request, even=found[0], here=found[1])


def _box(engine: Engine, parts: tuple[str, ...] | None) -> Box | None:
    """The box around parts, or around all that are visible; None around nothing."""
    low, high = engine.compiled.bounds(None if parts is None else list(parts))
    return (tuple(low), tuple(high)) if bool(low[0] <= high[0]) else None


def _arranged(operation: Operation, engine: Engine) -> Made | None:
    keys = about(operation) or engine.scene.parts
    boxes = {
        key: (low.tolist(), high.tolist())
        for key, (low, high) in engine.compiled.part_boxes(keys).items()
        if bool(low[0] <= high[0])
    }
    return arranged(engine.scene, operation, boxes)


def _fitted(question: questions.Fit, engine: Engine, pane: Pane) -> Camera | None:
    box = _box(engine, question.parts)
    if box is None:
        return None
    low, high = np.asarray(box[0]), np.asarray(box[1])
    return fit_camera(
        pane.camera, low, high, pane.shape, keep_direction=True, side=question.direction, share=question.share
    )


def _made(asked: str, made: Made | None) -> questions.EntryMade:
    return questions.EntryMade(asked=asked, made=questions.NewEntry(**asdict(made)) if made else None)


def _from_file(question: questions.FromFile, engine: Engine, resolve: Resolver) -> Made | None:
    if question.clip is not None:
        return with_clip(engine, question.clip, resolve)
    return None if question.camera is None else through_camera(engine, question.camera)


def _dressed(
    question: questions.MakeInput | questions.MakeLayer | questions.MakeMask | questions.MakeRelief, engine: Engine
) -> Made | None:
    """None when one of the materials, or the layer, or a part, is gone."""
    scene = engine.scene
    try:
        match question:
            case questions.MakeInput(materials=materials):
                extent = _extent(engine, materials)
                return with_input(scene, materials, question.parameter, question.kind, extent)
            case questions.MakeLayer(materials=materials):
                return with_layer(scene, materials, question.over, _extent(engine, materials))
            case questions.MakeMask(material=material):
                extent = _extent(engine, (material,))
                return with_mask(scene, material, question.layer, question.which, question.kind, extent)
            case questions.MakeRelief(parts=parts):
                return with_relief(scene, parts, question.kind, _extent_of(engine, parts))
    except LookupError:
        return None


def _extent(engine: Engine, materials: Sequence[str]) -> float:
    """Length [m] of what wears some materials, in the middle."""
    return _extent_of(engine, [key for key, part in engine.scene.parts.items() if part.material in materials])


def _extent_of(engine: Engine, parts: Sequence[str]) -> float:
    sizes = [max(np.subtract(high, low)) for low, high in engine.compiled.part_boxes(parts).values()]
    return float(np.median(sizes)) if sizes else 0.1


def _stuck(question: questions.Stick, engine: Engine, pane: Pane) -> Made | None:
    """None where nothing is picked."""
    press = Press(pane.camera, pane.shape, question.x, question.y)
    if question.decal is None:
        return new_decal(engine, question.kind, press)
    return moved_decal(engine, question.decal, press)


def _light(question: questions.MakeLight, engine: Engine) -> Made:
    over = None if question.over is None else Spot(**question.over.model_dump())
    return new_light(engine.scene, question.kind, _box(engine, None), over)


def _texture(question: questions.TextureQuestion, engine: Engine) -> str | None:
    """Address of a small picture of a texture."""
    textures = engine.textures
    if question.texture >= len(textures):
        return None
    small = thumbnail(textures[question.texture].texels, question.channel)
    return f"data:image/jpeg;base64,{base64.b64encode(encode_jpeg(small)).decode()}"
