"""Opening what an artist has: a GLB, a glTF with its files beside it or inside it, or a zip of them.

In: a source. Out: the parsed glTF and a function that gives the bytes of any URI it mentions. Called by
`gltf.read`. Nothing outside the file's own folder or archive is ever read.
"""

import base64
import binascii
import json
import struct
import zipfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path, PurePosixPath
from urllib.parse import unquote

import pygltflib

from lantern.assets.errors import AssetError
from lantern.assets.source import Source

GLB_MAGIC, ZIP_MAGIC = b"glTF", b"PK\x03\x04"
GLB_HEADER, GLB_CHUNK = struct.Struct("<4sII"), struct.Struct("<I4s")


@dataclass(frozen=True)
class Container:
    """An opened asset file."""

    name: str
    format: str  # "GLB", "glTF" or "zip"
    document: pygltflib.GLTF2
    binary: bytes | None  # the GLB's own buffer
    read: Callable[[str], bytes]  # bytes of a URI


def open_container(source: Source) -> Container:
    """Open a file that begins as one of these. Raises AssetError when it is truncated, or not what it says."""
    name, path = source.name, source.path
    data = path.read_bytes()
    if data[:4] == GLB_MAGIC:
        return _open_glb(name, "GLB", data, _no_files(name))
    if data[:4] == ZIP_MAGIC:
        return _open_zip(name, path, source.limit)
    return _open_gltf(name, "glTF", data, _files_beside(name, None if source.is_stored else path.parent))


def _parse(name: str, text: bytes) -> pygltflib.GLTF2:
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise AssetError(name, f"its JSON cannot be read ({error})") from error
    if not isinstance(data, dict) or not isinstance(data.get("asset"), dict):
        raise AssetError(name, "its JSON is not a glTF document (no 'asset')")
    if not str(data["asset"].get("version", "")).startswith("2."):
        raise AssetError(name, f"is glTF version {data['asset'].get('version')!r}; version 2.0 is needed")
    try:
        document = pygltflib.GLTF2.from_json(text.decode("utf-8"), infer_missing=True)
        for node, plain in zip(document.nodes or [], data.get("nodes") or [], strict=True):
            node.weights = plain.get("weights")  # the library does not know them
        return document
    except Exception as error:  # the library raises whatever the malformed field provokes
        raise AssetError(name, f"its JSON does not follow glTF 2.0 ({error})") from error


def _open_glb(name: str, form: str, data: bytes, read: Callable[[str], bytes]) -> Container:
    if len(data) < GLB_HEADER.size:
        raise AssetError(name, "is truncated within the GLB header")
    _, version, length = GLB_HEADER.unpack_from(data)
    if version != 2:
        raise AssetError(name, f"is GLB version {version}; version 2 is needed")
    if length > len(data):
        raise AssetError(name, f"is truncated: {len(data)} of {length} bytes are there")
    chunks: dict[bytes, bytes] = {}
    at = GLB_HEADER.size
    while at + GLB_CHUNK.size <= length:
        size, kind = GLB_CHUNK.unpack_from(data, at)
        at += GLB_CHUNK.size
        if at + size > length:
            raise AssetError(name, f"its {kind!r} chunk is truncated")
        chunks.setdefault(kind, data[at : at + size])
        at += size
    if b"JSON" not in chunks:
        raise AssetError(name, "has no JSON chunk")
    return Container(name, form, _parse(name, chunks[b"JSON"]), chunks.get(b"BIN\0"), read)


def _open_gltf(name: str, form: str, data: bytes, read: Callable[[str], bytes]) -> Container:
    return Container(name, form, _parse(name, data), None, read)


def _open_zip(name: str, path: Path, limit: int) -> Container:
    try:
        with zipfile.ZipFile(path) as archive:
            entries = [e for e in archive.infolist() if not e.is_dir() and not e.filename.startswith("__MACOSX/")]
            total = sum(e.file_size for e in entries)
            if total > limit:
                raise AssetError(name, f"unpacks to {total / 1e6:.1f} MB; the limit is {limit / 1e6:.1f} MB")
            contents = {str(PurePosixPath(e.filename)): archive.read(e) for e in entries}
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, OSError, EOFError, binascii.Error) as error:
        raise AssetError(name, f"the zip cannot be read ({error})") from error
    roots = sorted(e for e in contents if e.lower().endswith((".gltf", ".glb")))
    if len(roots) != 1:
        what = "no .gltf or .glb file" if not roots else f"{len(roots)} of them ({', '.join(roots[:3])})"
        raise AssetError(name, f"a zip must hold exactly one .gltf or .glb file; this one holds {what}")
    root = PurePosixPath(roots[0])

    def read(uri: str) -> bytes:
        entry = str(root.parent / _checked(name, uri))
        if entry not in contents:
            raise AssetError(name, f"the file {uri!r} that it refers to is not in the zip")
        return contents[entry]

    opener = _open_glb if contents[roots[0]][:4] == GLB_MAGIC else _open_gltf
    return opener(name, "zip", contents[roots[0]], _with_data_uris(name, read))


def _checked(name: str, uri: str) -> PurePosixPath:
    """The relative path of a URI, refused when it leaves the file's own folder."""
    relative = PurePosixPath(unquote(uri))
    if ":" in uri or relative.is_absolute() or ".." in relative.parts or "\\" in uri:
        raise AssetError(name, f"refers to {uri[:80]!r}, which is outside its own files")
    return relative


def _with_data_uris(name: str, read: Callable[[str], bytes]) -> Callable[[str], bytes]:
    def read_any(uri: str) -> bytes:
        if not uri.startswith("data:"):
            return read(uri)
        head, _, payload = uri.partition(",")
        if not head.endswith(";base64"):
            raise AssetError(name, "has a data URI that is not base64")
        try:
            return base64.b64decode(payload, validate=True)
        except binascii.Error as error:
            raise AssetError(name, f"has a data URI that cannot be decoded ({error})") from error

    return read_any


def _no_files(name: str) -> Callable[[str], bytes]:
    def read(uri: str) -> bytes:
        raise AssetError(name, f"refers to {uri[:80]!r}, which is outside its own file")

    return _with_data_uris(name, read)


def _files_beside(name: str, folder: Path | None) -> Callable[[str], bytes]:
    def read(uri: str) -> bytes:
        relative = _checked(name, uri)
        if folder is None:
            raise AssetError(name, f"refers to {uri[:80]!r}; upload a zip of the glTF with its files")
        path = folder / relative
        if not path.resolve().is_relative_to(folder.resolve()):
            raise AssetError(name, f"refers to {uri[:80]!r}, which is outside its own files")
        if not path.is_file():
            raise AssetError(name, f"the file {uri!r} that it refers to is missing")
        return path.read_bytes()

    return _with_data_uris(name, read)
