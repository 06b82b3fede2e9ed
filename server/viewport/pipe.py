"""Messages between the server and a render host: a JSON head and a binary body, both with their lengths first."""

import asyncio
import json
import struct
from typing import Any, BinaryIO

LENGTHS = struct.Struct("<II")
Message = tuple[dict[str, Any], bytes]


def pack(head: dict[str, Any], body: bytes = b"") -> bytes:
    """One message as bytes."""
    text = json.dumps(head, separators=(",", ":")).encode()
    return LENGTHS.pack(len(text), len(body)) + text + body


def read(stream: BinaryIO) -> Message | None:
    """The next message of a blocking stream, None at its end."""
    lengths = stream.read(LENGTHS.size)
    if len(lengths) < LENGTHS.size:
        return None
    head_length, body_length = LENGTHS.unpack(lengths)
    head, body = stream.read(head_length), stream.read(body_length)
    if len(head) < head_length or len(body) < body_length:
        return None
    return json.loads(head), body


async def read_async(stream: asyncio.StreamReader) -> Message | None:
    """The next message of an asynchronous stream, None at its end."""
    try:
        head_length, body_length = LENGTHS.unpack(await stream.readexactly(LENGTHS.size))
        head = await stream.readexactly(head_length)
        return json.loads(head), await stream.readexactly(body_length)
    except asyncio.IncompleteReadError:
        return None
