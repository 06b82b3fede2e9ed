"""Answers to the questions of a window about brand colours.

In: the question, the engine, the pane it is about. Out: the answer. Called by `answers`.
"""

from dataclasses import asdict

from lantern.engine.engine import Engine
from lantern.engine.fidelity import (
    deviation,
    deviation_in,
    even_color,
    even_deviation,
    nearest_base_color,
    pixels_of,
)
from lantern.engine.own_images import Resolver
from lantern.scene.brand import MOST, BrandColor, read_brand, tied
from lantern.scene.cxf import BrandError
from lantern.scene.document import Scene
from lantern.scene.keys import free_key
from lantern.scene.making import Made
from lantern.scene.orders import Combination, OrderError, document_of
from lantern.scene.patching import replaced
from lantern.scene.variants import VariantError
from server.host.pane import Pane
from server.protocol.fidelity import Fidelity, FidelityFound, FidelityQuestion, NearestBase, ReadBrand
from server.protocol.parts import NotMade

GONE = "This brand colour is gone."
INTERRUPTED = "Something else was wanted meanwhile: ask again."
UNSEEN = "Too little is seen of the parts that have this colour: turn to them first."


def fidelity_answer(
    question: FidelityQuestion, engine: Engine, pane: Pane | None, resolve: Resolver
) -> FidelityFound | NotMade | Made | None:
    """What is found, why not, or the patch that is asked for; None before there is a picture."""
    if pane is None:
        return FidelityFound(asked=question.request) if isinstance(question, Fidelity) else None
    try:
        match question:
            case ReadBrand():
                return _read(question, engine.scene)
            case NearestBase():
                return _nearest(question, engine, pane, resolve)
            case Fidelity():
                return _found(question, engine, pane, resolve)
    except (BrandError, OrderError, VariantError) as error:
        said = str(error)
        if isinstance(question, Fidelity):
            return FidelityFound(asked=question.request, problem=said)
        return NotMade(asked=question.request, problem=said[:1].upper() + said[1:])


def _brand(scene: Scene, key: str) -> BrandColor:
    brand = scene.brand_colors.get(key)
    if brand is None:
        raise BrandError(GONE)
    return brand


def _read(question: ReadBrand, scene: Scene) -> Made:
    found = read_brand(question.text, question.name.strip())
    if len(scene.brand_colors) + len(found) > MOST:
        raise BrandError(f"there can be {MOST} brand colours, and these would be more: remove some first.")
    taken, patch, first = dict(scene.brand_colors), [], ""
    for brand in found:
        # Of several in a file nobody can tell whose they are.
        own = tied(brand, question.parts) if len(found) == 1 else brand
        key, _ = free_key(taken, "brand")
        taken[key], first = own, first or key
        patch.append({"op": "add", "path": f"/brand_colors/{key}", "value": own.model_dump(mode="json")})
    label = f"Brand colour {found[0].name}" if len(found) == 1 else f"{len(found)} brand colours"
    return Made(first, label[:200], patch)


def _found(question: Fidelity, engine: Engine, pane: Pane, resolve: Resolver) -> FidelityFound:
    asked, brand = question.request, _brand(engine.scene, question.brand)
    if question.edition is not None or question.conditions is not None:
        wanted = Combination(question.edition, None, question.conditions)
        scene = document_of(engine.scene, wanted)
        lit, made = deviation_in(engine, scene, pane.camera, pane.shape, brand, resolve)
        return FidelityFound(asked=asked, later=not made, **(asdict(lit) if lit else {}))
    shown = pane.displayed()
    film = pane.film
    here = None
    if shown is not None and film is not None and pane.view.way.shows_light and shown.shape[:2] == film.parts().shape:
        here = deviation(shown, pixels_of(pane.engine, film, brand.parts), brand, pane.look.encoding)
    pane.engine.ready()
    even = even_color(pane.engine, pane.camera, pane.shape, brand.parts)
    if even is None and pane.engine.must_give_way():
        return FidelityFound(asked=asked, later=True)
    return FidelityFound(
        asked=asked, even=None if even is None else even_deviation(even, brand), **(asdict(here) if here else {})
    )


def _nearest(question: NearestBase, engine: Engine, pane: Pane, resolve: Resolver) -> Made:
    scene = engine.scene
    brand = _brand(scene, question.brand)
    worn = list(dict.fromkeys(scene.parts[key].material for key in brand.parts if key in scene.parts))
    if len(worn) != 1:
        raise BrandError("tie this colour to parts that wear one material: each material has a base colour of its own")
    found = nearest_base_color(engine, pane.camera, pane.shape, brand, worn[0], resolve)
    if found is None:
        raise BrandError(INTERRUPTED if engine.must_give_way() else UNSEEN)
    label = f"{scene.materials[worn[0]].name}: {brand.name}, ΔE {found.left:.1f} in even light"
    return Made(worn[0], label[:200], [replaced(f"/materials/{worn[0]}/base_color", list(found.color))])
