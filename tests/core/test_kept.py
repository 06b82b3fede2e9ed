"""What was read of an asset is kept, whole, and never trusted further than it can be read."""

import json
from dataclasses import fields, is_dataclass

import numpy as np
import pytest

from lantern.assets import kept, reading
from lantern.assets.hashing import sha256_of
from lantern.assets.reading import import_asset
from lantern.engine.engine import Engine
from lantern.film.film import Film
from tests.core import usd_files
from tests.core.gltf_files import glb, lit_document
from tests.core.mesh_files import ply
from tests.core.odd_asset import odd_glb

CUBE = "".join(f"v {x} {y} {z}\n" for x in (0, 1) for y in (0, 1) for z in (0, 1))
CUBE += "vt 0 0\nvt 1 0\nvt 1 1\nf 1/1 3/2 4/3 2/1\nf 5/1 6/2 8/3 7/1\n"


@pytest.fixture
def cache(tmp_path, monkeypatch):
    monkeypatch.setattr(kept, "cache_root", lambda: tmp_path / "cache")
    monkeypatch.setattr(reading, "LONG_SECONDS", -1.0)
    return tmp_path / "cache"


def asset_files(folder):
    """Files with all that a reader can find: lights and views, faces, colours, motion, instances."""
    found = {
        "odd.glb": odd_glb(),
        "lit.glb": glb(lit_document()),
        "cube.obj": CUBE.encode(),
        "points.ply": ply([[0, 0, 0], [1, 0, 0], [0, 1, 0]], [[0, 1, 2]], "ascii", [[255, 0, 0]] * 3),
    }
    stage = usd_files.still(folder / "set.usda")
    stage.GetRootLayer().Save()
    for name, content in found.items():
        (folder / name).write_bytes(content)
    return [folder / name for name in (*found, "set.usda")]


def same(one, other):
    """Whether two values are equal through and through, arrays by type as well."""
    if isinstance(one, np.ndarray):
        return one.dtype == other.dtype and np.array_equal(one, other)
    if is_dataclass(one):
        return type(one) is type(other) and all(same(getattr(one, f.name), getattr(other, f.name)) for f in fields(one))
    if isinstance(one, list | tuple):
        return type(one) is type(other) and len(one) == len(other) and all(map(same, one, other))
    if isinstance(one, dict):
        return list(one) == list(other) and all(same(one[key], other[key]) for key in one)
    return one == other


def test_what_was_kept_is_what_was_read(cache, tmp_path, monkeypatch):
    for path in asset_files(tmp_path):
        digest = sha256_of(path)
        read = import_asset(path)
        first = import_asset(path, sha256=digest)
        assert kept.recall(digest) is not None, path.name
        with monkeypatch.context() as patched:
            patched.setattr(reading, "_reader_of", lambda _: pytest.fail("it was read again"))
            again = import_asset(path, sha256=digest)
        assert same(read, first) and same(read, again), path.name


def test_what_is_read_in_no_time_is_not_kept(cache, tmp_path, monkeypatch):
    monkeypatch.setattr(reading, "LONG_SECONDS", 60.0)
    (path,) = asset_files(tmp_path)[:1]
    import_asset(path, sha256=sha256_of(path))
    assert kept.recall(sha256_of(path)) is None and not cache.exists()


def test_an_array_that_is_used_twice_is_kept_once(cache, tmp_path):
    path = asset_files(tmp_path)[0]
    asset = import_asset(path)
    asset.meshes.append(asset.meshes[0])
    kept.keep("0" * 64, asset)
    again = kept.recall("0" * 64)
    assert again.meshes[-1].positions is again.meshes[0].positions


@pytest.mark.parametrize("damage", ["index", "array", "missing", "nonsense"])
def test_what_is_damaged_is_read_again(cache, tmp_path, damage):
    path = asset_files(tmp_path)[0]
    digest = sha256_of(path)
    whole = import_asset(path, sha256=digest)
    (folder,) = (cache / "assets").iterdir()
    match damage:
        case "index":
            (folder / "asset.json").write_text((folder / "asset.json").read_text()[:-20])
        case "array":
            (folder / "0.npy").write_bytes((folder / "0.npy").read_bytes()[:100])
        case "missing":
            (folder / "1.npy").unlink()
        case "nonsense":
            index = json.loads((folder / "asset.json").read_text())
            index["plain"]["dict"]["meshes"][0]["kind"] = "Path"
            (folder / "asset.json").write_text(json.dumps(index))
    assert kept.recall(digest) is None
    assert same(import_asset(path, sha256=digest), whole)


def test_the_oldest_gives_way_and_what_is_too_large_is_not_kept(cache, tmp_path, monkeypatch):
    asset = import_asset(asset_files(tmp_path)[0])
    monkeypatch.setattr(kept, "LARGEST", 10)
    assert not kept.keep("1" * 64, asset)
    monkeypatch.setattr(kept, "LARGEST", 1 << 30)
    assert kept.keep("2" * 64, asset)
    (folder,) = (cache / "assets").iterdir()
    size = sum(file.stat().st_size for file in folder.iterdir())
    monkeypatch.setattr(kept, "MOST_BYTES", int(size * 2.5))
    for digit in "345":
        assert kept.keep(digit * 64, asset)
    assert [digit for digit in "2345" if kept.recall(digit * 64)] == ["4", "5"]
    assert not kept.keep("5" * 64, asset), "it is there already"


def test_a_picture_of_what_was_kept_is_the_same(cache, tmp_path):
    from lantern.assets.beginning import begun
    from lantern.motion.bounds import asset_bounds
    from lantern.scene.model import FileRef

    path = asset_files(tmp_path)[0]
    digest, asset = sha256_of(path), import_asset(path)
    scene = begun(asset, FileRef(sha256=digest, name=path.name), *asset_bounds(asset))
    pictures = []
    for _ in range(2):
        engine, film = Engine(2), Film(40, 30)
        engine.open(scene, lambda _: path)
        engine.trace(film, 4)
        pictures.append(film.means().radiance)
        engine.close()
    assert np.array_equal(*pictures) and kept.recall(digest) is not None
