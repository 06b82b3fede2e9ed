"""Messages between the web side and a render host on a stream: JSON and a binary body, their lengths before them."""

import asyncio
import struct
from typing import BinaryIO

from server.protocol.parts import Message

LENGTHS = struct.Struct("<II")
Packed = tuple[bytes, bytes]
"""JSON of a message, and its body."""


def pack(message: Message, body: bytes = b"") -> bytes:
    """One message as bytes."""
    text = message.model_dump_json().encode()
    return LENGTHS.pack(len(text), len(body)) + text + body


def read(stream: BinaryIO) -> Packed | None:
    """The next message of a blocking stream, None at its end."""
    lengths = stream.read(LENGTHS.size)
    if len(lengths) < LENGTHS.size:
        return None
    head_length, body_length = LENGTHS.unpack(lengths)
    head, body = stream.read(head_length), stream.read(body_length)
    return None if len(head) < head_length or len(body) < body_length else (head, body)


async def read_async(stream: asyncio.StreamReader) -> Packed | None:
    """The next message of an asynchronous stream, None at its end."""
    try:
        head_length, body_length = LENGTHS.unpack(await stream.readexactly(LENGTHS.size))
        return await stream.readexactly(head_length), await stream.readexactly(body_length)
    except asyncio.IncompleteReadError:
        return None
