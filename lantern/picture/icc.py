"""Colour profiles of the displays that pictures are made for, as image files carry them.

In: the name of an encoding. Out: the bytes of an ICC profile. Called by `stills`. Matrix and curves as ICC.1:2022
(profile version 4.4) has them, sections 8.3.3 and 10; primaries of ITU-R BT.709 and SMPTE EG 432-1, white of D65.
"""

import struct
from functools import lru_cache

import numpy as np

from lantern.color import RGB_TO_XYZ
from lantern.picture.display import FROM_P3
from lantern.scene.colorimetry import D50_TO_D65

D50 = np.array([0.9642, 1.0, 0.8249])
"""XYZ of the white that profiles connect by (section 7.2.16)."""
TO_D50 = np.linalg.inv(D50_TO_D65)
_SRGB_CURVE = (2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045)
"""IEC 61966-2-1 as parametric curve 3: (a X + b)^g from d on, c X below it."""
NAMES = {"srgb": "sRGB", "p3": "Display P3", "rec1886": "Rec. 709, Rec. 1886 curve"}


@lru_cache(maxsize=4)
def profile_of(encoding: str) -> bytes:
    """The profile of `srgb`, `p3` or `rec1886`. Raises KeyError for another."""
    matrix = RGB_TO_XYZ @ FROM_P3 if encoding == "p3" else RGB_TO_XYZ
    curve = _parametric(0, (2.4,)) if encoding == "rec1886" else _parametric(3, _SRGB_CURVE)
    adapted = TO_D50 @ matrix
    # White is that of the connection to the last digit, whatever was rounded on the way.
    columns = (adapted * (D50 / adapted.sum(axis=1))[:, None]).T
    tags = {
        b"desc": _text(NAMES[encoding]),
        b"cprt": _text("No copyright, use freely"),
        b"wtpt": _xyz(D50),
        b"chad": b"sf32" + bytes(4) + b"".join(_fixed(v) for v in TO_D50.ravel()),
        b"rXYZ": _xyz(columns[0]),
        b"gXYZ": _xyz(columns[1]),
        b"bXYZ": _xyz(columns[2]),
        b"rTRC": curve,
        b"gTRC": curve,
        b"bTRC": curve,
    }
    return _whole(tags)


def _fixed(value: float) -> bytes:
    """s15Fixed16Number (section 4.6)."""
    return struct.pack(">i", round(value * 65536))


def _xyz(values: np.ndarray) -> bytes:
    return b"XYZ " + bytes(4) + b"".join(_fixed(float(v)) for v in values)


def _parametric(kind: int, values: tuple[float, ...]) -> bytes:
    return b"para" + bytes(4) + struct.pack(">HH", kind, 0) + b"".join(_fixed(v) for v in values)


def _text(words: str) -> bytes:
    """multiLocalizedUnicodeType of one text (section 10.15)."""
    encoded = words.encode("utf-16-be")
    return b"mluc" + bytes(4) + struct.pack(">II2s2sII", 1, 12, b"en", b"US", len(encoded), 28) + encoded


def _whole(tags: dict[bytes, bytes]) -> bytes:
    """Header, table of tags, and what they hold, each at a multiple of four bytes; equal ones are there once."""
    first = 128 + 4 + 12 * len(tags)
    table, body, places = b"", b"", dict[bytes, int]()
    for name, data in tags.items():
        if data not in places:
            places[data] = first + len(body)
            body += data + bytes(-len(data) % 4)
        table += struct.pack(">4sII", name, places[data], len(data))
    size = first + len(body)
    header = struct.pack(">I4sI4s4s4s", size, bytes(4), 0x04400000, b"mntr", b"RGB ", b"XYZ ")
    made = struct.pack(">6H", 2026, 1, 1, 0, 0, 0)
    rest = b"acsp" + bytes(4) + bytes(4) + bytes(8) + bytes(8) + bytes(4) + _xyz(D50)[8:]
    header = (header + made + rest).ljust(128, b"\0")
    return header + struct.pack(">I", len(tags)) + table + body
