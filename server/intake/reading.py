"""`python -m server.intake.reading`: read a foreign file and print JSON lines.

What is to be read comes as one JSON object (`Wanted`). Progress goes out first, then what the file is as JSON, or an
error. In a process of its own with limits of memory and time, so that no file can harm the server; it knows no Django
and no database.
"""

import base64
import json
import resource
import sys
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
import OpenImageIO as oiio

from lantern.assets.archive import listed
from lantern.assets.beginning import begun
from lantern.assets.errors import AssetError
from lantern.assets.hashing import sha256_of
from lantern.assets.inspecting import inspect
from lantern.assets.joining import AssetFile, with_added, with_newer
from lantern.assets.materialx.reading import read_materials
from lantern.assets.pictures import read_picture
from lantern.assets.reading import import_asset
from lantern.assets.swapping import Version, swapped, version_of
from lantern.color import encode_srgb
from lantern.engine.adding import added
from lantern.engine.light_images import read_map
from lantern.light.cards import luminance_of
from lantern.light.profiles import ProfileError, read_profile
from lantern.motion.bounds import asset_bounds
from lantern.picture.develop import Developed, display_rgb
from lantern.picture.encode import encode_jpeg, encode_png
from lantern.picture.files import MOST_PIXELS, ImageError
from lantern.picture.look.files import read_look
from lantern.picture.thumbnail import image_thumbnail
from lantern.picture.thumbnails import environment_thumbnail, profile_curve
from lantern.picture.told import read_told
from lantern.scene.document import Asset, Scene
from lantern.scene.editing import MOST_OPERATIONS
from lantern.scene.findings import Finding
from lantern.scene.model import FileRef
from lantern.scene.patching import difference
from lantern.scene.reading import SceneError, read_scene
from server.packages.reading import PackageError, is_package, read_package

MEMORY_LIMITS = {
    "asset": 12 << 30,
    "environment": 6 << 30,
    "profile": 2 << 30,
    "image": 6 << 30,
    "material": 6 << 30,
    "look": 4 << 30,
    "picture": 6 << 30,
}
"""Bytes of address space: libraries that are only loaded count too."""


def _say(message: dict[str, Any]) -> None:
    print(json.dumps(message), flush=True)


def _said(whole: float, stage: str, share: float) -> None:
    """Say how far reading is, which is a share of all that there is to do."""
    _say({"stage": stage, "share": share * whole})


@dataclass(frozen=True)
class Wanted:
    """What is to be read: a file, how many bytes are too many, and a folder for what is unpacked of it.

    `start` is the set-up with which the project of an asset begins, with the box around the asset that it was made for.
    """

    kind: str
    path: str
    name: str
    limit: int
    folder: str
    start: dict[str, Any] | None = None
    start_bounds: list[list[float]] | None = None
    swaps: dict[str, Any] | None = None
    """The document that is to have the asset in the place of its own, its revision, path and name of that."""
    joins: bool = False
    """Whether the asset is to come beside that one, not in its place."""


@dataclass(frozen=True)
class Begun:
    """The document of a new project, what its reader could not keep, what is odd about the asset, its box [m]."""

    scene: Scene
    problems: list[str]
    report: list[Finding]
    bounds: list[list[float]]


def first_document(
    path: Path, name: str, limit: int, setup: Scene | None = None, made_around: list[list[float]] | None = None
) -> Begun:
    """A project begun with an asset."""
    digest = sha256_of(path)
    said = partial(_said, 0.9)
    asset = import_asset(path, limit, name, said, sha256=digest)
    low, high = asset_bounds(asset)
    bounds = [low.tolist(), high.tolist()]
    around = None if made_around is None else (made_around[0], made_around[1])
    scene = begun(asset, FileRef(sha256=digest, name=name), low, high, setup=setup, around=around)
    _say({"stage": "Looking it over", "share": 0.95})
    report = inspect(asset, scene, float(np.max(high - low)))
    return Begun(scene, asset.problems, report, bounds)


def _asset(wanted: Wanted) -> dict[str, Any]:
    path = Path(wanted.path)
    if wanted.swaps is not None:
        return _offer(wanted, wanted.swaps)
    if is_package(path):
        index, cover, digests = read_package(path, wanted.name, wanted.limit, Path(wanted.folder))
        shown = None if cover is None else base64.b64encode(cover).decode()
        return {"package": index.model_dump(mode="json"), "cover": shown, "files": digests}
    setup = None if wanted.start is None else read_scene(wanted.start)
    first = first_document(path, wanted.name, wanted.limit, setup, wanted.start_bounds)
    report = [finding.model_dump(mode="json") for finding in first.report]
    return {"scene": first.scene.plain(), "problems": first.problems, "report": report, "bounds": first.bounds}


def _offer(wanted: Wanted, swaps: dict[str, Any]) -> dict[str, Any]:
    """What the asset would make of a document that is of a version before it."""
    scene = read_scene(swaps["scene"])
    path, name = _whole_file(wanted, swaps)
    digest = sha256_of(path)
    clip = scene.asset.clip if scene.asset else None
    asset = import_asset(path, wanted.limit, name, partial(_said, 0.9), sha256=digest, clip=clip)
    before = Version({}, {}, {})
    if swaps["path"] is not None and scene.asset is not None:
        _say({"stage": "Reading what is there", "share": 0.95})
        before = version_of(
            import_asset(Path(swaps["path"]), wanted.limit, swaps["name"], sha256=scene.asset.file.sha256, clip=clip)
        )
    file = FileRef(sha256=digest, name=name)
    if wanted.joins:
        after, table = added(scene, before, asset, file, Path(wanted.name).stem)
    else:
        told = Asset(file=file, name=asset.name, scale=asset.scale, up=asset.up)
        after, table = swapped(scene, before, version_of(asset), told)
    low, high = asset_bounds(asset)
    assert after.asset is not None
    size = float(np.max(high - low)) / asset.scale * after.asset.scale
    findings = inspect(asset, after, size)
    if path != Path(wanted.path):
        # One unit for several assets is put right by their sizes, not by that of the file.
        findings = [finding for finding in findings if finding.kind != "size"]
    patch = difference(scene.plain(), after.plain())
    # Field by field it fits a document that was edited meanwhile as well; entry by entry it would undo that.
    is_whole = len(patch) > MOST_OPERATIONS
    if is_whole:
        patch = difference(scene.plain(), after.plain(), depth=WHOLE_ENTRIES)
    return {
        "offer": {
            "patch": patch,
            "table": [row.model_dump(mode="json") for row in table],
            "revision": swaps["revision"] if is_whole else None,
        },
        "problems": asset.problems,
        "report": [finding.model_dump(mode="json") for finding in findings],
        "joined": name if path != Path(wanted.path) else None,
    }


JOINED = "joined.zip"
"""Name, in the folder of what is unpacked, of a file that was made of several assets."""


def _whole_file(wanted: Wanted, swaps: dict[str, Any]) -> tuple[Path, str]:
    """The file of all assets that the project is to have, and its name: the one that was sent, or one with others."""
    sent, target = AssetFile(Path(wanted.path), wanted.name), Path(wanted.folder) / JOINED
    if swaps["path"] is None:
        return sent.path, sent.name
    there = AssetFile(Path(swaps["path"]), swaps["name"])
    entries = listed(there.path)
    if wanted.joins:
        with_added(there, sent, target)
        stem, count = Path(entries[0].name if entries else there.name).stem, len(entries or [there])
        return target, f"{stem[:120]} and {count} more.zip"
    if entries is None:
        return sent.path, sent.name
    if with_newer(there, sent, target) is None:
        names = ", ".join(entry.name for entry in entries)
        raise AssetError(wanted.name, f"is a newer version of which asset? Give it the name of one of them: {names}")
    return target, there.name


WHOLE_ENTRIES = 2
"""How deep parts and materials lie in a document."""


def environment_facts(path: Path, name: str) -> dict[str, Any]:
    """Size, mean luminance [cd/m²], thumbnail (JPEG as base64) and what was repaired of a map. Raises ImageError."""
    pixels, problems = read_map(path, name)
    return {
        "width": pixels.shape[1],
        "height": pixels.shape[0],
        "luminance": luminance_of(pixels),
        "problems": problems,
        "thumbnail": base64.b64encode(encode_jpeg(environment_thumbnail(pixels))).decode(),
    }


def profile_facts(path: Path, name: str) -> dict[str, Any]:
    """Lumens and curve of an IES file. Raises ProfileError."""
    profile = read_profile(path.read_text(encoding="latin-1"), name)
    return {"lumens": profile.lumens(), "curve": profile_curve(profile.candela)}


def image_facts(path: Path, name: str) -> dict[str, Any]:
    """Size, thumbnail (PNG as base64) and what was put right of an image. Raises PictureError."""
    texels, repaired = read_picture(path, name, sha256_of(path))
    return {
        "width": texels.shape[1],
        "height": texels.shape[0],
        "has_alpha": texels.shape[2] in (2, 4) and bool(texels[..., -1].min() < texels[..., -1].max()),
        "problems": repaired,
        "thumbnail": base64.b64encode(encode_png(image_thumbnail(texels))).decode(),
    }


def _materials(wanted: Wanted) -> dict[str, Any]:
    """Materials of a file, each with what lies over it, and the images of it, which are unpacked by their digests."""
    read = read_materials(Path(wanted.path), wanted.name, wanted.limit, Path(wanted.folder))
    plain = [
        [lowest.model_dump(mode="json"), {key: each.model_dump(mode="json") for key, each in over.items()}]
        for lowest, over in read.materials
    ]
    return {"materials": plain, "files": read.files, "problems": read.problems}


def look_facts(path: Path, name: str) -> dict[str, Any]:
    """The look that a file is, or that uses it, as JSON data. Raises AssetError."""
    try:
        look = read_look(path, name, sha256_of(path))
    except ValueError as error:
        raise AssetError(name, str(error)) from error
    return {"look": look.model_dump(mode="json")}


def picture_facts(path: Path, name: str) -> dict[str, Any]:
    """The document that a printed picture was made of, how many samples it has, and its PNG as base64.

    Raises ImageError, and SceneError when the document cannot be read.
    """
    facts = read_told(path, name)
    scene = read_scene(facts.get("document"))
    return {"document": scene.plain(), "samples": int(facts.get("samples", 0)), "png": _as_png(path, name, scene)}


def _as_png(path: Path, name: str, scene: Scene) -> str:
    """The picture as somebody sees it; light gets the look that it was made with, as far as that asks for no file."""
    look = scene.look
    reader = oiio.ImageInput.open(str(path)) or None
    if reader is None:
        raise ImageError(f"{name}: cannot be read ({oiio.geterror().strip()})")
    try:
        spec = reader.spec()
        if spec.width * spec.height > MOST_PIXELS:
            raise ImageError(f"{name}: has {spec.width}x{spec.height} pixels; the limit is {MOST_PIXELS}")
        is_light = spec.format in (oiio.HALF, oiio.FLOAT)
        has_look = reader.format_name() == "openexr" and scene.print.exr_picture == "shown"
        pixels = reader.read_image(0, 0, 0, 3, oiio.FLOAT if is_light else oiio.UINT8)
        if pixels is None:
            raise ImageError(f"{name}: is truncated or damaged ({reader.geterror().strip()})")
    finally:
        reader.close()
    if has_look:
        pixels = np.round(encode_srgb(np.clip(pixels, 0.0, 1.0)) * 255).astype(np.uint8)
    elif is_light:
        light = np.ascontiguousarray(pixels, np.float32)
        pixels = display_rgb(Developed(light, np.ones(light.shape[:2], np.float32)), look)
    return base64.b64encode(encode_png(np.ascontiguousarray(pixels))).decode()


_READERS = {"environment": environment_facts, "profile": profile_facts, "image": image_facts, "look": look_facts,
            "picture": picture_facts}  # fmt: skip


def _read(wanted: Wanted) -> dict[str, Any]:
    if wanted.kind == "asset":
        return _asset(wanted)
    if wanted.kind == "material":
        return _materials(wanted)
    _say({"stage": "Reading", "share": 0.3})
    return _READERS[wanted.kind](Path(wanted.path), wanted.name)


def main() -> int:
    """Entry point of the process."""
    wanted = Wanted(**json.load(sys.stdin))
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_LIMITS[wanted.kind],) * 2)
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    try:
        _say({"found": _read(wanted)})
    except (AssetError, ImageError, ProfileError, PackageError) as error:
        _say({"error": str(error)})
    except SceneError as error:
        _say({"error": f"{wanted.name}: {error}"})
    except MemoryError:
        _say({"error": f"{wanted.name}: needs more memory than reading it may take"})
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
