"""A package written while it is sent: nothing is gathered on the disk first.

In: what is in it. Out: the bytes of a zip, piece by piece. Files are stored as they are: most are compressed already.
"""

import zipfile
from collections.abc import Iterator, Mapping
from pathlib import Path

from server.packages.contents import COVER, FILES, INDEX, Index

PIECE = 1 << 20


class _Outlet:
    """A file that cannot be sought in; what was written to it is taken out again."""

    def __init__(self) -> None:
        self._written: list[bytes] = []

    def write(self, data: bytes) -> int:
        self._written.append(bytes(data))
        return len(data)

    def flush(self) -> None:
        """There is nothing behind it."""

    def close(self) -> None:
        """Nothing is held open."""

    def taken(self) -> bytes:
        data, self._written = b"".join(self._written), []
        return data


def package_bytes(index: Index, cover: bytes | None, files: Mapping[str, Path]) -> Iterator[bytes]:
    """The zip in pieces of about a megabyte; `files` by digest."""
    outlet = _Outlet()
    with zipfile.ZipFile(outlet, "w", zipfile.ZIP_STORED, allowZip64=True) as package:
        package.writestr(INDEX, index.model_dump_json(), zipfile.ZIP_DEFLATED)
        if cover is not None:
            package.writestr(COVER, cover)
        for digest, path in sorted(files.items()):
            with path.open("rb") as source, package.open(f"{FILES}{digest}", "w", force_zip64=True) as target:
                while piece := source.read(PIECE):
                    target.write(piece)
                    yield outlet.taken()
    yield outlet.taken()
