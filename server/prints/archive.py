"""All files of an order as one zip, written while it is sent: nothing of it is in memory or on disk as a whole.

In: an order. Out: bytes, a piece at a time. Called by the HTTP interface.
"""

import io
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from django.core.files.storage import storages

from server.errors import Refused
from server.prints.models import Order, Print
from server.runtime.stores import local_path

CHUNK_BYTES = 1 << 20


class _Sink(io.RawIOBase):
    """Takes what a zip writes, until it is fetched."""

    def __init__(self) -> None:
        self._waiting = bytearray()

    def writable(self) -> bool:
        return True

    def write(self, piece: Any) -> int:
        self._waiting += piece
        return len(piece)

    def fetched(self) -> bytes:
        """What has come since the last time."""
        waiting, self._waiting = bytes(self._waiting), bytearray()
        return waiting


def members_of(order: Order) -> list[tuple[str, Path]]:
    """(name, where it lies) of all files that are made. Raises Refused before there is one."""
    found = []
    for item in order.prints.filter(state=Print.State.DONE).order_by("pk"):
        for kind in item.kinds:
            if item.has_file(kind):
                path = local_path(storages["prints"], item.file_name(kind))
                found.append((item.offered_name(kind), path))
    if not found:
        raise Refused("No picture of this order is made yet: wait for the first one.")
    return found


def zipped(members: list[tuple[str, Path]]) -> Iterator[bytes]:
    """The zip of files, in pieces; they are pictures, which do not get smaller."""
    sink = _Sink()
    with zipfile.ZipFile(sink, "w", zipfile.ZIP_STORED, allowZip64=True) as target:
        for name, path in members:
            with path.open("rb") as source, target.open(zipfile.ZipInfo(name), "w", force_zip64=True) as member:
                while piece := source.read(CHUNK_BYTES):
                    member.write(piece)
                    yield sink.fetched()
    yield sink.fetched()
