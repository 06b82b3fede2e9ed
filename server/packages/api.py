"""Packages over HTTP. In they come as uploads."""

import json
import re
from collections.abc import AsyncIterator, Iterator
from urllib.parse import quote

from asgiref.sync import sync_to_async
from django.http import HttpRequest, StreamingHttpResponse
from django.utils.http import content_disposition_header
from ninja import Router

from lantern.engine.exporting import ENDINGS, Format
from server.packages.actions import ExportEnvironment, ExportLook, ExportMaterial, ExportModel, LookForm, PackProject
from server.packages.contents import SUFFIX

router = Router(tags=["projects"])
_KINDS: dict[Format, str] = {"glb": "model/gltf-binary", "usdz": "model/vnd.usdz+zip", "obj": "application/zip"}
_LOOKS: dict[LookForm, tuple[str, str]] = {
    "json": (".json", "application/json"), "cdl": (".cc", "application/xml"), "cube": (".cube", "text/plain"),
}  # fmt: skip
MOST_SAID = 30
"""Things left out that an answer names."""


@router.get("projects/{project_id}/package")
def project_package(request: HttpRequest, project_id: int, history: bool = True) -> StreamingHttpResponse:
    """Everything of a project in one zip, with its steps of undo unless `history` is false."""
    name, pieces = PackProject(request.user, project_id, history).execute()
    return _download(name, SUFFIX, pieces, "application/zip")


@router.get("projects/{project_id}/model")
def project_model(
    request: HttpRequest, project_id: int, form: Format = "glb", bake: int | None = None
) -> StreamingHttpResponse:
    """What can be seen of a project as a model: parts where they stand, materials, images, lights and the camera.

    A GLB, a usdz, or a zip of an OBJ with its materials and images. `bake` makes images of patterns, layers and
    decals, of so many texels along a side. The header `Lantern-Left-Out` says what the format
    has no word for: a JSON list, percent-encoded.
    """
    name, pieces, lost = ExportModel(request.user, project_id, form, bake).execute()
    return _download(name, ENDINGS[form], pieces, _KINDS[form], lost)


@router.get("projects/{project_id}/environment")
def project_environment(request: HttpRequest, project_id: int) -> StreamingHttpResponse:
    """All that is around the asset as one OpenEXR map of latitude and longitude [cd/m²]; as `project_model`."""
    name, pieces, lost = ExportEnvironment(request.user, project_id).execute()
    return _download(name, ".exr", pieces, "image/x-exr", lost)


@router.get("projects/{project_id}/look")
def project_look(request: HttpRequest, project_id: int, form: LookForm = "json") -> StreamingHttpResponse:
    """The look of a project: whole as JSON, its colour decision as ASC CDL, or its grade as a `.cube` in ACEScct."""
    name, data = ExportLook(request.user, project_id, form).execute()
    ending, kind = _LOOKS[form]
    return _download(name, ending, iter([data]), kind)


@router.get("projects/{project_id}/materials/{material}/file")
def project_material(request: HttpRequest, project_id: int, material: str) -> StreamingHttpResponse:
    """A material of a project as MaterialX, with what lies over it and its images, in a zip; as `project_model`."""
    return material_download(*ExportMaterial(request.user, project_id, material).execute())


def material_download(name: str, pieces: Iterator[bytes], lost: list[str]) -> StreamingHttpResponse:
    """The file of a material as an answer."""
    return _download(name, ".mtlx.zip", pieces, "application/zip", lost)


def _download(
    name: str, suffix: str, pieces: Iterator[bytes], kind: str, lost: list[str] | None = None
) -> StreamingHttpResponse:
    """A file as an answer; what it could not say is in a header."""
    file_name = " ".join(re.sub(r"[^\w.()&+-]+", " ", name).split()) + suffix
    answer = StreamingHttpResponse(_sent(pieces), content_type=kind)
    answer["Content-Disposition"] = content_disposition_header(True, file_name)
    if lost is not None:
        answer["Lantern-Left-Out"] = quote(json.dumps(lost[:MOST_SAID]))
    return answer


async def _sent(pieces: Iterator[bytes]) -> AsyncIterator[bytes]:
    """The pieces, each made in a thread: files are read from the disk."""
    while piece := await sync_to_async(next, thread_sensitive=False)(pieces, b""):
        yield piece
