"""Environments and light profiles over HTTP."""

from django.db.models import F, Q, QuerySet
from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema, Status
from ninja.pagination import paginate

from lantern.scene.model import FileRef
from server.errors import Missing
from server.library.actions import DeleteItem
from server.library.models import EnvironmentItem, LibraryItem, ProfileItem

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


BUILT_IN_FIRST = (F("owner").asc(nulls_first=True), "pk")


@router.get("environments", response=list[EnvironmentEntry])
@paginate
def list_environments(request: HttpRequest) -> QuerySet[EnvironmentItem]:
    """Built-in environments first, then the person's own."""
    items = EnvironmentItem.objects.filter(_for(request)).select_related("file")
    return items.defer("thumbnail").order_by(*BUILT_IN_FIRST)


@router.get("environments/{item_id}/thumbnail")
def environment_thumbnail(request: HttpRequest, item_id: int) -> HttpResponse:
    """A small picture of the map."""
    item = EnvironmentItem.objects.filter(_for(request), pk=item_id).first()
    if item is None:
        raise Missing(f"There is no environment {item_id} for you.")
    return HttpResponse(
        bytes(item.thumbnail), content_type="image/jpeg", headers={"Cache-Control": "private, max-age=86400"}
    )


@router.delete("environments/{item_id}", response={204: None})
def delete_environment(request: HttpRequest, item_id: int) -> Status[None]:
    """Take a map off the person's own shelf."""
    DeleteItem(request.user, EnvironmentItem, item_id).execute()
    return Status(204, None)


@router.delete("profiles/{profile_id}", response={204: None})
def delete_profile(request: HttpRequest, profile_id: int) -> Status[None]:
    """Take a profile out of the person's own library."""
    DeleteItem(request.user, ProfileItem, profile_id).execute()
    return Status(204, None)


@router.get("profiles", response=list[ProfileEntry])
@paginate
def list_profiles(request: HttpRequest) -> QuerySet[ProfileItem]:
    """Built-in light profiles first, then the person's own."""
    return ProfileItem.objects.filter(_for(request)).select_related("file").order_by(*BUILT_IN_FIRST)
