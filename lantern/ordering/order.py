"""A whole order without a server: every picture of a project that is chosen, into one folder.

In: a document, its files, what is chosen. Out: picture files, and a list of what made them. Called by the command line.
What is there already and would come out the same is not made again; a frame that was interrupted goes on where it
stood.
"""

import json
import os
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from lantern.engine.engine import Engine
from lantern.engine.filling import fill, finished
from lantern.engine.still_files import NAMES, write_files
from lantern.scene.document import Scene
from lantern.scene.model import FileRef
from lantern.scene.naming import named
from lantern.scene.orders import Combination, OrderError, combinations, digest_of, document_of, sized
from lantern.scene.variants import VariantError

LIST = "order.json"
KEEP_SECONDS = 10.0
"""After which the film of a frame is kept."""
Said = Callable[[str, int, int], None]
"""Hears the name of a picture, its samples so far, and those wanted."""


@dataclass(frozen=True)
class Wanted:
    """One picture of an order."""

    name: str
    combination: Combination
    size: tuple[int, int] | None


@dataclass(frozen=True)
class Made:
    """What became of one picture: `made`, `there` already, or `failed` with the reason."""

    name: str
    state: str
    problem: str = ""


def keys_of(names: Sequence[str], there: Mapping[str, str], what: str) -> list[str]:
    """Keys of things by their names or keys; all of them for the one word "all". Raises OrderError."""
    if list(names) == ["all"]:
        return list(there)
    by_name = {name: key for key, name in there.items()}
    for name in names:
        if name not in by_name and name not in there:
            known = ", ".join(there.values()) or "none"
            raise OrderError(f"there is no {what} {name!r}; there are: {known}")
    return [name if name in there else by_name[name] for name in names]


def table(
    scene: Scene,
    editions: Sequence[str],
    shots: Sequence[str],
    conditions: Sequence[str],
    sizes: Sequence[tuple[int, int]],
    template: str,
    project: str,
) -> list[Wanted]:
    """The pictures of an order, each with the name of its files. Raises OrderError for what is not there."""
    chosen = combinations(
        keys_of(editions, {key: one.name for key, one in scene.editions.items()}, "edition"),
        keys_of(shots, {key: one.name for key, one in scene.shots.items()}, "shot"),
        keys_of(conditions, {key: one.name for key, one in scene.conditions.items()}, "light"),
    )
    rows, wanted = list[Wanted](), list[tuple[int, int] | None](sizes) or [None]
    for one in chosen:
        for size in wanted:
            width, height = size or (scene.print.width, scene.print.height)
            rows.append(Wanted(named(template, len(rows), project, one.names(scene), width, height), one, size))
    return rows


def make_order(
    engine: Engine,
    scene: Scene,
    files: Mapping[str, Path],
    rows: Sequence[Wanted],
    folder: Path,
    said: Said = lambda name, done, wanted: None,
    samples: int | None = None,
) -> list[Made]:
    """Make the pictures of a table that are not there yet; what fails is told, and the others are made."""
    folder.mkdir(parents=True, exist_ok=True)
    known = _read_list(folder)
    made = []
    for row in rows:
        try:
            wanted = _document(scene, row, samples)
            digest = digest_of(wanted)
            there = known.get(row.name, {})
            paths = {kind: folder / f"{row.name}{NAMES[kind].removeprefix('picture')}" for kind in wanted.print.kinds}
            if there.get("digest") == digest and all(path.is_file() for path in paths.values()):
                made.append(Made(row.name, "there"))
                continue
            _make(engine, wanted, files, row.name, folder, paths, digest, said)
        except (OrderError, VariantError, ValueError, OSError) as error:
            made.append(Made(row.name, "failed", str(error) or type(error).__name__))
            continue
        known[row.name] = {"digest": digest, "files": sorted(path.name for path in paths.values())}
        _write_list(folder, known)
        made.append(Made(row.name, "made"))
    return made


def _document(scene: Scene, row: Wanted, samples: int | None) -> Scene:
    wanted = document_of(scene, row.combination)
    if row.size is not None:
        wanted = sized(wanted, *row.size)
    if samples is not None:
        wanted = wanted.model_copy(update={"print": wanted.print.model_copy(update={"samples": samples})})
    return wanted


def _make(
    engine: Engine,
    scene: Scene,
    files: Mapping[str, Path],
    name: str,
    folder: Path,
    paths: Mapping[str, Path],
    digest: str,
    said: Said,
) -> None:
    def resolve(reference: FileRef) -> Path:
        return files[reference.sha256]

    if engine.is_open:
        engine.apply(scene, resolve)
    else:
        engine.open(scene, resolve)
    settings = scene.print
    film = engine.film_for(settings.width, settings.height, aovs=settings.layers)
    kept = folder / f".{name}-{digest[:16]}.npz"
    if kept.is_file():
        with np.load(kept) as data:
            film.restore(dict(data))
    film.select(settings.window)

    last = time.monotonic()

    def goes_on(done: int) -> bool:
        nonlocal last
        said(name, done, settings.samples)
        if time.monotonic() - last >= KEEP_SECONDS:
            _keep(kept, film.arrays())
            last = time.monotonic()
        return True

    fill(engine, film, settings, goes_on)
    found = finished(engine, film, settings)
    assert found is not None, "nothing makes it give way"
    for kind, path in write_files(folder, engine, film, scene, *found):
        os.replace(path, paths[kind])
    kept.unlink(missing_ok=True)


def _keep(path: Path, arrays: dict[str, np.ndarray]) -> None:
    partial = path.with_suffix(".partial.npz")
    np.savez(partial, allow_pickle=False, **arrays)
    os.replace(partial, path)


def _read_list(folder: Path) -> dict[str, dict[str, object]]:
    try:
        return dict(json.loads((folder / LIST).read_text()))
    except (OSError, ValueError, TypeError):
        return {}


def _write_list(folder: Path, known: Mapping[str, object]) -> None:
    partial = folder / f".{LIST}"
    partial.write_text(json.dumps(known, indent=1, sort_keys=True))
    os.replace(partial, folder / LIST)
