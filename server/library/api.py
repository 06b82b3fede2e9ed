"""Environments over HTTP."""

from pathlib import Path

from django.conf import settings
from django.db.models import Q
from django.http import HttpRequest, HttpResponse
from ninja import File, Router, Schema, UploadedFile

from lantern.scene.document import FileRef
from server.library.actions import AddEnvironment
from server.library.models import EnvironmentItem
from server.projects import storage
from server.projects.errors import Missing

router = Router(tags=["library"])


class EnvironmentEntry(Schema):
    id: int
    name: str
    built_in: bool
    map: FileRef
    width: int
    height: int
    problems: list[str]

    @staticmethod
    def resolve_built_in(item: EnvironmentItem) -> bool:
        return item.owner_id is None

    @staticmethod
    def resolve_map(item: EnvironmentItem) -> FileRef:
        return FileRef(sha256=item.file.sha256, name=item.file_name)


@router.get("", response=list[EnvironmentEntry])
def list_environments(request: HttpRequest) -> list[EnvironmentItem]:
    """Built-in environments first, then the person's own."""
    items = EnvironmentItem.objects.filter(Q(owner=None) | Q(owner=request.user)).select_related("file")
    return sorted(items.defer("thumbnail"), key=lambda item: (item.owner_id is not None, item.pk))


@router.post("", response=EnvironmentEntry)
def add_environment(request: HttpRequest, file: File[UploadedFile]) -> EnvironmentItem:
    """Upload an HDR map."""
    name = Path(file.name or "environment").name
    path = storage.receive(file, settings.ENVIRONMENT_SIZE_LIMIT)
    try:
        return AddEnvironment(request.user, path, name, Path(name).stem.replace("_", " ")).execute()
    finally:
        storage.discard(path)


@router.get("{item_id}/thumbnail")
def environment_thumbnail(request: HttpRequest, item_id: int) -> HttpResponse:
    """A small picture of the map."""
    item = EnvironmentItem.objects.filter(Q(owner=None) | Q(owner=request.user), pk=item_id).first()
    if item is None:
        raise Missing(f"There is no environment {item_id} for you.")
    return HttpResponse(
        bytes(item.thumbnail), content_type="image/jpeg", headers={"Cache-Control": "private, max-age=86400"}
    )
