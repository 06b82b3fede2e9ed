"""Opening a GLB, or a glTF with its files beside it or inside it.

In: a source. Out: the parsed glTF and a function that gives the bytes of any URI it mentions. Called by `asset.read`.
"""

import base64
import binascii
import json
import struct
from collections.abc import Callable
from dataclasses import dataclass

from lantern.assets.errors import AssetError
from lantern.assets.readers.gltf.document import Entry
from lantern.assets.source import Source

GLB_MAGIC = b"glTF"
GLB_HEADER, GLB_CHUNK = struct.Struct("<4sII"), struct.Struct("<I4s")


@dataclass(frozen=True)
class Container:
    """An opened asset file."""

    name: str
    format: str  # "GLB" or "glTF"
    document: Entry
    binary: bytes | None  # the GLB's own buffer
    read: Callable[[str], bytes]  # bytes of a URI


def open_container(source: Source) -> Container:
    """Open a file that begins as one of these. Raises AssetError when it is truncated, or not what it says."""
    data, read = source.path.read_bytes(), _with_data_uris(source)
    if data[:4] == GLB_MAGIC:
        return _open_glb(source.name, data, read)
    return Container(source.name, "glTF", _parse(source.name, data), None, read)


def _parse(name: str, text: bytes) -> Entry:
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise AssetError(name, f"its JSON cannot be read ({error})") from error
    if not isinstance(data, dict) or not isinstance(data.get("asset"), dict):
        raise AssetError(name, "its JSON is not a glTF document (no 'asset')")
    if not str(data["asset"].get("version", "")).startswith("2."):
        raise AssetError(name, f"is glTF version {data['asset'].get('version')!r}; version 2.0 is needed")
    return Entry(data)


def _open_glb(name: str, data: bytes, read: Callable[[str], bytes]) -> Container:
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
    return Container(name, "GLB", _parse(name, chunks[b"JSON"]), chunks.get(b"BIN\0"), read)


def _with_data_uris(source: Source) -> Callable[[str], bytes]:
    def read_any(uri: str) -> bytes:
        if not uri.startswith("data:"):
            return source.beside(uri)
        head, _, payload = uri.partition(",")
        if not head.endswith(";base64"):
            raise source.fail("has a data URI that is not base64")
        try:
            return base64.b64decode(payload, validate=True)
        except binascii.Error as error:
            raise source.fail(f"has a data URI that cannot be decoded ({error})") from error

    return read_any
