"""Lettering as a texture: white where letters are, its alpha their coverage.

In: words and how they are set. Out: a `Texture`. Called by `compile.pictures`. The fonts come with the program.
"""

from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from lantern.assets.textures import CLAMP, Texture
from lantern.scene.decals import TextContent

FONTS = Path(__file__).parent / "fonts"
SANS, SERIF = "Figtree", "Fraunces"
"""Names of their families."""
_EM, _LONGEST, _MARGIN = 320, 8192, 16
"""Texels: of the size of the letters, of the longer side, around them."""


def lettering(content: TextContent) -> Texture:
    """(h, w, 4) uint8 of some lines, as wide as the longest of them; what a font lacks is its empty box."""
    lines = content.text.split("\n")
    longest = max(_width(line, content, _font(content, _EM), _EM) for line in lines)
    tall = _EM * content.leading * len(lines)
    size = max(int(_EM * min(1.0, (_LONGEST - 2 * _MARGIN) / max(longest, tall, 1.0))), 8)
    font = _font(content, size)
    widths = [_width(line, content, font, size) for line in lines]
    ascent, descent = font.getmetrics()
    step = content.leading * size
    width = int(max(*widths, 1.0)) + 2 * _MARGIN
    height = int(step * (len(lines) - 1) + ascent + descent) + 2 * _MARGIN
    picture = Image.new("L", (width, height), 0)
    pen = ImageDraw.Draw(picture)
    for number, (line, length) in enumerate(zip(lines, widths, strict=True)):
        x, y = (width - length) / 2, _MARGIN + number * step
        for letter in line:
            pen.text((x, y), letter, fill=255, font=font)
            x += font.getlength(letter) + content.spacing * size
    texels = np.full((height, width, 4), 255, np.uint8)
    texels[:, :, 3] = np.asarray(picture)
    return Texture(np.ascontiguousarray(texels), CLAMP, CLAMP)


def _font(content: TextContent, size: int) -> ImageFont.FreeTypeFont:
    font = ImageFont.truetype(str(FONTS / f"{content.face}.ttf"), size)
    font.set_variation_by_axes([content.weight])
    return font


def _width(line: str, content: TextContent, font: ImageFont.FreeTypeFont, size: int) -> float:
    letters = sum(font.getlength(letter) for letter in line)
    return letters + content.spacing * size * max(len(line) - 1, 0)
