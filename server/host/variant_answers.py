"""Answers to the questions of a window about variants and editions.

In: the question, the engine, the pane it is about. Out: the answer. Called by `answers`.
"""

from lantern.engine.engine import Engine, Resolver
from lantern.engine.relighting import lit_picture
from lantern.picture.encode import encode_jpeg
from lantern.scene import variants
from lantern.scene.document import Scene
from lantern.scene.making import Made
from lantern.scene.patching import apply_operations
from lantern.scene.reading import read_scene
from lantern.scene.worn_apart import edition_worn
from server.host.look_answers import data_address
from server.host.pane import Pane
from server.protocol import variants as asked_of_variants
from server.protocol.looks import LookSeen
from server.protocol.parts import NotMade

SAID = 6
"""Sentences about a variant."""


def variant_made(question: asked_of_variants.VariantQuestion, scene: Scene) -> Made | None:
    """The patch that a question asks for; None for one that asks for none. Raises VariantError, or KeyError for a group
    that is gone."""
    match question:
        case asked_of_variants.BeginVariants():
            return variants.begun(scene)
        case asked_of_variants.TakeVariant():
            return variants.taken(scene, {question.group: question.variant})
        case asked_of_variants.TakeDefaults():
            return variants.defaults_taken(scene)
        case asked_of_variants.RewriteVariant():
            return variants.rewritten(scene, question.group, everywhere=question.everywhere)
        case asked_of_variants.KeepEdition():
            return variants.kept_edition(scene)
        case asked_of_variants.TakeEdition():
            if question.copies:
                return edition_worn(scene, question.edition, [key for key in question.copies if key in scene.parts])
            return variants.edition_taken(scene, question.edition)
    return None


def variant_answer(
    question: asked_of_variants.VariantQuestion, engine: Engine, pane: Pane | None, resolve: Resolver
) -> LookSeen | asked_of_variants.VariantAnswer | None:
    """The answer of a question that does not ask for a patch; None for one that does."""
    match question:
        case asked_of_variants.EditionPicture():
            return _seen(question, engine, pane, resolve)
        case asked_of_variants.VariantsStanding():
            return _standing(question, engine.scene)
    return None


def refused(question: asked_of_variants.VariantQuestion, error: Exception) -> NotMade:
    """Says why a patch cannot be had."""
    said = str(error) if isinstance(error, variants.VariantError) else "These variants are gone."
    return NotMade(asked=question.request, problem=said)


def _standing(question: asked_of_variants.VariantsStanding, scene: Scene) -> asked_of_variants.StandingFound:
    now, counted = variants.present(scene), variants.combinations(scene)
    against = [
        (key, each)
        for key, group in scene.variant_groups.items()
        for each in group.variants
        if each != now.get(key) and variants.forbidden(scene, {**now, key: each})
    ]
    return asked_of_variants.StandingFound(
        asked=question.request,
        edition=variants.edition_on(scene),
        changed=tuple(key for key in scene.variant_groups if variants.differing(scene, key)),
        against=tuple(against),
        words={
            key: {each: _words(scene, key, each) for each in one.variants} for key, one in scene.variant_groups.items()
        },
        combinations=counted.all,
        allowed=counted.allowed,
    )


def _words(scene: Scene, group: str, variant: str) -> tuple[str, ...]:
    """The first few sentences, and how many more there are."""
    said = variants.words_of(scene, group, variant)
    more = len(said) - SAID
    return (*said[:SAID], *((f"and {more} more",) if more > 0 else ()))


def _seen(question: asked_of_variants.EditionPicture, engine: Engine, pane: Pane | None, resolve: Resolver) -> LookSeen:
    """None where it cannot be shown beside what is open: another asset, or a rule against it."""
    if pane is None:
        return LookSeen(asked=question.request, picture=None)
    scene = engine.scene
    try:
        made = variants.edition_taken(scene, question.edition)
        seen = read_scene(apply_operations(scene.plain(), made.patch)[0])
        picture = lit_picture(engine, seen, pane.camera, pane.shape, resolve)
    except ValueError:
        return LookSeen(asked=question.request, picture=None)
    address = None if picture is None else data_address(encode_jpeg(picture), "jpeg")
    return LookSeen(asked=question.request, picture=address, later=address is None)
