"""Questions that wait for an answer of the host.

In: who asks, and what is done with the answer. Out: a number for each; later what was to be done. Owned by `session`.
"""

from collections.abc import Callable
from typing import Any

from server.live.seats import View

Answering = Callable[[Any], None]
"""What is done with an answer of the host."""


class Pending:
    """Questions by their numbers, as long as whoever asked is there."""

    def __init__(self) -> None:
        self._waiting: dict[int, tuple[View, Answering]] = {}
        self._newest = 0

    def add(self, view: View, answering: Answering) -> int:
        """The number that the answer comes with."""
        self._newest += 1
        self._waiting[self._newest] = view, answering
        return self._newest

    def answered(self, number: int, answer: Any) -> None:
        """Do what was to be done with an answer; nothing when nobody waits for it any more."""
        _, answering = self._waiting.pop(number, (None, None))
        if answering is not None:
            answering(answer)

    def forget(self, view: View) -> None:
        """A view has left."""
        for number in [n for n, (asking, _) in self._waiting.items() if asking is view]:
            del self._waiting[number]
