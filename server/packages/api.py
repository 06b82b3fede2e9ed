"""Packages over HTTP. In they come as uploads."""

import re
from collections.abc import AsyncIterator, Iterator

from asgiref.sync import sync_to_async
from django.http import HttpRequest, StreamingHttpResponse
from django.utils.http import content_disposition_header
from ninja import Router

from server.packages.actions import ExportModel, PackProject
from server.packages.contents import SUFFIX

router = Router(tags=["projects"])


@router.get("projects/{project_id}/package")
def project_package(request: HttpRequest, project_id: int, history: bool = True) -> StreamingHttpResponse:
    """Everything of a project in one zip, with its steps of undo unless `history` is false."""
    name, pieces = PackProject(request.user, project_id, history).execute()
    return _download(name, SUFFIX, pieces, "application/zip")


@router.get("projects/{project_id}/model")
def project_model(request: HttpRequest, project_id: int) -> StreamingHttpResponse:
    """What can be seen of a project as a GLB: parts where they stand, materials, images, lights and the camera."""
    name, pieces = ExportModel(request.user, project_id).execute()
    return _download(name, ".glb", pieces, "model/gltf-binary")


def _download(name: str, suffix: str, pieces: Iterator[bytes], kind: str) -> StreamingHttpResponse:
    file_name = " ".join(re.sub(r"[^\w.()&+-]+", " ", name).split()) + suffix
    answer = StreamingHttpResponse(_sent(pieces), content_type=kind)
    answer["Content-Disposition"] = content_disposition_header(True, file_name)
    return answer


async def _sent(pieces: Iterator[bytes]) -> AsyncIterator[bytes]:
    """The pieces, each made in a thread: files are read from the disk."""
    while piece := await sync_to_async(next, thread_sensitive=False)(pieces, b""):
        yield piece
