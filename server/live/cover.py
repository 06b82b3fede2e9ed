"""The picture by which a project is known in the list: the newest whole, denoised one that somebody saw of its shot.

In: picture messages of the render host. Out: a small JPEG in the database. Called by `session`.
"""

import asyncio
import io

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


def shows_shot(state: PaneState, info: frames.FrameInfo) -> bool:
    """Whether a picture is the whole proof of the shot, denoised."""
    whole = info.region == (0, 0, *info.full) and (info.width, info.height) == info.full
    plain = state.way is Way.PROOF and state.camera is None and state.loupe is None
    return plain and whole and bool(info.flags & frames.DENOISED) and not info.flags & frames.COARSE


def _shrunk(picture: bytes) -> bytes:
    image = Image.open(io.BytesIO(picture)).convert("RGB")
    image.thumbnail((WIDTH, HEIGHT), Image.Resampling.LANCZOS)
    target = io.BytesIO()
    image.save(target, "JPEG", quality=QUALITY)
    return target.getvalue()


def _store(project: int, picture: bytes) -> None:
    small = _shrunk(picture)
    with transaction.atomic():
        # It may have been removed meanwhile, or be about to be.
        if Project.objects.select_for_update(no_key=True).filter(pk=project).exists():
            Cover.objects.update_or_create(project_id=project, defaults={"picture": small})


class CoverKeeper:
    """Keeps the cover of one open project."""

    def __init__(self, project: int) -> None:
        self._project = project
        self._newest: tuple[int, bytes] | None = None
        self._kept_revision = 0
        self._task: asyncio.Task[None] | None = None

    def take(self, state: PaneState, message: bytes) -> None:
        """Look at a picture message of a pane, and have its cover made if it should."""
        info, picture = frames.unpack_frame(message)
        if not shows_shot(state, info):
            return
        self._newest = info.revision, picture
        if info.revision != self._kept_revision and (self._task is None or self._task.done()):
            self._task = asyncio.create_task(self._keep_soon())

    async def _keep_soon(self) -> None:
        await asyncio.sleep(WAIT_SECONDS)
        await self.keep()

    async def keep(self) -> None:
        """Make the cover of the newest picture now, if there is one that was not kept."""
        newest, self._newest = self._newest, None
        if newest is not None:
            self._kept_revision = newest[0]
            await in_database(self._project, lambda: _store(self._project, newest[1]))
