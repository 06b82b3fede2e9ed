"""The render host: one process that holds one project's compiled scene and sends pictures of it.

Forked from `template`; messages as `protocol.host` says, the first of them its process number. It knows no Django and
no database: when it dies, nothing is lost, and the supervisor starts another. So it ends at once on what it does not
understand, on an exception, and when the web side falls silent. While a pass runs, a message that changes a picture
makes it give way at the next pixel; edits that wait together are applied once.
"""

import os
import queue
import socket
import threading
import time
import traceback
from dataclasses import asdict
from pathlib import Path
from typing import BinaryIO, Literal

from lantern.engine.engine import Engine
from lantern.film.film import film_bytes
from lantern.picture.denoise import prepare_denoiser
from lantern.scene.editing import Document
from lantern.scene.model import FileRef
from lantern.scene.orders import ASKED_OF, Combination
from server.host.answers import answer
from server.host.denoising import Denoised, Denoiser
from server.host.held import About, HeldDocument
from server.host.pane import Pane
from server.host.shown import SHARPEN_AFTER_SECONDS
from server.host.siblings import Siblings
from server.host.status import TracingSpeed, status_of
from server.host.swatches import Swatches
from server.protocol import browser, host, pipe, questions
from server.protocol.panes import AS_IT_IS, LOOK_FIELDS, OVERLAY_FIELDS
from server.protocol.parts import Message
from server.protocol.takes import HostAnswer

STATUS_SECONDS = 0.5
SILENCE_SECONDS = 30.0
"""A web side that has not asked whether the host lives for so long does not live itself."""
FILM_BYTES = 2 << 30
"""Memory for the films of all panes of a project; the windows are told when it makes their pictures smaller."""
REST_AFTER_SECONDS = 4.0
"""While a print is made a proof that nobody has touched for so long takes no more samples."""
TOUCHES = (host.WholeDocument, host.Changed, host.InHand, host.PaneOfSeat, host.RunProof, host.Ask)
ABOUT_DOCUMENT = (host.WholeDocument, host.Changed, host.InHand, host.Leave)
INTERRUPTING = (*ABOUT_DOCUMENT, host.PaneOfSeat, host.RunProof, host.Drop, host.Ask)
LOOK_SECTIONS = ("look", "balance", "conditions", "light_order")
"""What may change in a document without a sample being lost."""
Heard = host.ToHost | Denoised


class Host:
    """The loop of one project."""

    def __init__(self, source: BinaryIO, target: BinaryIO) -> None:
        self._source, self._target = source, target
        self._sending = threading.Lock()
        self._inbox: queue.SimpleQueue[Heard | None] = queue.SimpleQueue()
        self._engine, self._siblings = Engine(), Siblings()
        self._held, self._listened = HeldDocument(), HeldDocument()  # of the loop, and of the listener
        self._paths: host.Paths = {}
        self._opened = self._running = self._printing = False
        self._touched_at = time.monotonic()
        self._panes: dict[str, Pane] = {}
        self._swatches = Swatches(self._send)
        self._denoiser = Denoiser(self._inbox.put)
        self._first_picture = self._said_rests = self._answering = False
        self._last_state: dict[str, browser.PaneState] = {}  # what came last, by pane; used by the listener alone
        self._status_at = 0.0
        self._speed = TracingSpeed()
        self._doing: tuple[Literal["step", "document", "waiting"], float] = ("waiting", time.monotonic())
        self._heard_at = time.monotonic()

    def _send(self, message: Message, body: bytes = b"") -> None:
        packed = pipe.pack(message, body)
        with self._sending:
            self._target.write(packed)
            self._target.flush()

    # The listener

    def _listen(self) -> None:
        try:
            while (packed := pipe.read(self._source)) is not None:
                self._heard_at = time.monotonic()
                message = host.TO_HOST.validate_json(packed[0])
                if isinstance(message, host.Ping):
                    doing, since = self._doing
                    self._send(host.Pong(doing=doing, seconds=time.monotonic() - since))
                    continue
                asks = self._asks_for_samples(message)
                self._inbox.put(message)
                # A question makes a pass give way, but not the answer to another one.
                waits = isinstance(message, host.Ask) and self._answering
                if not waits and isinstance(message, INTERRUPTING):
                    self._interrupt(asks)
        except Exception:
            # A message that cannot be read: this host and the web side do not agree.
            traceback.print_exc()
            os._exit(1)
        self._inbox.put(None)
        for engine in self._engines():
            engine.cancel()

    def _interrupt(self, asks_for_samples: bool) -> None:
        """Make what runs give way; it goes on where it was if nothing has changed."""
        # A denoiser takes all cores: it stops when its picture is not wanted any more, and only then. While exposure is
        # dragged, a better picture still arrives.
        self._denoiser.stop |= asks_for_samples
        # The first picture of an edit is short and is finished: edits in quick succession would else never show one.
        if not self._first_picture:
            for engine in self._engines():
                engine.cancel()
        self._swatches.cancel()

    def _engines(self) -> list[Engine]:
        """That of the document, and those of what panes show it under."""
        return [self._engine, *self._siblings.engines()]

    def _asks_for_samples(self, message: host.ToHost) -> bool:
        """Whether a message changes more than the look of pictures and what is drawn over them."""
        if isinstance(message, host.InHand | host.Changed | host.Leave):
            asks = self._listened.asks_for_samples(message, LOOK_SECTIONS)
            self._listened.note(message)
            return asks
        if isinstance(message, host.PaneOfSeat):
            before, self._last_state[message.name] = self._last_state.get(message.name), message.state
            exclude = {*OVERLAY_FIELDS, *LOOK_FIELDS, "serial"}
            return before is None or before.model_dump(exclude=exclude) != message.state.model_dump(exclude=exclude)
        return isinstance(message, host.WholeDocument)

    def _watch(self) -> None:
        while time.monotonic() - self._heard_at < SILENCE_SECONDS:
            time.sleep(1.0)
        os._exit(1)

    # The loop

    def run(self) -> None:
        """Serve until the messages end."""
        threading.Thread(target=self._listen, name="listener", daemon=True).start()
        threading.Thread(target=self._watch, name="watch", daemon=True).start()
        self._denoiser.prepare()
        prepare_denoiser(urgent=True)
        while True:
            # Ready before the inbox is read: a message that comes later cancels the pass that follows.
            for engine in self._engines():
                engine.ready()
            self._swatches.ready()
            if not self._take_messages():
                return
            self._doing = "step", time.monotonic()
            working = self._working()
            if self._may_make_swatches():
                self._swatches.step()
            elif working:
                pane = min(working, key=Pane.urgency)
                self._first_picture = pane.shows_nothing
                if self._first_picture:
                    pane.engine.ready()  # what has come since the inbox was read waits for this picture too
                pane.step(self._running, self._denoiser.start)
                self._first_picture = False
                self._status(pane)

    @property
    def _rests(self) -> bool:
        """Whether the machine is left to a print, as nobody touches anything here."""
        return self._printing and time.monotonic() - self._touched_at > REST_AFTER_SECONDS

    def _working(self) -> list[Pane]:
        """Panes for which something can be done."""
        if not self._opened:
            return []
        rests = self._rests
        panes = [pane for pane in self._panes.values() if pane.has_work(self._running)]
        return [pane for pane in panes if not (rests and pane.is_whole(self._running))]

    def _may_make_swatches(self) -> bool:
        """Whether one is missing while somebody looks and every picture in sight is a whole one."""
        seen = [] if self._rests else [pane for pane in self._panes.values() if pane.is_seen]
        return bool(seen) and self._swatches.is_due and all(pane.is_whole(self._running) for pane in seen)

    def _patience(self) -> float | None:
        """Seconds to wait for a message before going on; None for ever."""
        working = self._working()
        if self._may_make_swatches():
            return 0.0
        if not working:
            if self._rests and not self._said_rests:
                self._say_rests()
            return None
        self._said_rests = False
        return SHARPEN_AFTER_SECONDS if all(p.only_sharpens(self._running) for p in working) else 0.0

    def _say_rests(self) -> None:
        """Tell once that the machine is left to a print."""
        self._said_rests = True
        for pane in self._panes.values():
            self._status(pane, force=True)

    def _take_messages(self) -> bool:
        """Handle all waiting messages, or wait for one when there is nothing to do; False at the end."""
        patience, has_changed = self._patience(), False
        self._doing = "waiting", time.monotonic()
        while True:
            try:
                message = self._inbox.get(block=patience != 0.0, timeout=patience)
            except queue.Empty:
                break
            patience = 0.0
            if message is None:
                return False
            if isinstance(message, TOUCHES):
                self._touched_at = time.monotonic()
            if isinstance(message, ABOUT_DOCUMENT):
                self._take_about_document(message)
                has_changed = True  # only the newest of several edits is worth compiling
                continue
            if has_changed:
                self._show_document()
                has_changed = False
            self._handle(message)
        if has_changed:
            self._show_document()
        return True

    def _handle(self, message: Heard) -> None:
        match message:
            case host.PaneOfSeat():
                self._take_pane(message)
            case host.Drop():
                self._panes.pop(message.pane, None)
                self._siblings.keep([pane.engine for pane in self._panes.values()])
                self._share_memory()
            case host.Budget():
                if pane := self._panes.get(message.pane):
                    pane.shown.budget = message.bytes
            case host.SwatchesKnown():
                self._swatches.know(message.made)
            case host.SharedMachine():
                self._printing = message.printing
            case host.RunProof():
                self._running = message.running
                for pane in self._panes.values() if not message.running else ():
                    self._status(pane, force=True)
            case host.Ask():
                self._send(host.Answered(number=message.number, answer=self._answer(message)))
            case Denoised():
                self._take_denoised(message)
            case _:
                raise TypeError(f"nothing is known of a {type(message).__name__}")

    # The document

    def _resolve(self, reference: FileRef) -> Path:
        if reference.sha256 not in self._paths:
            raise FileNotFoundError(f"The file {reference.name} is not stored here: upload it again.")
        return Path(self._paths[reference.sha256])

    def _take_about_document(self, message: About) -> None:
        self._doing = "document", time.monotonic()
        if not isinstance(message, host.Leave):
            self._paths.update(message.paths)
        self._held.take(message)

    def _show_document(self) -> None:
        self._doing = "document", time.monotonic()
        before = self._engine.shown
        document, unfit = self._held.shown()
        for seat, reason in unfit:
            self._send(host.Unfit(seat=seat, message=reason))
        scene = document.scene
        try:
            opens = not self._opened
            if opens:
                problems, restarts = self._engine.open(scene, self._resolve), True
                self._opened = True
            else:
                change = self._engine.apply(scene, self._resolve)
                problems, restarts = change.problems, change.restarts
        except Exception as error:
            # Whatever a scene does to the compiler, the host lives on with what it had.
            self._send(host.Said(message=browser.ErrorMessage(message=str(error) or type(error).__name__)))
            return
        if problems:
            self._send(host.Said(message=browser.Problems(problems=problems)))
        for pane in self._panes.values():
            if pane.engine is self._engine:
                pane.take_document(before, restarts, self._held.revision, self._held.serials.get(pane.seat, 0))
        may_be_back = opens or any(getattr(before, name) is not getattr(scene, name) for name in ASKED_OF)
        self._show_under(document, may_be_back)
        self._swatches.take_document(scene, self._engine.textures, self._engine.pictures)
        unique, placed = self._engine.compiled.triangles
        asset = self._engine.asset
        opened = browser.Opened(
            parts=len(scene.parts),
            triangles=placed,
            unique_triangles=unique,
            moves=self._engine.moves,
            clips=asset.clips if asset else [],
            cameras=[sight.name for sight in asset.sights] if asset else [],
            compiled=asdict(self._engine.compile_counts),
        )
        self._send(host.Said(message=opened))

    def _show_under(self, document: Document, may_be_back: bool) -> None:
        """Bring what panes show the document under to another one; a pane whose edition is gone shows it as it is.

        `may_be_back` is whether what could not be had may be there now: else its reason would be said at every edit.
        """
        followed, lost = self._siblings.follow(document, self._resolve)
        changes = {id(one.engine): one for one in followed}
        gone = {id(engine): reason for engine, reason in lost}
        for name, pane in list(self._panes.items()):
            serial = self._held.serials.get(pane.seat, 0)
            if change := changes.get(id(pane.engine)):
                pane.take_document(change.before, change.restarts, self._held.revision, serial)
            elif (reason := gone.get(id(pane.engine))) is not None and pane.state is not None:
                self._panes[name] = self._new_pane(name, pane.seat, self._engine)
                self._panes[name].take_state(pane.state)
                self._send(host.PaneSaid(pane=name, message=browser.ErrorMessage(message=reason)))
            elif may_be_back and pane.engine is self._engine and pane.state and pane.state.under != AS_IT_IS:
                # It came before the document, or its edition is back.
                del self._panes[name]
                self._take_pane(host.PaneOfSeat(seat=pane.seat, state=pane.state, budget=pane.shown.budget))

    def _others(self, pane: Pane) -> list[Pane]:
        return [each for each in self._panes.values() if each is not pane]

    def _new_pane(self, name: str, seat: int, engine: Engine) -> Pane:
        pane = Pane(name, seat, engine, self._send, self._resolve)
        pane.revision, pane.serial = self._held.revision, self._held.serials.get(seat, 0)
        return pane

    def _other_engine(self, name: str, pane: Pane | None, state: browser.PaneState) -> Engine:
        """The engine of what a pane wants to see; that of the document where it cannot be had, and the reason said."""
        if not self._opened or state.under == AS_IT_IS:
            return self._engine
        wanted = Combination(state.under.edition, state.under.shot, state.under.conditions)
        document = self._held.shown()[0]
        try:
            if pane is not None and not any(each.engine is pane.engine for each in self._others(pane)):
                followed = self._siblings.changed(pane.engine, wanted, document, self._resolve)
                if followed is not None:
                    serial = self._held.serials.get(pane.seat, 0)
                    pane.take_document(followed.before, followed.restarts, self._held.revision, serial)
                    return pane.engine
            return self._siblings.engine_for(wanted, document, self._engine, self._resolve)
        except Exception as error:
            # Whatever it does to the compiler, the host lives on with what it had.
            said = browser.ErrorMessage(message=str(error) or type(error).__name__)
            self._send(host.PaneSaid(pane=name, message=said))
            return self._engine

    def _take_pane(self, message: host.PaneOfSeat) -> None:
        name = message.name
        self._paths.update(message.paths)
        pane = self._panes.get(name)
        is_other = pane is None or pane.state is None or pane.state.under != message.state.under
        engine = pane.engine if pane is not None and not is_other else self._other_engine(name, pane, message.state)
        if pane is None or pane.engine is not engine:
            pane = self._panes[name] = self._new_pane(name, message.seat, engine)
            self._siblings.keep([each.engine for each in self._panes.values()])
        pane.shown.budget = message.budget
        self._share_memory(but=pane)
        if self._opened:
            pane.take_state(message.state)
        else:
            pane.see(message.state)

        if pane.size.is_limited:
            reason = f"All views of this project share {FILM_BYTES >> 20} MiB for pictures: they are drawn smaller."
            self._send(host.Said(message=browser.Problems(problems=[reason])))

    def _share_memory(self, but: Pane | None = None) -> None:
        """Divide the memory for films among the panes, and resize those that now have too large a one."""
        groups = len(self._engine.compiled.light_groups) if self._opened else 2
        most = FILM_BYTES // film_bytes(1, 1, groups=groups) // max(len(self._panes), 1)
        for pane in self._panes.values():
            has_changed, pane.size.most_pixels = pane.size.most_pixels != most, most
            if has_changed and pane is not but and self._opened and pane.state is not None:
                pane.take_state(pane.state)

    # Questions

    def _answer(self, message: host.Ask) -> questions.Answer | HostAnswer:
        pane = self._panes.get(message.pane)
        if pane is None or pane.state is None or not self._opened:
            pane = None  # nothing can be said of it yet
        self._answering = True
        try:
            return answer(message.question, self._engine, pane, self._resolve)
        finally:
            self._answering = False

    # The denoiser and the status

    def _take_denoised(self, made: Denoised) -> None:
        if made.error is not None:
            self._send(host.Said(message=browser.ErrorMessage(message=made.error)))
        pane = self._panes.get(made.pane)
        if pane is not None and pane.developed(made.made, made.generation, made.samples, made.flags, made.region):
            pane.develop_full(pane.engine.scene.proof.denoise, self._denoiser.start)

    def _status(self, pane: Pane, force: bool = False) -> None:
        if pane.film is None or pane.state is None:
            return
        now = time.monotonic()
        if not (force or pane.settled or now - self._status_at >= STATUS_SECONDS):
            return
        self._status_at = now
        rate, counts = self._speed.of(self._engines())
        said = status_of(pane, counts, rate, running=self._running, rests=self._rests)
        self._send(host.PaneSaid(pane=pane.name, message=said))


def serve(connection: socket.socket) -> None:
    """Serve one project until the other end of the connection is closed; this process ends with it.

    Nothing is closed on the way out: closing a stream waits for the thread that reads from it, and would for ever.
    """
    source, target = connection.makefile("rb"), connection.makefile("wb")
    try:
        target.write(pipe.pack(host.Born(pid=os.getpid())))
        target.flush()
        Host(source, target).run()
    except BaseException:
        traceback.print_exc()
        os._exit(1)
    os._exit(0)
