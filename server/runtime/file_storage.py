"""Django's file storage on the disk of this machine: each file is whole and on the disk before it has a name."""

import errno
from contextlib import suppress
from pathlib import Path

from django.core.files.base import ContentFile
from django.core.files.storage import FileSystemStorage

from server.runtime.durable import put_in_place, written

CHUNK_BYTES = 1 << 20


class DurableStorage(FileSystemStorage):
    """A name stands for one content: a file of the same name is the same file, left over perhaps from a crash."""

    def _save(self, name: str, content: ContentFile) -> str:
        path = self._place(name)
        written(path, content.chunks())
        return name

    def take(self, path: Path, name: str) -> None:
        """Give a file of this machine its name here, without copying it where both are on the same disk."""
        place = self._place(name)
        try:
            put_in_place(path, place)
        except OSError as error:
            if error.errno != errno.EXDEV:
                raise
            with path.open("rb") as source:
                written(place, iter(lambda: source.read(CHUNK_BYTES), b""))
            path.unlink()

    def delete(self, name: str) -> None:
        """Delete a file, and its folder when that is empty then."""
        super().delete(name)
        folder = Path(self.path(name)).parent
        if folder != Path(self.location):
            with suppress(OSError):  # there is more in it
                folder.rmdir()

    def get_available_name(self, name: str, max_length: int | None = None) -> str:
        return name

    def _place(self, name: str) -> Path:
        path = Path(self.path(name))
        path.parent.mkdir(parents=True, exist_ok=True)
        return path
