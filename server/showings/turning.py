"""Live pictures for those who turn the asset of a showing: one render host a showing, a pane for each of a few pages.

In: what pages want to see. Out: pictures and how it stands, through the pages. Called by the consumer on its event
loop. The document is that of the showing and never leaves this side. The host is a guest on this machine
(`live/places`, `RenderHost.be_modest`); who is not served shows prepared pictures.
"""

import asyncio
from typing import Protocol

from django.utils import timezone

from lantern.scene.document import Camera
from lantern.scene.editing import Document
from lantern.scene.orders import Combination, seen_around, shown_under
from lantern.scene.patching import replaced
from server.errors import Missing
from server.live.database import in_database
from server.live.session import Session
from server.live.snapshot import Snapshot
from server.projects import storage
from server.protocol import browser
from server.protocol.panes import PaneState, Under
from server.protocol.showings import Live, LookAround
from server.showings.models import Showing

MOST_TURNING = 3
"""Pages of one showing that have a live picture at once."""
MOST_SAMPLES = 64
IDLE_SECONDS = 120.0
"""A page that has turned nothing for so long gives its pane back."""
LINGER_SECONDS = 20.0
"""So long the host of a showing lives on when nobody turns: somebody may take hold again."""


class Page(Protocol):
    """A page of a showing."""

    is_open: bool

    def tell(self, message: Live) -> None: ...

    def picture(self, pane: int, kind: str, picture: bytes) -> None: ...


class _Window:
    """What the session sees of a page: no message about the document goes through."""

    def __init__(self, page: Page) -> None:
        self._page = page
        self._failed = False
        self._said: Live | None = None
        self.idle: asyncio.TimerHandle | None = None

    def post(self, message: browser.ToBrowser) -> None:
        if isinstance(message, browser.ErrorMessage):
            self._failed = True
            self._say(Live(state="busy"))
        elif isinstance(message, browser.HostState):
            busy = message.state in ("waiting", "failed")
            if message.state != "ready":
                self._say(Live(state="busy" if busy else "starting"))

    def show(self, pane: int, kind: str, picture: bytes) -> None:
        if not self._failed:
            self._say(Live(state="on"))
            self._page.picture(pane, kind, picture)

    async def close(self, code: int) -> None:
        self._say(Live(state="busy"))

    def looks_anew(self) -> None:
        """What could not be shown before may be there now."""
        self._failed = False

    def _say(self, message: Live) -> None:
        if message != self._said:
            self._said = message
            self._page.tell(message)


class _Stage:
    """The live side of one showing."""

    def __init__(self, session: Session, document: Document, slides: dict[int, Combination]) -> None:
        self.session = session
        self.slides = slides
        self.windows: dict[Page, _Window] = {}
        self._document = document
        self._cameras: dict[int, Camera] = {}

    async def camera_of(self, slide: int) -> Camera:
        """The camera of a slide's shot."""
        if slide not in self._cameras:
            seen = await asyncio.to_thread(shown_under, self._document, self.slides[slide])
            self._cameras[slide] = seen.camera
        return self._cameras[slide]


_stages: dict[int, _Stage] = {}
_opening = asyncio.Lock()
_closing: set[asyncio.Task[None]] = set()


def _quick(document: Document) -> Document:
    """The document with as many samples as a visitor is given."""
    samples = min(document.scene.proof.samples, MOST_SAMPLES)
    return document.patched([replaced("/proof/samples", samples), replaced("/proof/denoise", True)])[0]


def _opened(number: int) -> tuple[Snapshot, Document, dict[int, Combination]]:
    showing = Showing.objects.filter(pk=number).first()
    if showing is None:
        raise Missing(f"There is no showing {number}.")
    document = _quick(Document.read(showing.scene))
    slides = {one.pk: Combination(one.edition, one.shot, one.conditions) for one in showing.slides.all()}
    paths = storage.paths_for(document.scene)
    snapshot = Snapshot(
        showing.project_id, document.data, showing.revision, timezone.now(), can_undo=False, can_redo=False, paths=paths
    )
    return snapshot, document, slides


async def look(number: int, page: Page, wanted: LookAround) -> None:
    """Have a page see something live, if there is room for it.

    Raises Missing when its showing is gone, Refused when a file of it is.
    """
    async with _opening:
        stage = _stages.get(number)
        if stage is None:
            snapshot, document, slides = await in_database(-number, lambda: _opened(number))
            stage = _stages[number] = _Stage(Session(snapshot, is_guest=True), document, slides)
    if wanted.slide not in stage.slides:
        return
    camera = await stage.camera_of(wanted.slide)
    if not page.is_open:
        _close_when_empty(number, stage)
        return
    window = stage.windows.get(page)
    if window is None:
        if len(stage.windows) >= MOST_TURNING:
            page.tell(Live(state="busy"))
            return
        window = stage.windows[page] = _Window(page)
        stage.session.join(window)
    window.looks_anew()
    stage.session.set_pane(window, _pane(wanted, camera, stage.slides[wanted.slide]))
    if window.idle is not None:
        window.idle.cancel()
    window.idle = asyncio.get_running_loop().call_later(IDLE_SECONDS, rest, number, page)


def _pane(wanted: LookAround, camera: Camera, shown: Combination) -> PaneState:
    around = wanted.around
    return PaneState(
        pane=0,
        serial=wanted.serial,
        width=wanted.width,
        height=wanted.height,
        camera=seen_around(camera, around.azimuth, around.raised, around.closer),
        under=Under(edition=shown.edition, shot=shown.shot, conditions=shown.conditions),
    )


def set_budget(number: int, page: Page, budget: int) -> None:
    """How many bytes a picture for a page may have."""
    stage = _stages.get(number)
    if stage is not None and page in stage.windows:
        stage.session.set_budget(stage.windows[page], budget)


def turns(number: int, page: Page) -> bool:
    """Whether a page has a live picture of its own."""
    return number in _stages and page in _stages[number].windows


def rest(number: int, page: Page) -> None:
    """A page wants no live picture any more, or is gone."""
    stage = _stages.get(number)
    window = stage.windows.pop(page, None) if stage is not None else None
    if stage is None or window is None:
        return
    if window.idle is not None:
        window.idle.cancel()
    stage.session.leave(window)
    _close_when_empty(number, stage)


def _close_when_empty(number: int, stage: _Stage) -> None:
    if not stage.windows:
        task = asyncio.get_running_loop().create_task(_close_soon(number, stage))
        _closing.add(task)
        task.add_done_callback(_closing.discard)


async def _close_soon(number: int, stage: _Stage) -> None:
    await asyncio.sleep(LINGER_SECONDS)
    if not stage.windows and _stages.get(number) is stage:
        del _stages[number]
        await stage.session.close()
