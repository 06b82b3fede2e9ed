"""Live pictures for those who turn a showing: theirs alone, few at once, led to all, and never in the way of work."""

import asyncio
import json
import os
import signal

import pytest
from channels.db import database_sync_to_async
from django.core.cache import cache
from django.test import Client

from lantern.scene.orders import seen_around
from server.protocol.frames import SETTLED, unpack_frame
from server.showings import audience, turning
from server.showings.actions import ChangeShowing, WithdrawShowing
from tests.server.test_audience import looking
from tests.server.test_showings import dressed, enter, new_showing

pytestmark = pytest.mark.django_db(transaction=True)
assert dressed


@pytest.fixture(autouse=True)
def _as_at_the_start(monkeypatch):
    cache.clear()
    monkeypatch.setattr(turning, "LINGER_SECONDS", 0.1)


@database_sync_to_async
def opened_by(people, project, count, **more):
    """(a showing of two editions in evening light, its owner's browser, those of visitors)."""
    scene = project.document()
    wanted = {"editions": list(scene.editions), "conditions": ["evening"], "rights": ["live", "switch"]} | more
    showing = new_showing(people["owner"], project, **wanted)
    browsers = [Client() for _ in range(count + 1)]
    browsers[0].force_login(people["owner"])
    for each in browsers:
        assert enter(each, showing).status_code == 200
    return showing, [slide.pk for slide in showing.slides.all()], *browsers


def look(slide, serial, azimuth=0.0, raised=0.0):
    around = {"azimuth": azimuth, "raised": raised, "closer": 1.0}
    return {"type": "look", "slide": slide, "around": around, "serial": serial, "width": 96, "height": 64}


async def next_of(page):
    """A message as a dict, or a picture as (info, picture), which is acknowledged."""
    sent = await page.receive_output(timeout=60)
    if sent.get("text"):
        return json.loads(sent["text"])
    assert sent["type"] == "websocket.send", sent
    await page.say({"type": "shown"})
    return unpack_frame(sent["bytes"])


async def picture_of(page, serial):
    """(the first picture of a look, the messages before it)."""
    said = []
    while True:
        got = await next_of(page)
        if isinstance(got, tuple) and got[0].serial >= serial:
            return got, said
        said += [] if isinstance(got, tuple) else [got]


def panes_of(showing):
    """How many pages of a showing have a live picture."""
    stage = turning._stages.get(showing.pk)
    return 0 if stage is None else len(stage.windows)


async def until_panes(showing, count):
    async with asyncio.timeout(30):
        while panes_of(showing) != count:
            await asyncio.sleep(0.01)


async def closed(page):
    """Why the server has closed a page; pictures on the way are passed over."""
    while (sent := await page.receive_output(timeout=20))["type"] != "websocket.close":
        pass
    return sent["code"]


async def all_gone(*pages):
    """Pages leave, and with the last of them the host."""
    for page in pages:
        await page.leave()
    async with asyncio.timeout(20):
        while turning._stages:
            await asyncio.sleep(0.05)


async def test_somebody_turns_it_and_sees_that_alone(people, dressed):
    showing, slides, _, visitor = await opened_by(people, dressed, 1)
    page = await looking(showing, visitor)
    await page.say(look(slides[0], 3, azimuth=90.0, raised=20.0))
    (info, picture), said = await picture_of(page, 3)
    camera = seen_around(dressed.document().camera, 90.0, 20.0)
    assert info.camera[:3] == pytest.approx(camera.position, rel=1e-6) and info.full == (96, 64)
    assert [message["state"] for message in said] == ["starting", "on"], "and not a word of the document"
    await page.say(look(slides[1], 4, azimuth=90.0))
    (other, another), said = await picture_of(page, 4)
    assert other.camera != info.camera and another != picture and said == []
    assert panes_of(showing) == 1
    await page.say({"type": "rest"})
    await until_panes(showing, 0)
    await all_gone(page)


async def test_it_settles_with_as_many_samples_as_a_visitor_is_given(people, dressed):
    assert dressed.document().proof.samples > turning.MOST_SAMPLES
    showing, slides, _, visitor = await opened_by(people, dressed, 1)
    page = await looking(showing, visitor)
    await page.say(look(slides[0], 1, azimuth=10.0))
    async with asyncio.timeout(120):
        while not (got := await picture_of(page, 1))[0][0].flags & SETTLED:
            pass
    assert got[0][0].samples == turning.MOST_SAMPLES
    await all_gone(page)


async def test_who_may_not_turn_gets_nothing_and_a_slide_of_another_showing_is_none(people, dressed):
    showing, slides, owner, visitor = await opened_by(people, dressed, 1, rights=["turn", "switch"])
    other, others, *_ = await opened_by(people, dressed, 0)
    page = await looking(showing, visitor)
    await page.say(look(slides[0], 1))
    maker = await looking(showing, owner)
    await maker.heard()
    await maker.say(look(others[0], 1))
    assert await page.receive_nothing(timeout=1.5) and await maker.receive_nothing(timeout=0.5)
    await maker.say(look(slides[0], 2, azimuth=5.0))
    await picture_of(maker, 2)  # whose project it is may
    await all_gone(page, maker)
    assert other.pk != showing.pk


@pytest.mark.parametrize(
    "wrong", [{"width": 5000}, {"serial": -1}, {"around": {"azimuth": "x"}}, {"around": {"closer": 0}}]
)
async def test_a_look_that_cannot_be_is_passed_over(people, dressed, wrong):
    showing, slides, _, visitor = await opened_by(people, dressed, 1)
    page = await looking(showing, visitor)
    await page.say(look(slides[0], 1) | wrong)
    assert await page.receive_nothing(timeout=0.5) and panes_of(showing) == 0
    await page.leave()


async def test_few_turn_at_once_and_the_next_is_served_when_one_rests(people, dressed, monkeypatch):
    monkeypatch.setattr(turning, "MOST_TURNING", 1)
    showing, slides, _, first, second = await opened_by(people, dressed, 2)
    one, two = await looking(showing, first), await looking(showing, second)
    await one.say(look(slides[0], 1, azimuth=5.0))
    await picture_of(one, 1)
    await two.say(look(slides[0], 1, azimuth=5.0))
    assert await two.heard() == {"type": "live", "state": "busy"}
    await one.say({"type": "rest"})
    await until_panes(showing, 0)
    await two.say(look(slides[0], 2, azimuth=6.0))
    await picture_of(two, 2)
    await all_gone(one, two)


async def test_all_see_what_whoever_leads_turns_from_one_pane(people, dressed):
    showing, slides, owner, first, second = await opened_by(people, dressed, 2)
    leader, early = await looking(showing, owner), await looking(showing, first)
    await leader.say(look(slides[0], 7, azimuth=30.0))
    await leader.say({"type": "lead", "slide": slides[0], "around": {"azimuth": 30.0}, "live": 7})
    (led, _), said = await picture_of(early, 7)
    assert said[0]["type"] == "led" and said[0]["live"] == 7
    late = await looking(showing, second)
    (same, _), said = await picture_of(late, 7)
    assert same.camera == led.camera and said[0]["live"] == 7
    assert panes_of(showing) == 1
    await leader.say({"type": "lead", "slide": slides[1]})  # a prepared picture
    await leader.say(look(slides[1], 8, azimuth=1.0))
    while True:
        got = await next_of(early)
        if isinstance(got, dict):
            break
    assert got["live"] is None
    await picture_of(leader, 8)
    assert await early.receive_nothing(timeout=0.5), "what is not led is the leader's own business"
    await all_gone(leader, early, late)


async def test_a_host_that_dies_is_replaced_and_the_page_goes_on(people, dressed):
    showing, slides, _, visitor = await opened_by(people, dressed, 1)
    page = await looking(showing, visitor)
    await page.say(look(slides[0], 1, azimuth=5.0))
    await picture_of(page, 1)
    host = turning._stages[showing.pk].session._host
    assert os.getpriority(os.PRIO_PROCESS, host.pid) > os.getpriority(os.PRIO_PROCESS, 0), "it is modest"
    os.kill(host.pid, signal.SIGKILL)
    async with asyncio.timeout(60):
        while (got := await next_of(page)) != {"type": "live", "state": "starting"}:
            assert isinstance(got, tuple)
    await page.say(look(slides[0], 2, azimuth=9.0))
    await picture_of(page, 2)
    await all_gone(page)


async def test_withdrawn_its_host_ends_too(people, dressed):
    showing, slides, _, visitor = await opened_by(people, dressed, 1)
    page = await looking(showing, visitor)
    await page.say(look(slides[0], 1, azimuth=5.0))
    await picture_of(page, 1)
    await database_sync_to_async(WithdrawShowing(people["owner"], showing.pk).execute)()
    assert await closed(page) == audience.OVER
    await all_gone(page)


async def test_who_turns_nothing_for_long_gives_the_pane_back(people, dressed, monkeypatch):
    monkeypatch.setattr(turning, "IDLE_SECONDS", 0.3)
    showing, slides, _, visitor = await opened_by(people, dressed, 1)
    page = await looking(showing, visitor)
    await page.say(look(slides[0], 1, azimuth=5.0))
    await until_panes(showing, 1)
    await until_panes(showing, 0)
    await all_gone(page)


async def test_a_right_that_is_taken_away_is_gone_at_once(people, dressed):
    showing, slides, _, visitor = await opened_by(people, dressed, 1)
    page = await looking(showing, visitor)
    await page.say(look(slides[0], 1, azimuth=5.0))
    await picture_of(page, 1)
    await database_sync_to_async(ChangeShowing(people["owner"], showing.pk, rights=["switch"]).execute)()
    assert await closed(page) == audience.ANEW
    again = await looking(showing, visitor)
    await again.say(look(slides[0], 2, azimuth=9.0))
    assert await again.receive_nothing(timeout=1.0)
    await all_gone(page, again)


async def test_a_page_that_leaves_while_its_stage_opens_leaves_nothing_behind(people, dressed):
    showing, slides, _, visitor = await opened_by(people, dressed, 1)
    page = await looking(showing, visitor)
    await page.say(look(slides[0], 1, azimuth=5.0))
    await all_gone(page)
