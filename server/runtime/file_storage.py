"""Django's file storage on the disk of this machine: each file is whole and on the disk before it has a name."""

from pathlib import Path

from django.core.files.base import ContentFile
from django.core.files.storage import FileSystemStorage

from server.runtime.durable import written


class DurableStorage(FileSystemStorage):
    """Names are digests of the content: a file of the same name is the same file, left over perhaps from a crash."""

    def _save(self, name: str, content: ContentFile) -> str:
        path = Path(self.path(name))
        path.parent.mkdir(parents=True, exist_ok=True)
        written(path, content.chunks())
        return name

    def get_available_name(self, name: str, max_length: int | None = None) -> str:
        return name
