"""The files that light is made with: maps all around, cards, backdrops, images before lamps, measured profiles.

In: a document, and what finds its files. Out: linear pixels by the SHA-256 of their files, what was wrong. Called by
the engine.
"""

from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path

import numpy as np

from lantern.assets.pictures import PictureError, read_picture
from lantern.color import decode_srgb
from lantern.engine.map_layouts import as_lat_long
from lantern.engine.own_images import Resolver
from lantern.light.environment import clean
from lantern.light.profiles import Profile, ProfileError, read_profile
from lantern.motion.relit import environments_of
from lantern.picture.files import ImageError, is_hdr, read_hdr
from lantern.scene.document import Scene
from lantern.scene.lights import gobo_of, profile_of
from lantern.scene.model import FileRef

KEPT_BYTES = 384 << 20
"""Memory for decoded images that are not asked for any more, so that going back to them costs nothing."""


def light_files(scene: Scene) -> dict[str, FileRef]:
    """The images that light is made with, but for the map all around, by the SHA-256 of their files."""
    files = [card.image for environment in environments_of(scene) for card in environment.cards.values()]
    files += [gobo_of(light) for light in scene.lights.values()]
    files += [scene.backdrop.file] if scene.backdrop.kind in ("map", "photograph") else []
    return {file.sha256: file for file in files if file is not None}


def read_light(path: Path, name: str) -> tuple[np.ndarray, list[str]]:
    """(linear (h, w, 3) float32, what was put right) of an HDR file, or of a photograph, whose white is 1.

    What is clear in a photograph is black. Raises ImageError.
    """
    if is_hdr(path, name):
        pixels, repaired = clean(read_hdr(path, name))
        return pixels, [f"{name}: {problem}" for problem in repaired.problems()]
    try:
        texels, problems = read_picture(path, name)
    except (PictureError, OSError) as error:
        raise ImageError(str(error)) from error
    return linear(texels), problems


def read_map(path: Path, name: str) -> tuple[np.ndarray, list[str]]:
    """As `read_light`, of what is all around: crosses and balls of HDR files are made latitude and longitude."""
    pixels, problems = read_light(path, name)
    return (as_lat_long(pixels) if is_hdr(path, name) else pixels), problems


def linear(texels: np.ndarray) -> np.ndarray:
    """Linear (h, w, 3) float32 of (h, w, 1 to 4) texels; whole numbers are sRGB, others are linear already."""
    if texels.dtype.kind == "u":
        shares = texels.astype(np.float32) / np.iinfo(texels.dtype).max
        colors = decode_srgb(shares[..., : 3 if shares.shape[2] >= 3 else 1])
    else:
        shares = texels.astype(np.float32)
        colors = shares[..., : 3 if shares.shape[2] >= 3 else 1]
    alpha = shares[..., -1:] if shares.shape[2] in (2, 4) else 1.0
    return np.ascontiguousarray(np.broadcast_to(colors * alpha, (*texels.shape[:2], 3)), np.float32)


Reader = Callable[[Path, str], tuple[np.ndarray, list[str]]]


class LightImages:
    """Those of one document after the other."""

    def __init__(self) -> None:
        self._kept: OrderedDict[tuple[str, Reader], np.ndarray] = OrderedDict()
        self._unread: set[str] = set()
        self.shown: dict[str, np.ndarray] = {}
        """Of cards, lamps and the backdrop, by the SHA-256 of their files."""

    def bring(self, scene: Scene, resolve: Resolver) -> tuple[bool, list[str]]:
        """(Whether there are others than before, problems of new ones, which are shown without)."""
        problems, found = [], {}
        wanted = light_files(scene)
        self._unread &= wanted.keys()
        for sha256, reference in wanted.items():
            if sha256 in self._unread:
                continue
            is_map = scene.backdrop.kind == "map" and scene.backdrop.file == reference
            try:
                found[sha256], said = self._decoded(reference, resolve, read_map if is_map else read_light)
                problems += said
            except (ImageError, OSError) as error:
                self._unread.add(sha256)
                problems.append(f"{error}; what it belongs to is shown without it")
        has_changed = found.keys() != self.shown.keys()
        self.shown = found
        return has_changed, problems

    def map_of(self, scene: Scene, resolve: Resolver) -> tuple[np.ndarray | None, list[str]]:
        """(the map all around, None without one; problems). Raises ImageError when it cannot be used."""
        reference = scene.environment.map
        return (None, []) if reference is None else self._decoded(reference, resolve, read_map)

    def _decoded(self, reference: FileRef, resolve: Resolver, read: Reader) -> tuple[np.ndarray, list[str]]:
        problems: list[str] = []
        key = reference.sha256, read
        if key not in self._kept:
            self._kept[key], problems = read(resolve(reference), reference.name)
        self._kept.move_to_end(key)
        while len(self._kept) > 1 and sum(pixels.nbytes for pixels in self._kept.values()) > KEPT_BYTES:
            self._kept.popitem(last=False)
        return self._kept[key], problems


def profile_files(scene: Scene) -> list[FileRef]:
    """The measured distributions of a document's lights."""
    return [file for light in scene.lights.values() if (file := profile_of(light)) is not None]


def read_profiles(scene: Scene, resolve: Resolver) -> tuple[dict[str, Profile], list[str]]:
    """IES profiles by digest; one that cannot be used is a problem, and its light shines evenly."""
    profiles, problems = {}, []
    for reference in profile_files(scene):
        try:
            text = resolve(reference).read_text(encoding="latin-1")
            profiles[reference.sha256] = read_profile(text, reference.name)
        except ProfileError as error:
            problems.append(f"{error}; its light shines evenly")
    return profiles, problems
