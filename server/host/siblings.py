"""The document under other editions, shots and light, each in an engine of its own beside that of the document.

In: the document as it changes, the combinations that panes want. Out: engines, and what a change did to them. Called by
`loop`. They share what was read of the asset, and trace in turn: panes wait for one another as they do in one engine.
"""

from collections.abc import Callable, Collection
from dataclasses import dataclass

from lantern.engine.engine import Engine
from lantern.engine.own_images import Resolver
from lantern.scene.document import Scene
from lantern.scene.editing import Document
from lantern.scene.orders import Combination, shown_under

MOST = 3
"""Beside the document as it is: each has trees and tables of its own."""
PLAIN = Combination()


class TooMany(ValueError):
    """More combinations are wanted at once than there is memory for."""


@dataclass(frozen=True)
class Followed:
    """What an edit of the document did to a sibling."""

    engine: Engine
    before: Scene
    restarts: bool


class Siblings:
    """Engines by what they show."""

    def __init__(self, make: Callable[[], Engine] = Engine) -> None:
        self._make = make
        self._engines: dict[Combination, Engine] = {}

    def engines(self) -> list[Engine]:
        """All of them; safe from any thread."""
        return list(self._engines.values())

    def engine_for(self, wanted: Combination, document: Document, main: Engine, resolve: Resolver) -> Engine:
        """The engine that shows a combination, opened where there is none yet.

        Raises TooMany, and as `shown_under` and `Engine.open`.
        """
        if wanted == PLAIN:
            return main
        if wanted not in self._engines:
            if len(self._engines) >= MOST:
                raise TooMany(f"{MOST} other editions, shots or lights are shown at once, and these would be more.")
            scene = shown_under(document, wanted)
            engine = self._make()
            engine.open(scene, resolve, main.asset, main.pictures)
            self._engines[wanted] = engine
        return self._engines[wanted]

    def changed(self, engine: Engine, wanted: Combination, document: Document, resolve: Resolver) -> Followed | None:
        """Have a sibling show another combination at the cost of what differs, which a pane does that has it alone.

        None where that is no sibling, or another one shows it already, or it is the document as it is. Raises as
        `shown_under` and `Engine.apply`.
        """
        old = next((key for key, each in self._engines.items() if each is engine), None)
        if old is None or wanted == PLAIN or wanted in self._engines:
            return None
        before = engine.shown
        change = engine.apply(shown_under(document, wanted), resolve)
        self._engines[wanted] = self._engines.pop(old)
        return Followed(engine, before, change.restarts)

    def follow(self, document: Document, resolve: Resolver) -> tuple[list[Followed], list[tuple[Engine, str]]]:
        """(what an edit did to each; those that cannot follow it and are closed, with the reason)."""
        followed, lost = [], []
        for wanted, engine in list(self._engines.items()):
            before = engine.shown
            try:
                change = engine.apply(shown_under(document, wanted), resolve)
            except Exception as error:
                # What it showed is gone, or does not go together any more.
                lost.append((engine, str(error) or type(error).__name__))
                self._close(wanted)
                continue
            followed.append(Followed(engine, before, change.restarts))
        return followed, lost

    def keep(self, used: Collection[Engine]) -> None:
        """Close those that no pane shows any more."""
        for wanted, engine in list(self._engines.items()):
            if not any(engine is each for each in used):
                self._close(wanted)

    def _close(self, wanted: Combination) -> None:
        self._engines.pop(wanted).close()
