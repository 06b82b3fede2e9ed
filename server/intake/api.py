"""Uploads over HTTP: a file is taken in at once and read in the background."""

from datetime import datetime

from django.db.models import QuerySet
from django.http import HttpRequest
from ninja import Field, File, Form, Router, Schema, UploadedFile
from ninja.pagination import paginate

from lantern.assets.swapping import SwapRow
from server.intake.actions import CancelUpload, TakeIn, TakeOffer, upload_for
from server.intake.models import Upload

router = Router(tags=["uploads"])


class SwapOffer(Schema):
    """What a newer version of an asset would make of the parts of its project."""

    table: list[SwapRow]


class Matching(Schema):
    """How an offer is taken."""

    matches: dict[str, str] = Field(default_factory=dict)
    """Keys of parts that are gone, by those of the new parts that take their places."""
    as_variant: bool = False
    """Whether an asset that is added stands where the others do, as a variant of them."""


class UploadState(Schema):
    """How far an upload is; `result` is the number of what it has become."""

    id: int
    kind: str
    file_name: str
    state: str
    stage: str
    share: float
    error: str
    result: int | None = None
    offer: SwapOffer | None = None
    created: datetime


@router.get("uploads", response=list[UploadState])
@paginate
def list_uploads(request: HttpRequest) -> QuerySet[Upload]:
    """The person's uploads, newest first."""
    return Upload.objects.filter(owner=request.user)


@router.get("uploads/{upload_id}", response=UploadState)
def get_upload(request: HttpRequest, upload_id: int) -> Upload:
    """How far one is."""
    return upload_for(request.user, upload_id)


@router.post("uploads/{upload_id}/cancel", response=UploadState)
def cancel_upload(request: HttpRequest, upload_id: int) -> Upload:
    """Stop one."""
    return CancelUpload(request.user, upload_id).execute()


@router.post("uploads/{upload_id}/take", response=UploadState)
def take_offer(request: HttpRequest, upload_id: int, matching: Matching | None = None) -> Upload:
    """Take a newer version of an asset into its project: one step of undo."""
    said = matching or Matching()
    return TakeOffer(request.user, upload_id, said.matches, said.as_variant).execute()


@router.post("intake/{kind}", response=UploadState)
def upload(
    request: HttpRequest,
    kind: Upload.Kind,
    file: File[UploadedFile],
    start: Form[int | None] = None,
    swaps: Form[int | None] = None,
    joins: Form[bool] = False,
) -> Upload:
    """Upload a file: an asset becomes a project; a map, a profile, an image, materials are of the person's library.

    A project's package is an asset as well. `start` is the set-up with which an asset's project begins: 0 none, without
    it the person's default. With `swaps` the asset is a newer version of that project's, or with `joins` one
    that comes beside it: its state has an offer then.
    """
    return TakeIn(request.user, kind, file, start, swaps, joins).execute()
