"""Messages with every kind of wrong content: answered or refused, never a hang, and no seat is left."""

import asyncio
import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from server.live import consumer as consumer_module
from server.live import database
from server.live.sessions import sessions
from server.protocol.browser import LARGEST_MESSAGE, Unreadable, read_message
from server.protocol.host import FROM_HOST, TO_HOST, Budget, Drop, InHand, Leave, Ping, Pong, Unfit
from server.protocol.schema import message_schemas
from tests.server.test_viewport import is_frame, is_type, joined, leave, look, until

GOOD = {
    "pane": {"pane": 0, "serial": 1, "width": 96, "height": 64, "selected": [], "loupe": None, "camera": None},
    "close_pane": {"pane": 3},
    "run": {"running": True},
    "shown": {},
    "preview": {"patch": [{"op": "replace", "path": "/look/exposure", "value": 1}], "serial": 2},
    "edit": {
        "patch": [{"op": "replace", "path": "/look/exposure", "value": 0}], "label": "L", "request": "r", "base": 1,
    },
    "undo": {"request": "u"},
    "redo": {"request": "e"},
    "pick": {"pane": 0, "x": 0.5, "y": 0.5, "request": "p"},
    "values": {"pane": 0, "x": 0.5, "y": 0.5, "request": "v"},
    "fit": {"pane": 0, "parts": None, "direction": None, "request": "f"},
    "bounds": {"pane": 0, "parts": ["square"], "request": "b"},
    "make_light": {"pane": 0, "kind": "disk", "over": None, "request": "l"},
    "make_set": {"pane": 0, "parts": ["square"], "request": "s"},
    "texture": {"pane": 0, "texture": 0, "channel": None, "request": "t"},
}  # fmt: skip
WRONG = [
    None, True, -1, 2**32, 2**70, 1e100, 0.5, "", "x" * 300, "\x00", "\ud800", [], [None], {}, {"a": {}}, [[[[]]]],
    [{"op": "copy", "from": "/parts", "path": "/lights/x"}], [{"op": "add", "path": "/parts/x", "value": {"a": 1}}],
    [{"op": "replace", "path": "/camera/position", "value": [1e100, 0, 0]}], [0.1, 0.2], ["gone"] * 3,
    {"position": [1e300, 0, 0]},
]  # fmt: skip
ODD_TEXTS = [
    "", "null", "[]", "3", "{", '{"type": "pick", "x": NaN}', '{"type": "pick", "x": Infinity}', "[" * 100_000,
    '{"type": ' * 5_000, '{"type": "edit", "patch": ' + "[" * 50_000 + "]" * 50_000 + "}", "x" * (LARGEST_MESSAGE + 1),
    '{"type": "pane", "pane": 0, "serial": 0, "width": 1e999, "height": 64}', '{"type": "run", "running": "\\ud800"}',
]  # fmt: skip


def variants():
    """Every message with every field wrong in every way, missing, and with one too many."""
    for name, fields in GOOD.items():
        yield {"type": name, **fields, "more": 1}
        for field in fields:
            yield {"type": name} | {k: v for k, v in fields.items() if k != field}
            for wrong in WRONG:
                yield {"type": name, **fields, field: wrong}


def test_good_messages_are_read():
    for name, fields in GOOD.items():
        assert read_message(json.dumps({"type": name, **fields})).type == name


@pytest.mark.parametrize("text", ODD_TEXTS, ids=lambda text: f"{text[:20]}… {len(text)}")
def test_texts_that_are_no_messages_are_refused(text):
    with pytest.raises(Unreadable):
        read_message(text)


JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=5),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=5), inner, max_size=3),
    max_leaves=8,
)


@given(
    st.sampled_from(sorted(GOOD)), st.dictionaries(st.sampled_from(["pane", "patch", "serial", "x", "request"]), JSON)
)
def test_whatever_a_message_holds_it_is_read_or_refused(name, fields):
    try:
        read_message(json.dumps({"type": name, **GOOD[name], **fields}))
    except Unreadable as error:
        assert len(str(error)) < 2_000


def test_a_refusal_names_the_request_and_the_field():
    with pytest.raises(Unreadable, match=r"edit/label") as caught:
        read_message(json.dumps({"type": "edit", **GOOD["edit"], "label": "\x00"}))
    assert caught.value.request == "r"


@pytest.mark.parametrize(
    "message",
    [Ping(), Drop(pane="1.0"), Leave(seat=2), Budget(pane="1.0", bytes=9), InHand(seat=1, patch=[], serial=4)],
)
def test_messages_to_a_host_survive_the_way(message):
    assert TO_HOST.validate_json(message.model_dump_json()) == message


@pytest.mark.parametrize("message", [Pong(doing="step", seconds=0.5), Unfit(seat=1, message="gone")])
def test_messages_of_a_host_survive_the_way(message):
    assert FROM_HOST.validate_json(message.model_dump_json()) == message


def test_the_schema_names_every_message():
    schemas = message_schemas()
    named = {s["properties"]["type"]["const"] for s in schemas.values() if "type" in s.get("properties", {})}
    assert set(GOOD) | {"document", "edited", "committed", "refused", "status"} <= named


@pytest.mark.django_db(transaction=True)
async def test_a_window_that_sends_nonsense_hurts_nobody(people, project):
    """Everything wrong that there is, to one project: the other window's picture goes on, the same host lives."""
    rude, calm = await joined(people, project), await joined(people, project)
    try:
        await look(calm)
        await until(calm, is_frame(samples=1))
        (session,) = sessions._open.values()
        sent = 0
        for message in variants():
            if message["type"] in ("pane", "close_pane", "run") and "more" not in message and len(message) > 2:
                continue  # some of these are good ones of another pane: they would ask for pictures
            await rude.send_json_to(message)
            sent += 1
        for text in ODD_TEXTS:
            await rude.send_input({"type": "websocket.receive", "text": text})
        await rude.send_json_to({"type": "pick", "pane": 0, "x": 0.5, "y": 0.5, "request": "the last"})
        await until(rude, lambda m: isinstance(m, dict) and m.get("asked") == "the last")
        assert sent > 500 and session.host_starts == 1
        await calm.send_json_to({"type": "edit", "request": "c", "patch": GOOD["preview"]["patch"], "label": "E"})
        done = await until(calm, is_type("committed"))
        await until(calm, is_frame(revision=done["revision"]))
        assert len(session.seats) == 2
    finally:
        await rude.disconnect()
        await leave(calm)


@pytest.mark.django_db(transaction=True)
async def test_an_error_in_the_code_ends_the_connection_and_not_the_session(people, project, monkeypatch):
    unlucky, other = await joined(people, project), await joined(people, project)
    try:
        await until(other, is_type("document"))
        (session,) = sessions._open.values()

        async def broken(*arguments):
            raise RuntimeError("something nobody thought of")

        with monkeypatch.context() as patching:
            patching.setattr(consumer_module, "in_database", broken)
            await unlucky.send_json_to({"type": "undo", "request": "u"})
            assert (await until(unlucky, lambda m: False))["code"] == 1011
        async with asyncio.timeout(5):
            while len(session.seats) > 1:
                await asyncio.sleep(0.01)
        await other.send_json_to({"type": "edit", "request": "c", "patch": GOOD["preview"]["patch"], "label": "E"})
        assert (await until(other, is_type("committed")))["request"] == "c"
    finally:
        await leave(other)


async def test_no_projects_work_waits_for_anothers():
    """A lane that is held up, by a lock or a large document, holds up its own project alone."""
    held, order = asyncio.Event(), []
    loop = asyncio.get_running_loop()

    def slow():
        asyncio.run_coroutine_threadsafe(held.wait(), loop).result(10)
        order.append("A")

    first = asyncio.create_task(database.in_database(1, slow))
    second = asyncio.create_task(database.in_database(1, lambda: order.append("A again")))
    await asyncio.sleep(0.05)
    for _ in range(20):
        await database.in_database(2, lambda: order.append("B"))
    assert order == ["B"] * 20
    held.set()
    await asyncio.gather(first, second)
    assert order[20:] == ["A", "A again"] and not database.is_busy()
