"""What a finished picture says about itself: the document that made it, so that the file can be opened back.

In: facts as JSON data. Out: text that fits any file's text fields, and back. Called by `stills`, `exr` and the server's
reading. Nothing of it says who made the picture, when, or on which machine.
"""

import base64
import json
import zlib
from pathlib import Path
from typing import Any

import OpenImageIO as oiio
from PIL import Image, UnidentifiedImageError
from PIL.TiffImagePlugin import ImageFileDirectory_v2

from lantern.picture.files import ImageError

KEY = "VelvetLantern"
"""Name of the text field, and what JPEG comments begin with."""
FORMAT, VERSION = "velvet-lantern-picture", 1
MOST_BYTES = 64 << 20
"""Of the facts, unpacked."""
COMMENT_BYTES = 65_000
"""Of one JPEG comment (ITU-T T.81, section B.2.4.5: a segment has 65,533 at most)."""
_EXR, _TIFF, _TIFF_DESCRIPTION = b"\x76\x2f\x31\x01", (b"II*\0", b"MM\0*"), 270


def packed(facts: dict[str, Any]) -> str:
    """Facts as one word of letters."""
    data = json.dumps({"format": FORMAT, "version": VERSION, **facts}, separators=(",", ":")).encode()
    return base64.b64encode(zlib.compress(data, 9)).decode()


def unpacked(text: str, name: str) -> dict[str, Any]:
    """The facts of a word. Raises ImageError when it is none of ours, damaged, or of a newer program."""
    try:
        reader = zlib.decompressobj()
        data = reader.decompress(base64.b64decode(text, validate=True), MOST_BYTES)
        if reader.unconsumed_tail:
            raise ValueError("too much is said")
        facts = json.loads(data)
        if facts["format"] != FORMAT:
            raise ValueError(f"it says {facts['format']!r}")
        version = int(facts["version"])
    except (ValueError, KeyError, TypeError, zlib.error) as error:
        raise ImageError(f"{name}: what it says about itself cannot be read ({error})") from error
    if version > VERSION:
        raise ImageError(f"{name}: was made by a newer program")
    return dict(facts)


def read_told(path: Path, name: str) -> dict[str, Any]:
    """What a picture says about itself. Raises ImageError when it says nothing, or is none of the formats of prints."""
    head = path.open("rb").read(4)
    try:
        if head == _EXR:
            text = _of_exr(path)
        elif head in _TIFF:
            text = _of_tiff(path)
        else:
            with Image.open(path, formats=("PNG", "JPEG")) as image:
                text = _of_image(image)
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError) as error:
        raise ImageError(f"{name}: is no picture that was printed here (PNG, JPEG, TIFF or EXR)") from error
    if not text:
        raise ImageError(f"{name}: does not say which project made it: only pictures that were printed here do")
    return unpacked(text, name)


def _of_exr(path: Path) -> str:
    reader = oiio.ImageInput.open(str(path)) or None
    if reader is None:
        return ""
    try:
        return str(reader.spec().get_string_attribute(KEY))
    finally:
        reader.close()


def _of_tiff(path: Path) -> str:
    """From the tag itself: neither library reads both floats and long texts."""
    with path.open("rb") as file:
        directory = ImageFileDirectory_v2(file.read(8))
        file.seek(directory.next)
        directory.load(file)
    return str(directory.get(_TIFF_DESCRIPTION, "")).removeprefix(f"{KEY} ")


def _of_image(image: Image.Image) -> str:
    match image.format:
        case "PNG":
            image.load()  # text may stand behind the picture
            return str(getattr(image, "text", {}).get(KEY, ""))
        case _:
            begin = KEY.encode() + b" "
            comments = [data for kind, data in getattr(image, "applist", []) if kind == "COM"]
            return b"".join(data.removeprefix(begin) for data in comments if data.startswith(begin)).decode("ascii")


def comments_of(text: str) -> bytes:
    """JPEG segments that hold a text."""
    pieces = [text[begin : begin + COMMENT_BYTES] for begin in range(0, len(text), COMMENT_BYTES)]
    found = b""
    for piece in pieces:
        data = KEY.encode() + b" " + piece.encode("ascii")
        found += b"\xff\xfe" + (len(data) + 2).to_bytes(2, "big") + data
    return found
