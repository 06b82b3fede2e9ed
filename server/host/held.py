"""The document of a host: what is committed, and over it the edits that seats have in hand.

In: messages about the document. Out: the document to show, and which edits in hand do not fit it. Called by `loop`.
"""

from lantern.scene.editing import Document
from lantern.scene.reading import SceneError
from server.protocol.host import Changed, InHand, Leave, WholeDocument
from server.protocol.parts import Patch

About = WholeDocument | Changed | InHand | Leave
"""Messages about the document."""


class HeldDocument:
    """What the web side has said of the document."""

    def __init__(self) -> None:
        self._committed: Document | None = None
        self._in_hand: dict[int, Patch] = {}
        self.revision = 0
        self.serials: dict[int, int] = {}
        """Number of the newest edit in hand, by seat."""

    def take(self, message: About) -> None:
        """Note a message. Raises SceneError for a committed document that cannot be read, which ends the host."""
        match message:
            case WholeDocument():
                self._committed, self.revision = Document.read(message.scene), message.revision
            case Changed():
                if self._committed is None:
                    raise SceneError("a change came before the document")
                self._committed, self.revision = self._committed.patched(message.patch)[0], message.revision
                if message.released is not None:
                    self._in_hand.pop(message.released, None)
            case InHand():
                self._take_in_hand(message)
            case Leave():
                self._in_hand.pop(message.seat, None)
                self.serials.pop(message.seat, None)

    def _take_in_hand(self, message: InHand) -> None:
        if message.serial < self.serials.get(message.seat, 0):
            return  # one that had to wait for a file's place comes after a newer one
        self.serials[message.seat] = message.serial
        if message.patch:
            self._in_hand[message.seat] = message.patch
        else:
            self._in_hand.pop(message.seat, None)

    def shown(self) -> tuple[Document, list[tuple[int, str]]]:
        """(the document with all edits in hand; seats whose edit does not fit and is let go, with the reason)."""
        if self._committed is None:
            raise SceneError("an edit in hand came before the document")
        document, unfit = self._committed, []
        for seat, patch in list(self._in_hand.items()):
            try:
                document = document.patched(patch)[0]
            except SceneError as error:
                del self._in_hand[seat]
                unfit.append((seat, str(error)))
        return document, unfit

    def note(self, message: InHand | Changed | Leave) -> None:
        """Note what seats have in hand, and nothing of the document: for who only asks `asks_for_samples`."""
        match message:
            case InHand():
                self._take_in_hand(message)
            case Changed(released=int(seat)) | Leave(seat=seat):
                self._in_hand.pop(seat, None)

    def asks_for_samples(self, message: About, look: tuple[str, ...]) -> bool:
        """Whether a message changes more than the sections `look`: one that says what is in hand already does not."""
        match message:
            case WholeDocument():
                return True
            case Changed(released=seat, patch=patch) if seat is not None:
                held = self._in_hand.get(seat, [])
                return _changes(patch, look) and not _says_the_same(patch, held)
            case Changed(patch=patch) | InHand(patch=patch) if patch:
                return _changes(patch, look)
            case InHand(seat=seat) | Leave(seat=seat):
                return _changes(self._in_hand.get(seat, []), look)
        return True


def _changes(patch: Patch, look: tuple[str, ...]) -> bool:
    return any(str(operation.get("path")).split("/")[1:2] not in [[name] for name in look] for operation in patch)


def _says_the_same(one: Patch, other: Patch) -> bool:
    return {o["path"]: o.get("value") for o in one} == {str(o.get("path")): o.get("value") for o in other}
