"""The demo project: the lantern, its light and its framing, as a scene document and the files it needs.

Files are made once into a folder of the cache named after the code that makes them.
"""

import hashlib
import tempfile
from collections.abc import Callable, Mapping
from functools import partial
from pathlib import Path

from demo.conditions import demo_conditions
from demo.environments import ENVIRONMENTS, write_environment
from demo.profiles import PROFILES, write_profile
from demo.shots import demo_shots
from demo.wick import write_wick
from lantern.assets.beginning import pivoted
from lantern.assets.hashing import sha256_of
from lantern.assets.reading import import_asset
from lantern.engine.lit_balls import BALLS, make_ball
from lantern.kernel.cache import cache_root
from lantern.motion.bounds import asset_bounds
from lantern.scene.conditions import under
from lantern.scene.document import Asset, Camera, Scene
from lantern.scene.framing import fit_camera
from lantern.scene.look import Look
from lantern.scene.model import FileRef
from lantern.scene.printing import PrintSettings
from lantern.scene.surroundings import Backdrop, Environment, Ground

PROJECT_NAME = "Wick No. 4 launch pictures"
ASSET_FILE = "wick-no-4.glb"
ACCOUNT, PASSWORD = "demo", "wick-no-4"


def cached_files(makers: Mapping[str, Callable[[Path], None]]) -> dict[str, Path]:
    """Paths of files by name, in a folder of the cache; each made when it is not there yet."""
    digest = hashlib.sha256()
    for source in sorted(Path(__file__).parent.glob("*.py")):
        digest.update(source.read_bytes())
    folder = cache_root() / f"demo-{digest.hexdigest()[:16]}"
    files = {}
    for name, make in makers.items():
        files[name] = folder / name
        if not files[name].is_file():
            folder.mkdir(parents=True, exist_ok=True)
            # In a folder of its own: another process may be making it too.
            with tempfile.TemporaryDirectory(dir=folder) as own:
                unfinished = Path(own) / name
                make(unfinished)
                unfinished.replace(files[name])
    return files


def environment_makers() -> dict[str, Callable[[Path], None]]:
    """What makes each environment, by file name."""
    return {f"{key}.hdr": partial(write_environment, key) for key in ENVIRONMENTS}


def demo_files() -> dict[str, Path]:
    """Paths of the lantern, the environments, the light profiles and the lit balls by file name."""
    profiles = {f"{key}.ies": partial(write_profile, key) for key in PROFILES}
    balls = {f"{key}.png": partial(make_ball, key) for key in BALLS}
    return cached_files({ASSET_FILE: write_wick, **environment_makers(), **profiles, **balls})


def file_reference(path: Path) -> FileRef:
    """A document's reference to a file."""
    return FileRef(sha256=sha256_of(path), name=path.name)


def demo_scene() -> tuple[Scene, Callable[[FileRef], Path]]:
    """The demo's document in the light of a studio, and a function that finds its files."""
    files = demo_files()
    asset = import_asset(files[ASSET_FILE])
    low, high = asset_bounds(asset)
    printed = PrintSettings(width=1920, height=1200, samples=128)
    camera = fit_camera(Camera(focal_length=85.0), low, high, printed.width / printed.height, keep_direction=False)
    scene = Scene(
        asset=Asset(file=file_reference(files[ASSET_FILE]), name="Wick No. 4"),
        parts=pivoted(asset),
        materials=asset.materials,
        environment=Environment(map=file_reference(files["softbox-studio.hdr"]), rotation=0.0),
        backdrop=Backdrop(kind="color", color=(0.22, 0.19, 0.165)),
        ground=Ground(height=float(low[1]), reflectance=(0.22, 0.19, 0.165)),
        camera=camera,
        look=Look(exposure=0.4),
        print=printed,
    )
    box = (tuple(float(v) for v in low), tuple(float(v) for v in high))
    conditions = demo_conditions(scene, box, lambda name: file_reference(files[name]))
    scene = scene.model_copy(update={"conditions": conditions})
    by_digest = {file_reference(path).sha256: path for path in files.values()}
    return scene, lambda reference: by_digest[reference.sha256]


def opening_demo() -> tuple[Scene, Callable[[FileRef], Path]]:
    """The demo as it opens: in the evening, its filament aglow, with shots to go to."""
    scene, resolve = demo_scene()
    low, high = asset_bounds(import_asset(demo_files()[ASSET_FILE]))
    lit = under(scene, scene.conditions["hotel-evening"])
    return lit.model_copy(update={"shots": demo_shots(scene, low, high)}), resolve


if __name__ == "__main__":
    print(demo_files()[ASSET_FILE])
