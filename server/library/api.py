"""Environments, light profiles, images and materials over HTTP."""

from datetime import date

from django.db.models import F, Q, QuerySet
from django.http import HttpRequest, HttpResponse, StreamingHttpResponse
from django.views.decorators.gzip import gzip_page
from ninja import Field, Router, Schema, Status
from ninja.decorators import decorate_view
from ninja.pagination import paginate

from lantern.scene.document import Material, Scene
from lantern.scene.look import Look
from lantern.scene.looks import NamedLook
from lantern.scene.model import FileRef
from lantern.scene.rigs import Rig
from lantern.shelf.cities import City, find_cities
from server.errors import Missing
from server.library.actions import DeleteItem
from server.library.looks import KeepLook, ShelvedLook, TakeOffLook
from server.library.looks import shelf_of as looks_of
from server.library.models import EnvironmentItem, ImageItem, LibraryItem, ProfileItem
from server.library.picturing import ask_for_pictures
from server.library.rigs import KeepRig, ShelvedRig, TakeOffRig
from server.library.rigs import shelf_of as rigs_of
from server.library.swatches import KeepSwatch, LikeSwatch, Shelved, TakeOffSwatch, own, shelf_of, swatch_for
from server.packages.actions import material_file
from server.packages.api import material_download

router = Router(tags=["library"])
LONGEST_WORDS = 100
"""Letters of a city's name that are looked at."""


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
    luminance: float | None
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


class ImageEntry(Entry):
    file: FileRef
    width: int
    height: int
    has_alpha: bool
    is_ball: bool
    problems: list[str]

    @staticmethod
    def resolve_file(item: ImageItem) -> FileRef:
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


@router.get("images", response=list[ImageEntry])
@paginate
def list_images(request: HttpRequest) -> QuerySet[ImageItem]:
    """Built-in images first, then the person's own."""
    items = ImageItem.objects.filter(_for(request)).select_related("file")
    return items.defer("thumbnail").order_by(*BUILT_IN_FIRST)


@router.get("images/{image_id}/thumbnail")
def image_thumbnail(request: HttpRequest, image_id: int) -> HttpResponse:
    """A small picture of an image, with its alpha."""
    item = ImageItem.objects.filter(_for(request), pk=image_id).first()
    if item is None:
        raise Missing(f"There is no image {image_id} for you.")
    return HttpResponse(
        bytes(item.thumbnail), content_type="image/png", headers={"Cache-Control": "private, max-age=86400"}
    )


@router.delete("images/{image_id}", response={204: None})
def delete_image(request: HttpRequest, image_id: int) -> Status[None]:
    """Take an image off the person's own shelf."""
    DeleteItem(request.user, ImageItem, image_id).execute()
    return Status(204, None)


class SwatchEntry(Schema):
    """A material of the shelf: what is laid into a document, the lowest first."""

    key: str
    name: str
    family: str
    words: str
    number: int | None
    materials: dict[str, Material]
    is_favourite: bool
    problems: list[str]
    has_picture: bool

    @staticmethod
    def resolve_has_picture(item: Shelved) -> bool:
        return item.picture.is_file()


class NewSwatch(Schema):
    """A material of a project that is to be kept, and words that it is found by."""

    project: int
    material: str = Field(max_length=80)
    tags: str = Field("", max_length=200, pattern=r"^[^\x00]*$")


@router.get("swatches", response=list[SwatchEntry])
@decorate_view(gzip_page)
def list_swatches(request: HttpRequest) -> list[Shelved]:
    """The person's own materials, then those of the shelf by family."""
    return list(shelf_of(request.user))


@router.post("swatches", response=SwatchEntry)
def keep_swatch(request: HttpRequest, data: NewSwatch) -> Shelved:
    """Keep a material of a project on the person's own shelf, without its images."""
    item = KeepSwatch(request.user, data.project, data.material, data.tags).execute()
    ask_for_pictures()
    return own(item)


class Liked(Schema):
    """Whether a swatch is among the person's favourites."""

    is_favourite: bool


@router.patch("swatches/{swatch_key}", response={204: None})
def like_swatch(request: HttpRequest, swatch_key: str, data: Liked) -> Status[None]:
    """Put a swatch among the person's favourites, or take it from there."""
    LikeSwatch(request.user, swatch_key, data.is_favourite).execute()
    return Status(204, None)


@router.get("swatches/{swatch_key}/picture")
def swatch_picture(request: HttpRequest, swatch_key: str) -> HttpResponse:
    """The picture of a swatch, once it has been made."""
    path = swatch_for(request.user, swatch_key).picture
    if not path.is_file():
        raise Missing(f"There is no picture of the swatch {swatch_key} yet.")
    return HttpResponse(path.read_bytes(), content_type="image/jpeg", headers={"Cache-Control": "private, max-age=600"})


@router.get("swatches/{swatch_key}/file")
def swatch_file(request: HttpRequest, swatch_key: str) -> StreamingHttpResponse:
    """A material of the shelf as MaterialX, with what lies over it and its images, in a zip."""
    materials = swatch_for(request.user, swatch_key).materials
    return material_download(*material_file(Scene(materials=dict(materials)), swatch_key))


@router.delete("swatches/{swatch_key}", response={204: None})
def take_off_swatch(request: HttpRequest, swatch_key: str) -> Status[None]:
    """Take a swatch off the person's own shelf."""
    TakeOffSwatch(request.user, swatch_key).execute()
    return Status(204, None)


class CityEntry(Schema):
    """A city: degrees north and east, hours ahead of UTC."""

    name: str
    country: str
    latitude: float
    longitude: float
    zone: float


@router.get("cities", response=list[CityEntry])
def list_cities(request: HttpRequest, words: str, day: date) -> list[City]:
    """Cities whose name begins with the words, with their clocks on a day."""
    return find_cities(words[:LONGEST_WORDS], day)


class RigEntry(Schema):
    """A rig of the shelf."""

    key: str
    name: str
    built_in: bool
    rig: Rig


@router.get("rigs", response=list[RigEntry])
@decorate_view(gzip_page)
def list_rigs(request: HttpRequest) -> list[ShelvedRig]:
    """The person's own rigs, then those that are built in."""
    return rigs_of(request.user)


@router.post("rigs", response=RigEntry)
def keep_rig(request: HttpRequest, data: Rig) -> ShelvedRig:
    """Keep a rig on the person's own shelf."""
    return KeepRig(request.user, data).execute()


@router.delete("rigs/{rig_key}", response={204: None})
def take_off_rig(request: HttpRequest, rig_key: str) -> Status[None]:
    """Take a rig off the person's own shelf."""
    TakeOffRig(request.user, rig_key).execute()
    return Status(204, None)


class LookEntry(Schema):
    """A look of the shelf."""

    key: str
    name: str
    built_in: bool
    look: Look


@router.get("looks", response=list[LookEntry])
@decorate_view(gzip_page)
def list_looks(request: HttpRequest) -> list[ShelvedLook]:
    """The person's own looks, then those that are built in."""
    return looks_of(request.user)


@router.post("looks", response=LookEntry)
def keep_look(request: HttpRequest, data: NamedLook) -> ShelvedLook:
    """Keep a look on the person's own shelf."""
    return KeepLook(request.user, data).execute()


@router.delete("looks/{look_key}", response={204: None})
def take_off_look(request: HttpRequest, look_key: str) -> Status[None]:
    """Take a look off the person's own shelf."""
    TakeOffLook(request.user, look_key).execute()
    return Status(204, None)
