"""The picture by which a project is known in the list: the newest whole, denoised one that somebody saw of its shot.

A coarse, noisy or small one stands in for a project that has none yet: somebody may have left after a second.

In: picture messages of the render host. Out: a small JPEG in the database. Called by `session`.
"""

import asyncio
import io
from enum import IntEnum

from django.db import transaction
from PIL import Image

from lantern.compile.view import Way
from server.live.database import in_database
from server.projects.models import Cover, Project
from server.protocol import frames
from server.protocol.panes import PaneState

WIDTH, HEIGHT = 480, 300
"""Pixels that a cover may fill."""
WAIT_SECONDS = 3.0
"""From the first picture of a revision until its cover is made: better ones follow meanwhile."""
QUALITY = 86


class Worth(IntEnum):
    """What a picture is worth as a cover."""

    NOTHING = 0
    STAND_IN = 1
    COVER = 2


def worth_of(state: PaneState, info: frames.FrameInfo) -> Worth:
    """A cover is the whole proof of the shot, denoised and of full size; a stand-in any picture of it."""
    if state.way is not Way.PROOF or state.camera is not None or state.loupe is not None:
        return Worth.NOTHING
    if info.region != (0, 0, *info.full):
        return Worth.NOTHING
    fine = bool(info.flags & frames.DENOISED) and not info.flags & frames.COARSE
    return Worth.COVER if fine and (info.width, info.height) == info.full else Worth.STAND_IN


def _shrunk(picture: bytes) -> bytes:
    image = Image.open(io.BytesIO(picture)).convert("RGB")
    image.thumbnail((WIDTH, HEIGHT), Image.Resampling.LANCZOS)
    target = io.BytesIO()
    image.save(target, "JPEG", quality=QUALITY)
    return target.getvalue()


def _store(project: int, picture: bytes, worth: Worth) -> None:
    small = _shrunk(picture)
    with transaction.atomic():
        # It may have been removed meanwhile, or be about to be.
        there = Project.objects.select_for_update(no_key=True).filter(pk=project).exists()
        if there and (worth is Worth.COVER or not Cover.objects.filter(project_id=project).exists()):
            Cover.objects.update_or_create(project_id=project, defaults={"picture": small})


class CoverKeeper:
    """Keeps the cover of one open project."""

    def __init__(self, project: int) -> None:
        self._project = project
        self._newest: tuple[tuple[int, Worth], bytes] | None = None
        self._kept = (0, Worth.NOTHING)
        self._task: asyncio.Task[None] | None = None

    def take(self, state: PaneState, message: bytes) -> None:
        """Look at a picture message of a pane, and have its cover made if it should."""
        info, picture = frames.unpack_frame(message)
        worth = worth_of(state, info)
        if worth is Worth.NOTHING or (self._newest is not None and self._newest[0] > (info.revision, worth)):
            return
        self._newest = (info.revision, worth), picture
        if (info.revision, worth) != self._kept and (self._task is None or self._task.done()):
            self._task = asyncio.create_task(self._keep_soon())

    async def _keep_soon(self) -> None:
        await asyncio.sleep(WAIT_SECONDS)
        await self.keep()

    async def keep(self) -> None:
        """Make the cover of the newest picture now, if there is one that was not kept."""
        newest, self._newest = self._newest, None
        if newest is not None:
            self._kept, picture = newest
            await in_database(self._project, lambda: _store(self._project, picture, self._kept[1]))
