"""Packages over HTTP. In they come as uploads."""

import re
from collections.abc import AsyncIterator, Iterator

from asgiref.sync import sync_to_async
from django.http import HttpRequest, StreamingHttpResponse
from django.utils.http import content_disposition_header
from ninja import Router

from server.packages.actions import PackProject
from server.packages.contents import SUFFIX

router = Router(tags=["projects"])


@router.get("projects/{project_id}/package")
def project_package(request: HttpRequest, project_id: int, history: bool = True) -> StreamingHttpResponse:
    """Everything of a project in one zip, with its steps of undo unless `history` is false."""
    name, pieces = PackProject(request.user, project_id, history).execute()
    file_name = " ".join(re.sub(r"[^\w.()&+-]+", " ", name).split()) + SUFFIX
    answer = StreamingHttpResponse(_sent(pieces), content_type="application/zip")
    answer["Content-Disposition"] = content_disposition_header(True, file_name)
    return answer


async def _sent(pieces: Iterator[bytes]) -> AsyncIterator[bytes]:
    """The pieces, each made in a thread: files are read from the disk."""
    while piece := await sync_to_async(next, thread_sensitive=False)(pieces, b""):
        yield piece
