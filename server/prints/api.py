"""Prints over HTTP."""

import asyncio
from collections.abc import AsyncIterator
from datetime import datetime
from pathlib import Path
from typing import Annotated, Literal

from django.core.files.storage import storages
from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse, StreamingHttpResponse
from django.utils.http import content_disposition_header
from ninja import Query, Router, Schema, Status
from ninja.pagination import paginate
from pydantic import Field

from server.errors import Missing, Refused
from server.prints.actions import (
    CancelPrint,
    DeletePrint,
    GoOnPrint,
    HoldPrint,
    MovePrint,
    PrintNext,
    QueuePrint,
    RetryPrint,
    next_name,
    print_for,
)
from server.prints.models import Print
from server.prints.queue import with_places
from server.projects.policy import project_for
from server.runtime.stores import local_path

router = Router(tags=["prints"])
FileKind = Literal["png", "exr", "layers", "hdr", "jpg", "tif", "film", "frames"]
PrintForm = Literal[
    "still", "frames", "frames-jpg", "frames-tif", "frames-exr", "mp4", "hevc", "webm", "av1", "mov", "mkv", "gif",
    "webp",
]  # fmt: skip

CHUNK_BYTES = 1 << 20
CONTENT_TYPES = {
    ".png": "image/png", ".jpg": "image/jpeg", ".tif": "image/tiff", ".exr": "image/x-exr", ".zip": "application/zip",
    ".mp4": "video/mp4", ".webm": "video/webm", ".mov": "video/quicktime", ".mkv": "video/x-matroska",
    ".gif": "image/gif", ".webp": "image/webp",
}  # fmt: skip


class PrintEntry(Schema):
    id: int
    state: str
    width: int
    height: int
    name: str
    """Of its files; empty for one that was made before they had names."""
    form: str
    frames: int
    samples: int
    """Of all frames."""
    samples_done: int
    place: int | None = None
    """As which of all that wait it is made; None once it does not wait."""
    seconds_left: float | None = None
    noise: float | None = None
    """Relative error of a pixel so far [%], where that can be said."""
    glimpses: int
    """How often its small picture has been made anew; 0 before there is one."""
    error: str
    created: datetime
    files: list[FileKind]
    """Those that it has when it is done."""

    @staticmethod
    def resolve_width(item: Print) -> int:
        return int(item.scene["print"]["width"])

    @staticmethod
    def resolve_height(item: Print) -> int:
        return int(item.scene["print"]["height"])

    @staticmethod
    def resolve_files(item: Print) -> list[str]:
        return list(item.kinds)


class PrintName(Schema):
    name: str
    problem: str = ""
    """Why there can be no such name; empty when there can."""


class NewPrint(Schema):
    form: PrintForm = "still"
    """A still, the frames of the time line as a zip of pictures, or a film of them."""
    quality: int = Field(80, ge=0, le=100)
    """Of a film that loses something."""


@router.get("projects/{project_id}/prints", response=list[PrintEntry])
@paginate
def list_prints(request: HttpRequest, project_id: int) -> QuerySet[Print]:
    """The prints of a project, newest first."""
    return with_places(project_for(request.user, project_id).prints.defer("glimpse"))


@router.get("projects/{project_id}/print-name", response=PrintName)
def print_name(
    request: HttpRequest, project_id: int, template: Annotated[str | None, Query(None, max_length=200)]
) -> PrintName:
    """What the files of the next print would be called by a template, the project's own unless given."""
    project = project_for(request.user, project_id)
    try:
        return PrintName(name=next_name(project, template))
    except Refused as refused:
        return PrintName(name="", problem=str(refused))


@router.post("projects/{project_id}/prints", response=PrintEntry)
def queue_print(request: HttpRequest, project_id: int, new: Query[NewPrint]) -> Print:
    """Queue a final frame of the project as it is, or a film of its time line."""
    return QueuePrint(request.user, project_id, **new.dict()).execute()


@router.post("prints/{print_id}/cancel", response=PrintEntry)
def cancel_print(request: HttpRequest, print_id: int) -> Print:
    """Stop a print."""
    return CancelPrint(request.user, print_id).execute()


@router.delete("prints/{print_id}", response={204: None})
def delete_print(request: HttpRequest, print_id: int) -> Status[None]:
    """Remove a print with its files."""
    DeletePrint(request.user, print_id).execute()
    return Status(204, None)


@router.post("prints/{print_id}/retry", response=PrintEntry)
def retry_print(request: HttpRequest, print_id: int) -> Print:
    """Try a print again that has failed."""
    return RetryPrint(request.user, print_id).execute()


@router.post("prints/{print_id}/hold", response=PrintEntry)
def hold_print(request: HttpRequest, print_id: int) -> Print:
    """Hold a print that waits or is being made; its samples are kept."""
    return HoldPrint(request.user, print_id).execute()


@router.post("prints/{print_id}/go-on", response=PrintEntry)
def go_on_print(request: HttpRequest, print_id: int) -> Print:
    """Queue a held print again."""
    return GoOnPrint(request.user, print_id).execute()


@router.post("prints/{print_id}/next", response=PrintEntry)
def print_next(request: HttpRequest, print_id: int) -> Print:
    """Have a print that waits made before all others."""
    return PrintNext(request.user, print_id).execute()


@router.post("prints/{print_id}/before/{other_id}", response=PrintEntry)
def print_before(request: HttpRequest, print_id: int, other_id: int) -> Print:
    """Have a print that waits take the place of another one that does; what lies between moves up or back."""
    return MovePrint(request.user, print_id, other_id).execute()


@router.get("prints/{print_id}/glimpse")
def print_glimpse(request: HttpRequest, print_id: int) -> HttpResponse:
    """A small picture of a print as it is so far, as JPEG."""
    found = print_for(request.user, print_id)
    if found.glimpse is None:
        raise Missing(f"Print {print_id} shows nothing yet.")
    # Its address has the number of the picture, which never changes.
    headers = {"Cache-Control": "private, max-age=86400"}
    return HttpResponse(bytes(found.glimpse), content_type="image/jpeg", headers=headers)


@router.get("prints/{print_id}/files/{kind}")
def print_file(request: HttpRequest, print_id: int, kind: FileKind) -> StreamingHttpResponse:
    """A finished file."""
    found = print_for(request.user, print_id)
    if found.state != Print.State.DONE or not found.has_file(kind):
        raise Missing(f"Print {print_id} has no {kind.upper()} yet.")
    path = local_path(storages["prints"], found.file_name(kind))
    disposition = content_disposition_header(True, found.offered_name(kind)) or "attachment"
    headers = {"Content-Disposition": disposition, "Content-Length": str(path.stat().st_size)}
    return StreamingHttpResponse(_chunks(path), content_type=CONTENT_TYPES[path.suffix], headers=headers)


async def _chunks(path: Path) -> AsyncIterator[bytes]:
    with path.open("rb") as file:
        while chunk := await asyncio.to_thread(file.read, CHUNK_BYTES):
            yield chunk
