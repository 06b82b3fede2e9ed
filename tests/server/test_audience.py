"""The sockets of showings: who leads is followed, who may not look is shut out, and what ends closes its pages."""

import json
from datetime import timedelta

import pytest
from asgiref.testing import ApplicationCommunicator
from channels.db import database_sync_to_async
from django.conf import settings as django_settings
from django.core.cache import cache
from django.test import Client
from django.utils import timezone

from server.config.asgi import application
from server.showings import audience
from server.showings.actions import RemoveShowing, WithdrawShowing
from server.showings.models import Showing
from tests.server.test_showings import enter, new_showing

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture(autouse=True)
def _nothing_is_counted_yet():
    cache.clear()


def cookie_of(browser):
    return browser.cookies[django_settings.SESSION_COOKIE_NAME].value.encode()


class Page(ApplicationCommunicator):
    """The line of a page."""

    async def say(self, message):
        text = message if isinstance(message, str) else json.dumps(message)
        await self.send_input({"type": "websocket.receive", "text": text})

    async def heard(self):
        return json.loads((await self.receive_output(timeout=20))["text"])

    async def leave(self):
        await self.send_input({"type": "websocket.disconnect", "code": 1000})
        await self.wait(timeout=20)


async def looking(showing, browser, path=None):
    """A connected page of a browser, or another socket."""
    cookie = django_settings.SESSION_COOKIE_NAME.encode() + b"=" + cookie_of(browser)
    headers = [(b"origin", b"http://localhost"), (b"host", b"localhost"), (b"cookie", cookie)]
    path = path or f"/socket/showings/{showing.pk}"
    page = Page(application, {"type": "websocket", "path": path, "query_string": b"", "headers": headers,
                              "subprotocols": []})  # fmt: skip
    await page.send_input({"type": "websocket.connect"})
    assert (await page.receive_output(timeout=20))["type"] == "websocket.accept"
    return page


@database_sync_to_async
def made(people, project, count):
    """A showing, the owner's browser and those of visitors."""
    showing = new_showing(people["owner"], project)
    browsers = [Client() for _ in range(count + 1)]
    browsers[0].force_login(people["owner"])
    for each in browsers:
        assert enter(each, showing).status_code == 200
    return showing, *browsers


async def test_whoever_leads_is_followed_and_late_comers_see_it_too(people, project):
    showing, owner, first, second = await made(people, project, 2)
    leader, early = await looking(showing, owner), await looking(showing, first)
    assert await leader.heard() == {"type": "viewers", "count": 1}
    assert await leader.heard() == {"type": "viewers", "count": 2}
    around = {"azimuth": 45.0, "raised": 10.0, "closer": 1.5}
    await leader.say({"type": "lead", "slide": 4, "around": around})
    led = {"type": "led", "slide": 4, "around": around, "beside": None, "live": None}
    assert await early.heard() == led
    late = await looking(showing, second)
    assert await late.heard() == led
    await early.say({"type": "lead", "slide": 9})  # a visitor leads nobody
    await early.say({"type": "release"})
    assert await late.receive_nothing(timeout=0.5)
    await leader.leave()
    assert await early.heard() == await late.heard() == {"type": "free"}
    await early.leave()
    await late.leave()


@pytest.mark.parametrize("text", ["", "[]", "{", '{"type": "lead"}', '{"type": "lead", "slide": "x"}', "x" * 5000])
async def test_what_cannot_be_read_is_passed_over(people, project, text):
    showing, owner = await made(people, project, 0)
    leader = await looking(showing, owner)
    await leader.heard()
    await leader.say(text)
    await leader.say({"type": "lead", "slide": 1})
    await leader.say({"type": "release"})
    assert await leader.heard() == {"type": "free"}
    await leader.leave()


@pytest.mark.parametrize("how", [WithdrawShowing, RemoveShowing, "with its project"])
async def test_withdrawn_its_pages_close_at_once(people, project, how):
    showing, _, visitor = await made(people, project, 1)
    socket = await looking(showing, visitor)
    end = project.delete if how == "with its project" else how(people["owner"], showing.pk).execute
    await database_sync_to_async(end)()
    closed = await socket.receive_output(timeout=20)
    assert (closed["type"], closed["code"]) == ("websocket.close", audience.OVER)
    await socket.leave()


async def test_a_page_without_the_link_is_shut_out(people, project):
    showing, _ = await made(people, project, 0)
    for person in ("owner", "stranger"):
        browser = Client()
        await database_sync_to_async(browser.force_login)(people[person])
        socket = await looking(showing, browser)
        assert (await socket.receive_output(timeout=20))["code"] == audience.OVER
        await socket.leave()


async def test_a_link_opens_no_socket_of_the_project(people, project):
    """Nor of another showing: what the browser has opened is one showing."""
    showing, _, visitor = await made(people, project, 1)
    other = await database_sync_to_async(new_showing)(people["owner"], project)
    shut = await looking(other, visitor)
    assert (await shut.receive_output(timeout=20))["code"] == audience.OVER
    await shut.leave()
    page = await looking(showing, visitor, f"/socket/projects/{project.pk}")
    assert (await page.receive_output(timeout=20))["code"] == 4401
    await page.leave()


async def test_when_it_ends_its_pages_close(people, project):
    showing, _, visitor = await made(people, project, 1)
    soon = timezone.now() + timedelta(seconds=1.5)
    await database_sync_to_async(Showing.objects.filter(pk=showing.pk).update)(ends=soon)
    socket = await looking(showing, visitor)
    assert (await socket.receive_output(timeout=20))["code"] == audience.OVER
    await socket.leave()


async def test_more_than_can_look_are_told_so(people, project, monkeypatch):
    monkeypatch.setattr(audience, "MOST_VIEWERS", 1)
    showing, owner, visitor = await made(people, project, 1)
    first = await looking(showing, owner)
    second = await looking(showing, visitor)
    assert (await second.receive_output(timeout=20))["code"] == audience.FULL
    await first.leave()
    await second.leave()
