"""Files by content in Django's storage."""

from collections.abc import Iterable
from pathlib import Path

from django.contrib.auth.models import AbstractBaseUser, AnonymousUser
from django.core.files import File
from django.db.models import Q

from lantern.assets.hashing import sha256_of
from lantern.scene.document import Scene
from lantern.scene.editing import files_in
from lantern.scene.model import FileRef
from server.errors import Refused
from server.projects.models import StoredFile
from server.runtime.stores import local_path

Person = AbstractBaseUser | AnonymousUser


def keep(path: Path, name: str, reader: Person | None) -> FileRef:
    """Store a file by its content, for a person or, None, for everybody; returns the reference that documents use."""
    digest = sha256_of(path)
    if not StoredFile.objects.filter(sha256=digest).exists():
        stored = StoredFile(sha256=digest, size=path.stat().st_size)
        with path.open("rb") as content:
            stored.file.save(digest, File(content), save=False)
        # Somebody may have stored the same content meanwhile.
        StoredFile.objects.get_or_create(sha256=digest, defaults={"size": stored.size, "file": stored.file.name})
    known = StoredFile.objects.get(sha256=digest)
    if reader is None:
        StoredFile.objects.filter(pk=known.pk).update(is_public=True)
    else:
        known.readers.add(reader.pk)
    return FileRef(sha256=digest, name=name)


def paths_of(references: Iterable[FileRef], reader: Person | None = None) -> dict[str, str]:
    """Paths of files by digest. Raises Refused when one is not stored, or not for `reader`, if one is given."""
    names = {reference.sha256: reference.name for reference in references}
    if not names:
        return {}
    found = StoredFile.objects.filter(sha256__in=names)
    if reader is not None and not getattr(reader, "is_superuser", False):
        found = found.filter(Q(is_public=True) | Q(readers=reader.pk)).distinct()
    paths = {stored.sha256: path_of(stored) for stored in found}
    for digest, name in names.items():
        if digest not in paths:
            raise Refused(f"The file {name} is not stored here: upload it again.")
    return paths


def known_paths(references: Iterable[FileRef]) -> dict[str, str]:
    """Paths of those files that are stored, by digest."""
    digests = {reference.sha256 for reference in references}
    return {stored.sha256: path_of(stored) for stored in StoredFile.objects.filter(sha256__in=digests)}


def path_of(stored: StoredFile) -> str:
    """Where a stored file lies on this machine."""
    return str(local_path(stored.file.storage, stored.file.name))


def paths_for(scene: Scene) -> dict[str, str]:
    """Paths of all files of a document by digest. Raises Refused when one is not stored."""
    return paths_of(files_in(scene.plain()))
