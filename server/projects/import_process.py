"""`python -m server.projects.import_process PATH NAME LIMIT`: read an asset and print JSON lines.

Progress first, then the document of a new project, or an error.
"""

import json
import resource
import sys
from pathlib import Path
from typing import Any

from lantern.assets.errors import AssetError
from lantern.assets.gltf import import_asset
from lantern.assets.hashing import sha256_of
from lantern.motion.bounds import asset_bounds
from lantern.scene.document import Asset, Camera, Ground, Scene
from lantern.scene.framing import fit_camera
from lantern.scene.model import FileRef

MEMORY_LIMIT = 12 << 30


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


def main() -> int:
    """Entry point of the process."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_LIMIT, MEMORY_LIMIT))
    path, name, limit = Path(sys.argv[1]), sys.argv[2], int(sys.argv[3])
    try:
        scene, problems = first_document(path, name, limit)
    except AssetError as error:
        _say({"error": str(error)})
        return 0
    except MemoryError:
        _say({"error": f"{name}: needs more memory than an import may take"})
        return 0
    _say({"scene": scene.plain(), "problems": problems})
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
