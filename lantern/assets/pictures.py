"""Images of one's own: files of any kind that can be read, drawings among them, as texels.

In: a file. Out: its texels, and what was put right. Called by the engine and by those who look at an upload.
"""

import re
from pathlib import Path
from xml.etree import ElementTree

import numpy as np
import resvg_py

from lantern.assets.errors import AssetError
from lantern.assets.images import ImageProblem, Room, decode_image
from lantern.assets.kept import keep_picture, recall_picture
from lantern.assets.lettering import FONTS, SANS, SERIF

MOST_TEXELS = 1 << 26
"""Of one image: 8192 × 8192."""
DRAWN = 2048
"""Texels along the longer side of a drawing, which has none of its own."""
LEAST_KEPT = 4 << 20
"""Bytes of texels: fewer are decoded before they are found."""
_NUMBER = re.compile(r"[0-9]*\.?[0-9]+")
PICTURES = (".png", ".jpg", ".jpeg", ".webp", ".tif", ".tiff", ".bmp", ".tga", ".svg")
"""Suffixes of images, but for those that hold light."""
_SUFFIXES = (".svg", ".tga", ".hdr", ".pic")


class PictureError(AssetError):
    """An image cannot be used; the message names it and says why."""


def read_picture(path: Path, name: str, sha256: str | None = None) -> tuple[np.ndarray, list[str]]:
    """((h, w, 1 to 4) texels as `decode_image` gives them, what was put right). Raises PictureError.

    With the `sha256` of the file a large one is kept, and not decoded again.
    """
    suffix = Path(name).suffix.lower()
    marked = suffix if suffix in _SUFFIXES else ""
    known = None if sha256 is None else recall_picture(sha256, marked)
    if known is not None:
        return known
    texels, repaired = _read(path, name, suffix)
    if sha256 is not None and texels.nbytes >= LEAST_KEPT:
        keep_picture(sha256, marked, texels, repaired)
    return texels, repaired


def _read(path: Path, name: str, suffix: str) -> tuple[np.ndarray, list[str]]:
    try:
        data = path.read_bytes()
        if suffix == ".svg":
            data = _drawn(data)
        texels = decode_image(data, Room(MOST_TEXELS), suffix if suffix in _SUFFIXES else None)
    except ImageProblem as problem:
        raise PictureError(name, str(problem)) from problem
    except OSError as error:
        raise PictureError(name, f"cannot be read ({error.strerror or error})") from error
    if texels.dtype.kind != "f":
        return texels, []
    odd = ~np.isfinite(texels)
    if not odd.any():
        return texels, []
    count = int(odd.any(axis=2).sum())
    return np.where(odd, 0, texels), [f"{name}: {count} texels are no numbers, and are taken as 0"]


def _drawn(data: bytes) -> bytes:
    """A drawing (SVG 1.1) as a PNG; fonts are those of the program, and nothing beside the file is read.

    Raises ImageProblem.
    """
    try:
        root = ElementTree.fromstring(data)
        links = [value for one in root.iter() for name, value in one.attrib.items() if name.endswith("href")]
        if any(not link.startswith(("#", "data:")) for link in links):
            raise ImageProblem("refers to other files: a drawing must hold all that it shows")
        width = max(round(DRAWN * min(_shape(root), 1.0)), 1)
        picture = resvg_py.svg_to_bytes(
            svg_string=data.decode("utf-8"), width=width, font_dirs=[str(FONTS)], skip_system_fonts=True,
            font_family=SANS, sans_serif_family=SANS, serif_family=SERIF,
        )  # fmt: skip
    except (ElementTree.ParseError, ValueError) as error:
        if isinstance(error, ImageProblem):
            raise
        raise ImageProblem(f"is no drawing that can be read ({str(error)[:200]})") from error
    return bytes(picture)


def _shape(root: ElementTree.Element) -> float:
    """Width over height of a drawing, as far as its own words say it."""
    box = root.get("viewBox", "").replace(",", " ").split()
    sides = box[2:4] if len(box) == 4 else [root.get("width", ""), root.get("height", "")]
    width, height = (float(found[0]) if (found := _NUMBER.match(side)) else 0.0 for side in sides)
    return width / height if width > 0 and height > 0 else 1.0
