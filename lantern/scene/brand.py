"""Brand colours of a document: what a part is to look like, as it was agreed, beside what it is made of.

In: text that somebody enters or that stands in a file. Out: brand colours, and patches. Called by the render host.
"""

import math
import re
from collections.abc import Sequence

import numpy as np
from pydantic import Field

from lantern.color import decode_srgb
from lantern.scene.colorimetry import lab_of_linear, lab_of_spectrum
from lantern.scene.cxf import BrandError, is_cxf, read_cxf
from lantern.scene.model import Key, Model, Name

MOST = 64
"""Of one document."""
_HEX = re.compile(r"#?([0-9a-f]{3}|[0-9a-f]{6})", re.IGNORECASE)
_NUMBER = r"[-+]?\d+(?:\.\d+)?"
_LAB = re.compile(rf"(?:lab)?\s*\(?\s*({_NUMBER})[\s,;]+({_NUMBER})[\s,;]+({_NUMBER})\s*\)?", re.IGNORECASE)
_PAIR = re.compile(rf"({_NUMBER})[\s,;:]+({_NUMBER})")
FEWEST_WAVELENGTHS = 8
HELP = "a colour is #rrggbb, L*, a*, b* as three numbers, a wavelength with its reflectance a line, or a CxF file"


class BrandColor(Model):
    """An agreed colour, and the parts that are to have it."""

    name: Name
    lab: tuple[float, float, float] = Field(title="CIE L*a*b* under D50, 2° observer")
    parts: tuple[Key, ...] = Field((), max_length=2000, title="Parts that are to have it")


def read_brand(text: str, name: str = "") -> list[BrandColor]:
    """The colours that a text says: one, or all of a CxF file. Raises BrandError with what it can be instead."""
    text = text.strip()
    if is_cxf(text):
        return [_colour(named, np.array(lab)) for named, lab in read_cxf(text)][:MOST]
    if found := _HEX.fullmatch(text):
        digits = found[1] if len(found[1]) == 6 else "".join(2 * digit for digit in found[1])
        encoded = np.array([int(digits[k : k + 2], 16) for k in (0, 2, 4)]) / 255
        return [_colour(name or f"#{digits.lower()}", lab_of_linear(decode_srgb(encoded)))]
    if found := _LAB.fullmatch(text):
        return [_colour(name or "Brand colour", np.array([float(each) for each in found.groups()]))]
    return [_colour(name or "Brand colour", _of_spectrum(text))]


def _of_spectrum(text: str) -> np.ndarray:
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    pairs = [_PAIR.fullmatch(line) for line in lines]
    if len(pairs) < FEWEST_WAVELENGTHS or not all(pairs):
        raise BrandError(f"{text[:40]!r} is no colour: {HELP}")
    wavelengths, shares = np.array([[float(each) for each in pair.groups()] for pair in pairs if pair]).T
    if shares.max() > 2.0:  # in percent, as instruments write it
        shares = shares / 100
    return checked_spectrum(wavelengths, shares)


def checked_spectrum(wavelengths: np.ndarray, shares: np.ndarray) -> np.ndarray:
    """L*a*b* of a spectrum. Raises BrandError when it is none of visible light."""
    if np.any(np.diff(wavelengths) <= 0) or wavelengths[0] > 420 or wavelengths[-1] < 680:
        raise BrandError("a spectrum rises from 420 nm or less to 680 nm or more")
    if shares.min() < 0 or shares.max() > 2:
        raise BrandError("a reflectance lies between 0 and 1")
    return lab_of_spectrum(wavelengths, shares)


def _colour(name: str, lab: np.ndarray) -> BrandColor:
    light, a, b = (float(each) for each in lab)
    if not (0 <= light <= 100.5 and math.hypot(a, b) < 200):
        raise BrandError(f"L*a*b* {light:g}, {a:g}, {b:g} is no colour of a surface")
    return BrandColor(name=name[:200], lab=(round(light, 3), round(a, 3), round(b, 3)))


def of_part(brands: dict[str, BrandColor], part: str | None) -> BrandColor | None:
    """The colour that a part is to have, if one was agreed."""
    return next((brand for brand in brands.values() if part is not None and part in brand.parts), None)


def tied(brand: BrandColor, parts: Sequence[str]) -> BrandColor:
    """A colour that some parts are to have, and no others."""
    return brand.model_copy(update={"parts": tuple(dict.fromkeys(parts))})
