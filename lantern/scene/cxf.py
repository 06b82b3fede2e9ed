"""Colours of a CxF file (ISO 17972-1): CIE L*a*b*, sRGB, or reflectance spectra of its objects.

In: the text of the file. Out: (name, L*a*b* under D50) of each object that has a colour. Called by `brand`.
"""

from collections.abc import Iterator
from xml.etree import ElementTree

import numpy as np

from lantern.color import decode_srgb
from lantern.scene.colorimetry import lab_of_linear, lab_of_spectrum

Lab = tuple[float, float, float]
_STEP_NM = 10.0


class BrandError(ValueError):
    """A text or a file says no colour; the message says what is wrong with it."""


def is_cxf(text: str) -> bool:
    """Whether a text looks like such a file."""
    return text.startswith("<") and "CxF" in text[:2000]


def read_cxf(text: str) -> list[tuple[str, Lab]]:
    """Colours in the order of the file. Raises BrandError when it cannot be read, or has none."""
    if "<!DOCTYPE" in text or "<!ENTITY" in text:
        raise BrandError("this CxF file declares a document type, which none needs: it is not read")
    try:
        root = ElementTree.fromstring(text)
    except ElementTree.ParseError as error:
        raise BrandError(f"this CxF file is broken: {error}") from error
    try:
        found = _found(root)
    except BrandError:
        raise
    except ValueError as error:
        raise BrandError(f"this CxF file has something that is no number: {error}") from error
    if not found:
        raise BrandError("this CxF file has no object with L*a*b*, sRGB or a reflectance spectrum")
    return found


def _found(root: ElementTree.Element) -> list[tuple[str, Lab]]:
    starts = {spec.get("Id", ""): _start_of(spec) for spec in _all(root, "ColorSpecification")}
    found = []
    for item in _all(root, "Object"):
        lab = _lab_of(item, starts)
        if lab is not None:
            name = item.get("Name") or item.get("Id") or "Colour"
            found.append((name, lab))
    return found


def _lab_of(item: ElementTree.Element, starts: dict[str, tuple[float, float]]) -> Lab | None:
    """The first that there is of what was measured, what was reckoned from it, and what it is on a screen."""
    for spectrum in _all(item, "ReflectanceSpectrum"):
        shares = np.array([float(each) for each in (spectrum.text or "").split()])
        start, step = starts.get(spectrum.get("ColorSpecification", ""), (380.0, _STEP_NM))
        start = float(spectrum.get("StartWL", start))
        if len(shares) > 1:
            if shares.max() > 2.0:
                shares = shares / 100
            return tuple(lab_of_spectrum(start + step * np.arange(len(shares)), shares).tolist())
    for lab in _all(item, "ColorCIELab"):
        return _three(lab, "L", "A", "B")
    for rgb in _all(item, "ColorSRGB"):
        most = float(rgb.get("MaxRange", 255))
        encoded = np.clip(np.array(_three(rgb, "R", "G", "B")) / most, 0.0, 1.0)
        return tuple(lab_of_linear(decode_srgb(encoded)).tolist())
    return None


def _start_of(spec: ElementTree.Element) -> tuple[float, float]:
    """Shortest wavelength and step [nm] of a specification."""
    for found in _all(spec, "WavelengthRange"):
        return float(found.get("StartWL", 380)), float(found.get("Increment", _STEP_NM))
    return 380.0, _STEP_NM


def _three(of: ElementTree.Element, *names: str) -> Lab:
    by_name = {_local(child): child.text or "" for child in of}
    try:
        first, second, third = (float(by_name[name]) for name in names)
    except (KeyError, ValueError) as error:
        raise BrandError(f"a colour of this CxF file lacks one of {', '.join(names)}, or it is no number") from error
    return first, second, third


def _all(of: ElementTree.Element, name: str) -> Iterator[ElementTree.Element]:
    """What is within, by its name in whatever namespace: versions of the standard differ by that."""
    return (each for each in of.iter() if _local(each) == name)


def _local(element: ElementTree.Element) -> str:
    return element.tag.rsplit("}", 1)[-1]
