"""`python -m server.intake.reading KIND PATH NAME LIMIT`: read a foreign file and print JSON lines.

Progress first, then what the file is (`Found` of its kind as JSON), or an error. In a process of its own with limits of
memory and time, so that no file can harm the server; it knows no Django and no database.
"""

import base64
import json
import resource
import sys
from pathlib import Path
from typing import Any

from lantern.assets.errors import AssetError
from lantern.assets.gltf import import_asset
from lantern.assets.hashing import sha256_of
from lantern.light.environment import clean
from lantern.light.profiles import ProfileError, read_profile
from lantern.motion.bounds import asset_bounds
from lantern.picture.encode import encode_jpeg
from lantern.picture.files import ImageError, read_hdr
from lantern.picture.thumbnails import environment_thumbnail, profile_curve
from lantern.scene.document import Asset, Camera, Ground, Scene
from lantern.scene.framing import fit_camera
from lantern.scene.model import FileRef

MEMORY_LIMITS = {"asset": 12 << 30, "environment": 6 << 30, "profile": 2 << 30}
"""Bytes of address space: libraries that are only loaded count too."""


def _say(message: dict[str, Any]) -> None:
    print(json.dumps(message), flush=True)


def first_document(path: Path, name: str, limit: int) -> tuple[Scene, list[str]]:
    """The document of a new project: the asset framed from three-quarters, standing on the ground."""
    asset = import_asset(path, limit, name, lambda stage, share: _say({"stage": stage, "share": share}))
    low, high = asset_bounds(asset)
    scene = Scene(
        asset=Asset(file=FileRef(sha256=sha256_of(path), name=name), name=asset.name),
        parts=asset.parts,
        materials=asset.materials,
        ground=Ground(height=min(max(float(low[1]), -1000.0), 1000.0)),
    )
    aspect = scene.print.width / scene.print.height
    camera = fit_camera(Camera(), low, high, aspect, keep_direction=False)
    return scene.model_copy(update={"camera": camera}), asset.problems


def _asset(path: Path, name: str, limit: int) -> dict[str, Any]:
    scene, problems = first_document(path, name, limit)
    return {"scene": scene.plain(), "problems": problems}


def environment_facts(path: Path, name: str) -> dict[str, Any]:
    """Size, thumbnail (JPEG as base64) and what was repaired of an HDR map. Raises ImageError."""
    pixels, repaired = clean(read_hdr(path, name))
    return {
        "width": pixels.shape[1],
        "height": pixels.shape[0],
        "problems": repaired.problems(),
        "thumbnail": base64.b64encode(encode_jpeg(environment_thumbnail(pixels))).decode(),
    }


def profile_facts(path: Path, name: str) -> dict[str, Any]:
    """Lumens and curve of an IES file. Raises ProfileError."""
    profile = read_profile(path.read_text(encoding="latin-1"), name)
    return {"lumens": profile.lumens(), "curve": profile_curve(profile.candela)}


def _read(kind: str, path: Path, name: str, limit: int) -> dict[str, Any]:
    if kind == "asset":
        return _asset(path, name, limit)
    _say({"stage": "Reading", "share": 0.3})
    return environment_facts(path, name) if kind == "environment" else profile_facts(path, name)


def main() -> int:
    """Entry point of the process."""
    kind, path, name, limit = sys.argv[1], Path(sys.argv[2]), sys.argv[3], int(sys.argv[4])
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_LIMITS[kind],) * 2)
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    try:
        _say({"found": _read(kind, path, name, limit)})
    except (AssetError, ImageError, ProfileError) as error:
        _say({"error": str(error)})
    except MemoryError:
        _say({"error": f"{name}: needs more memory than reading it may take"})
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
