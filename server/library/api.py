"""Environments and light profiles over HTTP."""

from pathlib import Path
from typing import Any

from django.conf import settings
from django.db.models import Q
from django.http import HttpRequest, HttpResponse
from ninja import File, Router, Schema, UploadedFile

from lantern.scene.model import FileRef
from server.errors import Missing
from server.library.actions import AddEnvironment, AddProfile
from server.library.models import EnvironmentItem, LibraryItem, ProfileItem
from server.projects import storage

router = Router(tags=["library"])


def _reference(item: LibraryItem) -> FileRef:
    return FileRef(sha256=item.file.sha256, name=item.file_name)


class Entry(Schema):
    """What all items of the library tell."""

    id: int
    name: str
    built_in: bool

    @staticmethod
    def resolve_built_in(item: LibraryItem) -> bool:
        return item.owner_id is None


class EnvironmentEntry(Entry):
    map: FileRef
    width: int
    height: int
    problems: list[str]

    @staticmethod
    def resolve_map(item: EnvironmentItem) -> FileRef:
        return _reference(item)


class ProfileEntry(Entry):
    profile: FileRef
    lumens: float
    curve: list[tuple[float, float]]

    @staticmethod
    def resolve_profile(item: ProfileItem) -> FileRef:
        return _reference(item)


def _for(request: HttpRequest) -> Q:
    """What is everybody's or the person's own."""
    return Q(owner=None) | Q(owner=request.user)


def _built_in_first(item: LibraryItem) -> tuple[bool, int]:
    return item.owner_id is not None, item.pk


@router.get("environments", response=list[EnvironmentEntry])
def list_environments(request: HttpRequest) -> list[EnvironmentItem]:
    """Built-in environments first, then the person's own."""
    items = EnvironmentItem.objects.filter(_for(request)).select_related("file")
    return sorted(items.defer("thumbnail"), key=_built_in_first)


def _add(request: HttpRequest, file: UploadedFile, limit: int, action: type[AddEnvironment] | type[AddProfile]) -> Any:
    """Put an upload into the person's own part of the library, named after its file."""
    name = Path(file.name or "upload").name
    path = storage.receive(file, limit)
    try:
        return action(request.user, path, name, Path(name).stem.replace("_", " ")).execute()
    finally:
        storage.discard(path)


@router.post("environments", response=EnvironmentEntry)
def add_environment(request: HttpRequest, file: File[UploadedFile]) -> EnvironmentItem:
    """Upload an HDR map."""
    return _add(request, file, settings.ENVIRONMENT_SIZE_LIMIT, AddEnvironment)


@router.get("environments/{item_id}/thumbnail")
def environment_thumbnail(request: HttpRequest, item_id: int) -> HttpResponse:
    """A small picture of the map."""
    item = EnvironmentItem.objects.filter(_for(request), pk=item_id).first()
    if item is None:
        raise Missing(f"There is no environment {item_id} for you.")
    return HttpResponse(
        bytes(item.thumbnail), content_type="image/jpeg", headers={"Cache-Control": "private, max-age=86400"}
    )


@router.get("profiles", response=list[ProfileEntry])
def list_profiles(request: HttpRequest) -> list[ProfileItem]:
    """Built-in light profiles first, then the person's own."""
    return sorted(ProfileItem.objects.filter(_for(request)).select_related("file"), key=_built_in_first)


@router.post("profiles", response=ProfileEntry)
def add_profile(request: HttpRequest, file: File[UploadedFile]) -> ProfileItem:
    """Upload an IES file."""
    return _add(request, file, settings.PROFILE_SIZE_LIMIT, AddProfile)
