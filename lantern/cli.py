"""The command line: `lantern inspect`, `export`, `render` and `order`. Bad input: one line on stderr, exit code 2."""

import argparse
import json
import os
import resource
import sys
import time
from dataclasses import asdict
from importlib.metadata import PackageNotFoundError, version
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any, NoReturn

import numpy as np
from tqdm import tqdm

from lantern.assets.beginning import begun
from lantern.assets.errors import AssetError
from lantern.assets.hashing import sha256_of
from lantern.assets.imported import ImportedAsset
from lantern.assets.pictures import PICTURES
from lantern.assets.reading import import_asset
from lantern.engine.baking import SIZES
from lantern.engine.engine import LARGEST_SEED, Engine
from lantern.engine.exporting import ENDINGS, exported
from lantern.engine.filling import fill, finished, samples_done
from lantern.engine.still_files import write_files
from lantern.motion.bounds import asset_bounds
from lantern.ordering.order import keys_of, make_order, table
from lantern.ordering.project_file import ProjectFileError, is_project_file, read_project_file
from lantern.picture.files import HDR_SUFFIXES, ImageError
from lantern.picture.look.files import read_look
from lantern.scene.document import Scene
from lantern.scene.editing import files_in
from lantern.scene.model import FileRef
from lantern.scene.naming import TEMPLATE
from lantern.scene.orders import Combination, OrderError, document_of
from lantern.scene.printing import LAYERS
from lantern.scene.reading import SceneError, read_scene
from lantern.scene.surroundings import Backdrop
from lantern.scene.variants import VariantError

LIBRARIES = ("numpy", "numba", "llvmlite", "embreex", "pyoidn", "OpenImageIO", "opencolorio", "pydantic")
SUFFIXES = {".png": "png", ".exr": "exr", ".jpg": "jpg", ".tif": "tif"}
"""Kinds of files by what they end in."""


class UsageError(ValueError):
    """An argument cannot be used."""


class _Parser(argparse.ArgumentParser):
    """A parser whose complaint is one line."""

    def error(self, message: str) -> NoReturn:
        print(f"lantern: {message}; see `lantern --help`", file=sys.stderr)
        raise SystemExit(2)


def _size(text: str) -> tuple[int, int]:
    try:
        width, height = (int(side) for side in text.lower().split("x"))
    except ValueError:
        raise argparse.ArgumentTypeError(f"a size is WIDTHxHEIGHT such as 1280x800, not {text!r}") from None
    if not (1 <= width <= 16384 and 1 <= height <= 16384):
        raise argparse.ArgumentTypeError(f"each side must lie within 1 and 16384, not {text}")
    return width, height


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="lantern", description="Inspect and render assets with Velvet Lantern's core.")
    commands = parser.add_subparsers(dest="command", required=True, parser_class=_Parser)
    inspect = commands.add_parser("inspect", help="say what an asset file holds")
    inspect.add_argument("file", type=Path, help="glTF, OpenUSD, OBJ, STL or PLY, or a zip of one with its files")
    inspect.add_argument("--json", action="store_true", help="print JSON")
    export = commands.add_parser("export", help="write what can be seen of a scene as a model")
    export.add_argument("source", type=Path, metavar="ASSET_OR_SCENE", help="asset file, or a scene document (.json)")
    export.add_argument("--out", type=Path, required=True, help="file to write: .glb, .usdz, or .zip with an OBJ")
    export.add_argument(
        "--bake", type=int, choices=SIZES, metavar="TEXELS",
        help=f"make images of patterns, layers and decals, of so many texels a side: {', '.join(map(str, SIZES))}",
    )  # fmt: skip
    export.set_defaults(size=None)
    order = commands.add_parser("order", help="make many pictures of a project, and go on where it was interrupted")
    order.add_argument("project", type=Path, metavar="PROJECT.zip", help="a project saved as a file")
    for name, what in (("edition", "editions"), ("shot", "shots"), ("light", "conditions")):
        order.add_argument(f"--{name}", nargs="+", default=[], metavar="NAME", help=f"{what} by name, or: all")
    order.add_argument("--size", type=_size, nargs="+", default=[], help="WIDTHxHEIGHT in pixels, one or several")
    order.add_argument("--samples", type=int, help="samples for each pixel, in the place of the project's")
    order.add_argument(
        "--names", default=TEMPLATE, metavar="TEMPLATE", help="names of the files (default: %(default)s)"
    )
    order.add_argument("--threads", type=int, default=os.cpu_count(), help="threads to trace with")
    order.add_argument("--json", action="store_true", help="print one JSON object a line")
    order.add_argument("--out", type=Path, required=True, help="folder for the pictures")
    render = commands.add_parser("render", help="make a final frame")
    render.add_argument("source", type=Path, metavar="ASSET_OR_SCENE", help="asset file, or a scene document (.json)")
    render.add_argument("--environment", type=Path, help="HDR map or photograph")
    render.add_argument("--size", type=_size, help="WIDTHxHEIGHT in pixels (default 1280x800 or the scene's)")
    render.add_argument("--samples", type=int, help="samples for each pixel (default 64 or the scene's)")
    render.add_argument("--denoise", action=argparse.BooleanOptionalAction, help="remove noise at the end")
    render.add_argument("--noise", type=float, metavar="PERCENT", help="end where the picture has no more noise")
    render.add_argument(
        "--finish-noise", type=float, metavar="STEPS",
        help="noise of the finished picture in steps of 255, for which samples are planned",
    )  # fmt: skip
    render.add_argument("--edition", metavar="NAME", help="edition of the document")
    render.add_argument("--shot", metavar="NAME", help="shot of the document")
    render.add_argument("--light", metavar="NAME", help="conditions of the document")
    render.add_argument("--look", type=Path, help="a whole look (.json), a table or a colour decision")
    render.add_argument("--layers", action=argparse.BooleanOptionalAction, help="every layer in the EXR")
    render.add_argument("--transparent", action=argparse.BooleanOptionalAction, help="no backdrop, alpha instead")
    render.add_argument("--hdr", action="store_true", help="a PNG of Rec. 2100 PQ, for displays brighter than paper")
    render.add_argument("--rotate-environment", type=float, metavar="DEG", help="turn the map about the vertical")
    render.add_argument("--exposure", type=float, metavar="EV", help="exposure of the PNG")
    render.add_argument("--moment", type=float, metavar="SECONDS", help="moment of the time line that is shown")
    render.add_argument("--floor", action=argparse.BooleanOptionalAction, help="ground that catches shadow")
    render.add_argument("--threads", type=int, default=os.cpu_count(), help="threads to trace with")
    render.add_argument("--seed", type=int, default=0, help="another seed gives other noise")
    render.add_argument("--json", action="store_true", help="print one JSON object a line")
    render.add_argument("--out", type=Path, required=True, help="picture to write: .png, .exr, .jpg or .tif")
    render.add_argument("--stats", type=Path, help="write statistics as JSON")
    return parser


def main(arguments: list[str] | None = None) -> int:
    """Entry point; returns the exit code."""
    options = _parser().parse_args(arguments)
    try:
        if options.command == "inspect":
            _inspect(options)
        elif options.command == "export":
            _export(options)
        elif options.command == "order":
            return _order(options)
        else:
            _render(options)
    except (AssetError, ImageError, SceneError, UsageError, ProjectFileError, OSError) as error:
        print(f"lantern: {' '.join(str(error).split())}", file=sys.stderr)
        return 2
    except KeyboardInterrupt:
        print("lantern: stopped", file=sys.stderr)
        return 130
    return 0


def describe(asset: ImportedAsset) -> dict[str, Any]:
    """What a file holds, as plain data."""
    low, high = asset_bounds(asset)
    return {
        "format": asset.format,
        "parts": [
            {"key": key, "name": part.name, "material": part.material, "triangles": asset.meshes[part.mesh].triangles}
            for key, part in asset.parts.items()
        ],
        "triangles": asset.triangles,
        "materials": [material.name for material in asset.materials.values()],
        "textures": [{"width": t.texels.shape[1], "height": t.texels.shape[0]} for t in asset.textures],
        "bounds_m": {"low": low.round(6).tolist(), "high": high.round(6).tolist()},
        "problems": asset.problems,
    }


def _inspect(options: argparse.Namespace) -> None:
    found = describe(import_asset(options.file))
    if options.json:
        print(json.dumps(found, indent=2))
        return
    size = np.subtract(found["bounds_m"]["high"], found["bounds_m"]["low"])
    print(f"{options.file.name}: {found['format']}, {found['triangles']:,} triangles")
    print(f"  size       {size[0]:.4g} x {size[1]:.4g} x {size[2]:.4g} m")
    print(f"  materials  {', '.join(found['materials']) or 'none'}")
    print(f"  textures   {', '.join('{width}x{height}'.format(**t) for t in found['textures']) or 'none'}")
    print(f"  parts      {len(found['parts'])}")
    for part in found["parts"]:
        print(f"    {part['name']}  ({part['triangles']:,} triangles, {part['material']})")
    for problem in found["problems"]:
        print(f"  problem    {problem}")


def _export(options: argparse.Namespace) -> None:
    form = next((form for form, ending in ENDINGS.items() if ending == options.out.suffix.lower()), None)
    if form is None:
        raise UsageError(f"--out: {options.out.name} must end in .glb, in .usdz, or in .zip for an OBJ")
    scene, files, asset = _load(options)
    if asset is None:
        if scene.asset is None:
            raise UsageError(f"{options.source.name}: there is no asset in it to write")
        asset = import_asset(files[scene.asset.file.sha256], name=scene.asset.file.name, clip=scene.asset.clip)
    written = exported(scene, asset, form, lambda reference: files[reference.sha256], options.bake)
    options.out.write_bytes(written.data)
    for lost in written.lost:
        print(f"lantern: left out: {lost}", file=sys.stderr)
    print(f"{options.out}: {len(written.data) / 1e6:.1f} MB")


def _load(options: argparse.Namespace) -> tuple[Scene, dict[str, Path], ImportedAsset | None]:
    """(document, files by digest, asset if already imported)."""
    if options.source.suffix.lower() == ".json":
        try:
            data = json.loads(options.source.read_text())
        except ValueError as error:
            raise UsageError(f"{options.source.name}: cannot be read as JSON ({error})") from error
        scene = read_scene(data)
        folder = options.source.parent
        files = {}
        for reference in files_in(scene.plain()):
            found = [p for p in (folder / reference.sha256, folder / reference.name) if p.is_file()]
            if not found:
                raise UsageError(f"{options.source.name}: its file {reference.name} is not beside it")
            files[reference.sha256] = found[0]
        return scene, files, None
    asset = import_asset(options.source)
    digest = sha256_of(options.source)
    file = FileRef(sha256=digest, name=options.source.name)
    scene = begun(asset, file, *asset_bounds(asset), shape=options.size or (1280, 800))
    return scene, {digest: options.source}, asset


def _combined(scene: Scene, options: argparse.Namespace, files: dict[str, Path]) -> Scene:
    """The document under the edition, shot, light and look that are asked for. Raises UsageError."""
    try:
        (edition,), (shot,), (light,) = (
            keys_of([name], {key: one.name for key, one in there.items()}, what) if name else [None]
            for name, there, what in (
                (options.edition, scene.editions, "edition"),
                (options.shot, scene.shots, "shot"),
                (options.light, scene.conditions, "light"),
            )
        )
        scene = document_of(scene, Combination(edition, shot, light))
    except (OrderError, VariantError) as error:
        raise UsageError(str(error)) from error
    if options.look is None:
        return scene
    if not options.look.is_file():
        raise UsageError(f"--look: there is no file {options.look}")
    digest = sha256_of(options.look)
    files[digest] = options.look
    try:
        return scene.model_copy(update={"look": read_look(options.look, options.look.name, digest)})
    except ValueError as error:
        raise UsageError(f"--look: {error}") from error


def _with_options(scene: Scene, options: argparse.Namespace, files: dict[str, Path]) -> Scene:
    """The document with what the command line says about what is shown, light, ground and print."""
    data = _combined(scene, options, files).plain()
    if options.environment is not None:
        if not options.environment.is_file():
            raise UsageError(f"{options.environment}: there is no such file")
        digest = sha256_of(options.environment)
        files[digest] = options.environment
        data["environment"]["map"] = {"sha256": digest, "name": options.environment.name}
        if scene.backdrop == Backdrop():
            data["backdrop"]["kind"] = "environment"
    is_asset = options.source.suffix.lower() != ".json"
    width, height = options.size or ((1280, 800) if is_asset else (None, None))
    samples = 64 if options.samples is None and is_asset else options.samples
    denoise = False if options.denoise is None and is_asset else options.denoise
    for section, field, value in (
        ("environment", "rotation", options.rotate_environment),
        ("look", "exposure", options.exposure),
        ("shutter", "time", options.moment),
        ("ground", "enabled", options.floor),
        ("print", "width", width),
        ("print", "height", height),
        ("print", "samples", samples),
        ("print", "denoise", denoise),
        ("print", "noise", options.noise),
        ("print", "finish_noise", options.finish_noise),
        *(("print", name, options.layers) for name in LAYERS),
        ("print", "transparent", options.transparent),
    ):
        if value is not None:
            data[section][field] = value
    data["print"]["hdr"] = bool(options.hdr)
    made = read_scene(data)
    return made.model_copy(update={"print": made.print.writing(SUFFIXES[options.out.suffix.lower()])})


def _render(options: argparse.Namespace) -> None:
    if options.out.suffix.lower() not in SUFFIXES:
        raise UsageError(f"--out must end in {', '.join(SUFFIXES)}, not {options.out.name!r}")
    if not options.out.parent.is_dir():
        raise UsageError(f"--out: there is no folder {options.out.parent}")
    if options.environment is not None and options.environment.suffix.lower() not in (*HDR_SUFFIXES, *PICTURES):
        known = ", ".join((*HDR_SUFFIXES, *PICTURES))
        raise UsageError(f"--environment must be one of {known}, not {options.environment.name!r}")
    if options.threads < 1:
        raise UsageError(f"--threads must be at least 1, not {options.threads}")
    if not 0 <= options.seed <= LARGEST_SEED:
        raise UsageError(f"--seed must lie within 0 and {LARGEST_SEED}, not {options.seed}")
    start = time.perf_counter()
    scene, files, asset = _load(options)
    scene = _with_options(scene, options, files)
    engine = Engine(options.threads, final=True)
    try:
        for problem in engine.open(scene, lambda reference: files[reference.sha256], asset):
            print(f"lantern: {problem}", file=sys.stderr)
        _trace_and_write(engine, scene, options)
        if limited := engine.ray_counts().limited:
            limit = scene.rendering.sample_limit
            print(f"lantern: {limited:,} samples brighter than {limit:g} cd/m² were dimmed to that", file=sys.stderr)
        if options.stats:
            options.stats.write_text(json.dumps(_statistics(engine, scene, start), indent=2) + "\n")
    finally:
        engine.close()


def _trace_and_write(engine: Engine, scene: Scene, options: argparse.Namespace) -> None:
    wanted, suffix = scene.print, options.out.suffix.lower()
    film = engine.film_for(wanted.width, wanted.height, aovs=wanted.layers)
    film.select(wanted.window)
    hides = options.json or not sys.stderr.isatty()
    with tqdm(total=wanted.samples, unit="sample", disable=hides, leave=False) as bar:

        def goes_on(done: int) -> bool:
            bar.update(done - bar.n)
            if options.json:
                print(json.dumps({"samples": done, "wanted": wanted.samples}), flush=True)
            return wanted.seconds is None or engine.timings.tracing < wanted.seconds

        fill(engine, film, wanted, goes_on, seed=options.seed)
    found = finished(engine, film, wanted)
    assert found is not None, "nothing makes it give way"
    kind = "hdr" if suffix == ".png" and options.hdr else SUFFIXES[suffix]
    with TemporaryDirectory(dir=options.out.parent) as folder:
        [(_, written)] = write_files(Path(folder), engine, film, scene, *found, only=kind)
        os.replace(written, options.out)
    if options.json:
        print(json.dumps({"file": str(options.out), "samples": samples_done(film, wanted)}), flush=True)


def _order(options: argparse.Namespace) -> int:
    """Make the pictures of an order; 1 when some of them failed."""
    if not is_project_file(options.project):
        raise UsageError(f"{options.project}: is no project: save one as a package in the application")
    engine = Engine(options.threads, final=True)
    with TemporaryDirectory() as unpacked, tqdm(disable=options.json or not sys.stderr.isatty(), leave=False) as bar:
        scene, files = read_project_file(options.project, Path(unpacked))

        def said(name: str, done: int, wanted: int) -> None:
            if options.json:
                print(json.dumps({"name": name, "samples": done, "wanted": wanted}), flush=True)
            bar.total = wanted
            bar.set_description(name, refresh=False)
            bar.update(done - bar.n)

        try:
            rows = table(
                scene, options.edition, options.shot, options.light, options.size, options.names, options.project.stem
            )
            made = make_order(engine, scene, files, rows, options.out, said, options.samples)
        except OrderError as error:
            raise UsageError(str(error)) from error
        finally:
            engine.close()
    for one in made:
        if options.json:
            print(json.dumps(asdict(one)))
        else:
            print(f"{one.state:7} {one.name}{f': {one.problem}' if one.problem else ''}")
    counts = {state: sum(one.state == state for one in made) for state in ("made", "there", "failed")}
    told = f"{counts['made']} made, {counts['there']} there already, {counts['failed']} failed"
    print(json.dumps(counts) if options.json else told)
    return 1 if counts["failed"] else 0


def _library_versions() -> dict[str, str]:
    found = {}
    for library in LIBRARIES:
        try:
            found[library] = version(library)
        except PackageNotFoundError:
            found[library] = "missing"
    return found


def _statistics(engine: Engine, scene: Scene, start: float) -> dict[str, Any]:
    counts = engine.ray_counts()
    statistics = engine.statistics()
    statistics["samples"] = scene.print.samples
    statistics["rays_per_second"] = counts.rays / max(engine.timings.tracing, 1e-9)
    statistics["total_seconds"] = time.perf_counter() - start
    statistics["peak_memory_bytes"] = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024
    statistics["libraries"] = _library_versions()
    return statistics


if __name__ == "__main__":
    raise SystemExit(main())
