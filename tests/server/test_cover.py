"""The picture by which a project is known in the list."""

import asyncio
import io
from dataclasses import replace
from threading import Thread

import numpy as np
import pytest
from channels.db import database_sync_to_async
from django.db import connection
from django.db.models.signals import post_delete
from django.test import Client
from PIL import Image

from lantern.compile.view import Way
from server.live import cover
from server.live.cover import Worth
from server.projects.actions import ApplyEdit
from server.projects.keeping import DeleteProject
from server.projects.models import Cover, Edit, Project
from server.protocol import frames
from server.protocol.panes import PaneState
from tests.server.test_viewport import is_frame, joined, leave, look, until

WHOLE = frames.FrameInfo(2, 0, 4, 64, 40, (64, 40), (0, 0, 64, 40), frames.JPEG, frames.DENOISED, 0, (0.0,) * 12)
PANE = PaneState(pane=0, serial=0, width=64, height=40)


def picture(color, size=(640, 400)):
    target = io.BytesIO()
    Image.new("RGB", size, color).save(target, "PNG")
    return target.getvalue()


def test_only_a_whole_denoised_picture_of_the_shot_is_a_cover():
    assert cover.worth_of(PANE, WHOLE) is Worth.COVER
    for other in ({"flags": 0}, {"flags": frames.DENOISED | frames.COARSE}, {"width": 32}):
        assert cover.worth_of(PANE, replace(WHOLE, **other)) is Worth.STAND_IN, other
    assert cover.worth_of(PANE, replace(WHOLE, region=(0, 0, 20, 40))) is Worth.NOTHING
    for other in ({"way": Way.CLAY}, {"loupe": (0.1, 0.1, 0.5, 0.5)}):
        assert cover.worth_of(PANE.model_copy(update=other), WHOLE) is Worth.NOTHING, other


@pytest.mark.django_db(transaction=True)
async def test_the_newest_picture_counts_and_each_revision_is_kept_once(project, monkeypatch):
    monkeypatch.setattr(cover, "WAIT_SECONDS", 1.0)
    keeper = cover.CoverKeeper(project.pk)

    async def kept():
        made = await database_sync_to_async(Cover.objects.filter(project=project).first)()
        return made and Image.open(io.BytesIO(bytes(made.picture)))

    keeper.take(PANE, frames.pack_frame(WHOLE, picture((200, 0, 0))))
    keeper.take(PANE, frames.pack_frame(WHOLE, picture((0, 200, 0))))
    assert await kept() is None, "better ones may follow"
    async with asyncio.timeout(30):
        while (first := await kept()) is None:
            await asyncio.sleep(0.05)
    assert first.size == (480, 300) and first.getpixel((9, 9))[1] > 150
    keeper.take(PANE, frames.pack_frame(WHOLE, picture((0, 0, 200))))
    await asyncio.sleep(1.5)
    assert (await kept()).getpixel((9, 9))[1] > 150, "one of this revision is kept already"
    await keeper.keep()
    assert (await kept()).getpixel((9, 9))[2] > 150, "at the end the newest counts"


@pytest.mark.django_db(transaction=True)
async def test_a_stand_in_is_kept_only_where_there_is_nothing_better(project):
    keeper = cover.CoverKeeper(project.pk)

    async def color_after(color, **other):
        keeper.take(PANE, frames.pack_frame(replace(WHOLE, **other), picture(color)))
        await keeper.keep()
        made = await database_sync_to_async(Cover.objects.get)(project=project)
        return int(np.argmax(Image.open(io.BytesIO(bytes(made.picture))).getpixel((9, 9))))

    assert await color_after((200, 0, 0), flags=frames.COARSE) == 0, "somebody left after the first picture"
    assert await color_after((0, 200, 0)) == 1, "the same revision, denoised"
    assert await color_after((0, 0, 200), flags=0, revision=3) == 1, "a noisy one does not take its place"


@pytest.mark.django_db(transaction=True)
async def test_the_list_has_the_picture_for_those_who_may_see_it(people, project):
    def ask(person, path):
        client = Client()
        client.force_login(people[person])
        return client.get(path)

    get = database_sync_to_async(ask)
    assert (await get("owner", "/api/v1/projects")).json()["items"][0]["cover"] is None
    assert (await get("owner", f"/api/v1/projects/{project.pk}/cover")).status_code == 404
    socket = await joined(people, project)
    try:
        await look(socket)
        await until(socket, is_frame(samples=8, revision=1))
    finally:
        await leave(socket)
    async with asyncio.timeout(20):
        while (address := (await get("owner", "/api/v1/projects")).json()["items"][0]["cover"]) is None:
            await asyncio.sleep(0.05)
    shown = await get("owner", address)
    assert shown["Content-Type"] == "image/jpeg" and Image.open(io.BytesIO(shown.content)).size == (96, 64)
    assert (await get("stranger", address)).status_code == 404
    await database_sync_to_async(project.delete)()
    assert not await database_sync_to_async(Cover.objects.exists)()


@pytest.mark.django_db(transaction=True)
def test_a_cover_that_comes_while_its_project_goes_does_not_stop_that(people, project):
    ApplyEdit(people["owner"], project.pk, [{"op": "replace", "path": "/look/exposure", "value": 2}], "Look").execute()
    adding = Thread(target=lambda: (cover._store(project.pk, picture((9, 9, 9)), Worth.COVER), connection.close()))

    def meanwhile(**_):
        """Covers are removed before edits, and the project after them."""
        adding.start()
        adding.join(1.0)

    post_delete.connect(meanwhile, Edit)
    try:
        DeleteProject(people["owner"], project.pk).execute()
    finally:
        post_delete.disconnect(meanwhile, Edit)
    adding.join(30)
    assert not Project.objects.exists() and not Cover.objects.exists()
