"""A pair: panes that show the document under an edition, other light or a shot, beside the document as it is."""

import numpy as np
import pytest
from channels.db import database_sync_to_async
from PIL import Image

from lantern.engine.engine import Engine
from lantern.scene.editing import Document
from lantern.scene.orders import Combination, OrderError, document_of, shown_under
from lantern.scene.patching import apply_operations
from lantern.scene.reading import read_scene
from server.host.siblings import MOST, PLAIN, Siblings, TooMany
from server.takes.models import Take
from tests.core.test_orders import furnished
from tests.server.test_viewport import is_type, joined, leave, look, until

pytestmark = pytest.mark.django_db(transaction=True)


def keys_of(scene):
    return {one.name: key for key, one in scene.editions.items()}


def after(document, *operations):
    return document.patched([{"op": op, "path": path, "value": value} for op, path, value in operations])[0]


@pytest.fixture
def family():
    """(the engine of a document, siblings, the document), all closed in the end."""
    document = Document.read(furnished().plain())
    main, siblings = Engine(1), Siblings(lambda: Engine(1))
    main.open(document.scene, None)
    yield main, siblings, document
    siblings.keep([])
    main.close()


def test_what_is_shown_under_something_is_the_same_both_ways():
    scene = furnished()
    document = Document.read(scene.plain())
    (shot,) = scene.shots
    for wanted in (PLAIN, *(Combination(key, shot, "evening") for key in scene.editions)):
        assert shown_under(document, wanted) == document_of(scene, wanted)
    assert shown_under(document, PLAIN) is document.scene
    with pytest.raises(OrderError):
        shown_under(document, Combination(shot="gone"))


def test_a_sibling_follows_the_document_at_the_cost_of_what_changes(family):
    main, siblings, document = family
    steel = Combination(keys_of(document.scene)["In steel"])
    engine = siblings.engine_for(steel, document, main, None)
    assert engine is not main and siblings.engine_for(steel, document, main, None) is engine
    assert siblings.engine_for(PLAIN, document, main, None) is main
    assert engine.scene.parts["base"].material == "steel" and main.scene.parts["base"].material == "brass"
    document = after(document, ("replace", "/materials/ink/base_color", [0.1, 0.2, 0.3]))
    ((followed,), lost) = siblings.follow(document, None)
    assert followed.restarts and lost == [] and engine.scene.materials["ink"].base_color == (0.1, 0.2, 0.3)
    assert engine.scene.parts["base"].material == "steel", "the edition stays on"
    document = after(document, ("replace", "/look/exposure", 1.0))
    ((followed,), _) = siblings.follow(document, None)
    assert not followed.restarts, "a look asks for no samples"
    document = after(document, ("remove", f"/editions/{steel.edition}", None))
    followed, ((gone, reason),) = siblings.follow(document, None)
    assert followed == [] and gone is engine and "gone" in reason and siblings.engines() == []


def test_a_sibling_changes_to_another_edition_without_being_opened_anew(family):
    main, siblings, document = family
    names = keys_of(document.scene)
    engine = siblings.engine_for(Combination(names["In steel"]), document, main, None)
    brass = Combination(names["In brass"])
    followed = siblings.changed(engine, brass, document, None)
    assert followed.restarts and followed.before.parts["base"].material == "steel"
    assert engine.scene.parts["base"].material == "brass" and siblings.engines() == [engine]
    assert engine.compile_counts.full == 1, "what differs was changed, and nothing compiled anew"
    assert siblings.engine_for(brass, document, main, None) is engine
    assert (
        siblings.changed(main, brass, document, None) is None
        and siblings.changed(engine, PLAIN, document, None) is None
    )
    with pytest.raises(OrderError):
        siblings.changed(engine, Combination("gone"), document, None)
    assert siblings.engine_for(brass, document, main, None) is engine, "and it stays what it was"


def test_there_are_as_many_as_there_is_room_for(family):
    main, siblings, document = family
    (shot,) = document.scene.shots
    keys = list(document.scene.editions)
    wanted = [Combination(keys[0]), Combination(keys[1]), Combination(None, shot), Combination(None, None, "evening")]
    engines = [siblings.engine_for(one, document, main, None) for one in wanted[:MOST]]
    with pytest.raises(TooMany, match="at once"):
        siblings.engine_for(wanted[MOST], document, main, None)
    siblings.keep(engines[1:])
    assert siblings.engines() == engines[1:]
    siblings.engine_for(wanted[MOST], document, main, None)


@pytest.fixture
def dressed(people, project):
    """The owner's project with an edition in which its square is of another colour."""
    scene = project.document()
    (part,), other = scene.parts, next(iter(scene.materials.values()))
    red = other.model_copy(update={"name": "Red", "base_color": (0.9, 0.02, 0.02), "emission_luminance": 0.0})
    values = {"as-it-was": scene.parts[part].material, "red": "red"}
    group = {
        "name": "Square",
        "variants": {key: {"name": key, "values": {f"/parts/{part}/material": one}} for key, one in values.items()},
        "chosen": "as-it-was",
    }
    patch = [
        {"op": "add", "path": "/materials/red", "value": red.model_dump(mode="json")},
        {"op": "add", "path": "/variant_groups/square", "value": group},
        {"op": "add", "path": "/editions/red", "value": {"name": "Red", "choice": {"square": "red"}}},
    ]
    project.scene = read_scene(apply_operations(scene.plain(), patch)[0]).plain()
    project.save()
    return project


async def picture(socket, pane, samples=2):
    """(h, w, 3) of the next picture of a pane that is worth it."""
    import io

    def wanted(message):
        return isinstance(message, tuple) and message[0].pane == pane and message[0].samples >= samples

    _, data = await until(socket, wanted)
    return np.asarray(Image.open(io.BytesIO(data)).convert("RGB"), np.float64)


UNDER_RED = {"edition": "red", "shot": None, "conditions": None}


async def test_two_panes_show_two_editions_and_a_take_has_the_document_of_its_own(people, dressed):
    socket = await joined(people, dressed)
    try:
        await look(socket)
        plain = (await picture(socket, 0)).mean(axis=(0, 1))
        await look(socket, pane=1, under=UNDER_RED)
        red = (await picture(socket, 1)).mean(axis=(0, 1))
        assert red[0] / red[1] > 1.3 * plain[0] / plain[1]
        await socket.send_json_to({"type": "take", "pane": 1, "request": "beside"})
        kept = await until(socket, is_type("take_kept"))
        take = await database_sync_to_async(Take.objects.get)(pk=kept["take"])
        (part,) = read_scene(take.scene).parts.values()
        assert part.material == "red" and take.shown == "Red"
    finally:
        await leave(socket)


async def test_an_edit_reaches_both_and_an_edition_that_goes_is_said(people, dressed):
    socket = await joined(people, dressed)
    try:
        await look(socket, pane=1, under=UNDER_RED)
        red = (await picture(socket, 1)).mean(axis=(0, 1))
        patch = [{"op": "replace", "path": "/materials/red/base_color", "value": [0.02, 0.02, 0.9]}]
        await socket.send_json_to({"type": "edit", "patch": patch, "label": "Blue", "request": "1"})
        committed = await until(socket, is_type("committed"))

        def of_the_edit(message):
            return isinstance(message, tuple) and message[0].pane == 1 and message[0].revision >= committed["revision"]

        await until(socket, of_the_edit)
        blue = (await picture(socket, 1)).mean(axis=(0, 1))
        assert blue[2] / blue[0] > 1.3 * red[2] / red[0]
        gone = [{"op": "remove", "path": "/editions/red"}]
        await socket.send_json_to({"type": "edit", "patch": gone, "label": "Gone", "request": "2"})
        said = await until(socket, is_type("error"))
        assert "gone: choose again" in said["message"]
        plain = (await picture(socket, 1)).mean(axis=(0, 1))
        assert abs(plain[2] / plain[0] - 1) < abs(blue[2] / blue[0] - 1), "it shows the document as it is"
        said = []
        for number, label in enumerate(("One", "Two")):
            patch = [{"op": "replace", "path": "/look/exposure", "value": 0.1 * (number + 1)}]
            await socket.send_json_to({"type": "edit", "patch": patch, "label": label, "request": label})
            await until(socket, lambda m: said.append(m) or is_type("committed")(m))
        assert not [m for m in said if isinstance(m, dict) and m["type"] == "error"], "which is not said again"
        await socket.send_json_to({"type": "undo", "request": "3"})
        await socket.send_json_to({"type": "undo", "request": "4"})
        await socket.send_json_to({"type": "undo", "request": "5"})
        back = await until(socket, lambda m: is_type("committed")(m) and m["request"] == "5")

        def of_the_return(message):
            return isinstance(message, tuple) and message[0].pane == 1 and message[0].revision >= back["revision"]

        await until(socket, of_the_return)
        again = (await picture(socket, 1)).mean(axis=(0, 1))
        assert again[2] / again[0] > 1.2 * plain[2] / plain[0], "the edition is back, and so is its picture"
    finally:
        await leave(socket)
