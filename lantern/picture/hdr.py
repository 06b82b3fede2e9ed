"""Pictures for displays brighter than paper: colours and files of Rec. 2100 PQ.

In: colours, display values. Out: coded values, a PNG file. Called by the look's border and by the print.
"""

from pathlib import Path

import numpy as np
import OpenImageIO as oiio

from lantern.picture.files import ImageError, write_image

REC709_TO_REC2020 = np.array(
    [
        [0.627403896, 0.329283038, 0.043313066],
        [0.069097289, 0.919540395, 0.011362316],
        [0.016391439, 0.088013308, 0.895595253],
    ]
)
"""Linear, both of D65 (ITU-R BT.2087-0, section 3)."""
GRAPHICS_WHITE = 203.0
"""cd/m² of the white of graphics in an HDR picture (ITU-R BT.2408, section 2.1)."""
_M1, _M2 = 2610 / 16384, 2523 / 4096 * 128
_C1, _C2, _C3 = 3424 / 4096, 2413 / 4096 * 32, 2392 / 4096 * 32
_CICP = (9, 16, 0, 1)
"""Rec. 2020 primaries, PQ, no matrix, full range (ITU-T H.273; PNG third edition, section 11.3.2.6)."""
_END = b"IEND\xaeB`\x82"


def encode_pq(luminance: np.ndarray) -> np.ndarray:
    """Code [0, 1] of luminance [cd/m²], at most 10,000 (SMPTE ST 2084, section 5)."""
    y = np.clip(luminance / 10000.0, 0, 1) ** _M1
    return np.asarray(((_C1 + _C2 * y) / (1 + _C3 * y)) ** _M2)


def decode_pq(code: np.ndarray) -> np.ndarray:
    """Luminance [cd/m²] of a code [0, 1]."""
    root = np.clip(code, 0, 1) ** (1 / _M2)
    return np.asarray(10000.0 * (np.maximum(root - _C1, 0) / (_C2 - _C3 * root)) ** (1 / _M1))


def graphics_color(color: np.ndarray) -> np.ndarray:
    """Coded (3,) of a linear Rec. 709 colour [0, 1] that is as bright as graphics are in an HDR picture."""
    return encode_pq(REC709_TO_REC2020 @ color * GRAPHICS_WHITE)


def write_pq_png(path: Path, pixels: np.ndarray) -> None:
    """Write (h, w, 3) uint16 Rec. 2100 PQ as a PNG that says so, whole or not at all. Raises ImageError."""
    height, width, _ = pixels.shape
    spec = oiio.ImageSpec(width, height, 3, oiio.UINT16)
    spec.attribute("CICP", "int[4]", _CICP)
    spec.attribute("oiio:ColorSpace", "pq_rec2020_display")
    write_image(path, spec, pixels)
    # The library's PNG writer takes no notice of a disk that is full.
    if path.read_bytes()[-len(_END) :] != _END:
        path.unlink()
        raise ImageError(f"{path.name}: cannot be written: the disk is full")
