"""A whole order without a server: named, made, gone on with, made anew where the project has changed."""

import json
import zipfile

import numpy as np
import OpenImageIO as oiio
import pytest

from lantern.assets.hashing import sha256_of
from lantern.assets.reading import import_asset
from lantern.cli import main
from lantern.engine import filling
from lantern.ordering import order as ordering
from lantern.picture.told import read_told
from lantern.scene.document import Asset, Camera, Conditions, Scene, Shot
from lantern.scene.model import FileRef
from lantern.scene.patching import apply_operations
from lantern.scene.reading import read_scene
from lantern.scene.variants import begun, kept, kept_edition, taken
from tests.core.gltf_files import glb


def project(path, change=lambda scene: scene):
    """A project of a square, with two shots, two lights and one edition that is not on."""
    square = path.parent / "square.glb"
    square.write_bytes(glb())
    asset = import_asset(square)
    file = FileRef(sha256=sha256_of(square), name="square.glb")
    scene = Scene(asset=Asset(file=file, name="square"), parts=asset.parts, materials=asset.materials)
    camera = Camera(position=(2, 3, 12), target=(2, 3, 3))
    printed = scene.print.model_copy(update={"width": 40, "height": 24, "samples": 6})
    dark = Conditions(
        name="Dark", environment=scene.environment.model_copy(update={"intensity": 0.1}), sky=scene.sky, lights={},
        haze=scene.haze, backdrop=scene.backdrop, ground=scene.ground,
    )  # fmt: skip
    shots = {"front": Shot(name="Front", camera=camera),
             "near": Shot(name="From near", camera=camera.model_copy(update={"position": (2, 3, 8)}))}  # fmt: skip
    conditions = {"dark": dark, "lit": dark.model_copy(update={"name": "Lit", "environment": scene.environment})}
    scene = scene.model_copy(update={"camera": camera, "print": printed, "shots": shots, "conditions": conditions})
    scene = after(scene, begun(scene))
    brighter = scene.model_copy(update={"look": scene.look.model_copy(update={"exposure": 2.0})})
    scene = after(brighter, kept(scene, brighter, "group-1", "Bright"))
    scene = after(scene, kept_edition(scene, "Bright & Red"))
    scene = change(after(scene, taken(scene, {"group-1": "variant-1"})))
    with zipfile.ZipFile(path, "w") as package:
        package.writestr("project.json", json.dumps({"format": "velvet-lantern-project", "scene": scene.plain()}))
        package.write(square, f"files/{file.sha256}")
    return path


def after(scene, made):
    return read_scene(apply_operations(scene.plain(), made.patch)[0])


def ordered(path, out, *extra):
    return main(["order", str(path), "--out", str(out), "--threads", "2", *extra])


def brightness(path):
    return oiio.ImageBuf(str(path)).get_pixels(oiio.FLOAT)[..., :3].mean()


def test_an_order_is_made_into_a_folder_and_what_is_there_is_not_made_again(tmp_path, capsys):
    path, out = project(tmp_path / "lamp.zip"), tmp_path / "out"
    chosen = ("--edition", "Bright & Red", "--shot", "all", "--light", "Lit", "Dark", "--size", "40x24", "20x20")
    assert ordered(path, out, *chosen) == 0
    assert "8 made, 0 there already, 0 failed" in capsys.readouterr().out
    names = sorted(file.name for file in out.iterdir())
    assert "001-Bright-Red-Front-Lit-40x24.png" in names and "008-Bright-Red-From-near-Dark-20x20.exr" in names
    assert len(names) == 17, "a PNG and an EXR each, and the list"
    assert brightness(out / "001-Bright-Red-Front-Lit-40x24.png") > brightness(
        out / "003-Bright-Red-Front-Dark-40x24.png"
    )
    assert read_told(out / names[0], names[0])["samples"] == 6
    (out / names[0]).unlink()
    assert ordered(path, out, *chosen) == 0
    assert "1 made, 7 there already" in capsys.readouterr().out
    project(path, lambda scene: scene.model_copy(update={"shots": {**scene.shots, "near": scene.shots["front"]}}))
    assert ordered(path, out, "--shot", "front", "near", "--light", "Lit", "--json") == 0
    lines = [json.loads(line) for line in capsys.readouterr().out.splitlines()]
    assert lines[-1] == {"made": 2, "there": 0, "failed": 0}
    assert {"name": "001-Front-Lit-40x24", "samples": 6, "wanted": 6} in lines


def test_an_order_that_was_interrupted_goes_on_within_a_frame_and_is_the_same(tmp_path, monkeypatch, capsys):
    path = project(tmp_path / "lamp.zip")
    assert ordered(path, tmp_path / "whole", "--shot", "all") == 0
    monkeypatch.setattr(ordering, "KEEP_SECONDS", 0.0)
    monkeypatch.setattr(filling, "PASS_SECONDS", 0.0)
    real, traced = ordering.fill, []

    def stop(engine, film, settings, goes_on):
        def ends(done):
            goes_on(done)
            if done == 4 and not traced:
                traced.append(done)
                raise KeyboardInterrupt
            return True

        assert not traced or film.samples in (0, 4), "it goes on where it stood"
        return real(engine, film, settings, ends)

    monkeypatch.setattr(ordering, "fill", stop)
    assert ordered(path, tmp_path / "parts", "--shot", "all") == 130
    assert [file.suffix for file in (tmp_path / "parts").iterdir()] == [".npz"]
    assert ordered(path, tmp_path / "parts", "--shot", "all") == 0
    for file in (tmp_path / "whole").glob("*.exr"):
        one, other = (
            oiio.ImageBuf(str(each)).get_pixels(oiio.FLOAT) for each in (file, tmp_path / "parts" / file.name)
        )
        np.testing.assert_array_equal(one, other)
    assert not list((tmp_path / "parts").glob("*.npz"))


def test_a_picture_that_fails_is_told_and_the_others_are_made(tmp_path, capsys, monkeypatch):
    path = project(tmp_path / "lamp.zip")
    real = ordering.write_files

    def full(folder, engine, film, scene, *more):
        if scene.camera.position == (2, 3, 8):
            raise OSError(28, "No space left on device")
        return real(folder, engine, film, scene, *more)

    monkeypatch.setattr(ordering, "write_files", full)
    assert ordered(path, tmp_path / "out", "--shot", "all") == 1
    told = capsys.readouterr().out
    assert (
        "failed  002-From-near-40x24: [Errno 28] No space left" in told and "1 made, 0 there already, 1 failed" in told
    )
    monkeypatch.setattr(ordering, "write_files", real)
    assert ordered(path, tmp_path / "out", "--shot", "all") == 0


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("--edition", "Green"), "there is no edition 'Green'; there are: Bright & Red"),
        (("--shot", "Back"), "there is no shot 'Back'"),
        (("--light", "Noon"), "there is no light 'Noon'; there are: Dark, Lit"),
        (("--names", "{colour}"), "There is no {colour} in a name"),
    ],
)
def test_what_is_not_there_is_one_line_and_exit_code_2(tmp_path, capsys, arguments, words):
    assert ordered(project(tmp_path / "lamp.zip"), tmp_path / "out", *arguments) == 2
    error = capsys.readouterr().err
    assert words in error and error.count("\n") == 1
    assert not (tmp_path / "out").exists()


def test_a_file_that_is_no_project_or_a_damaged_one_is_refused(tmp_path, capsys):
    (tmp_path / "words.zip").write_text("no zip")
    assert ordered(tmp_path / "words.zip", tmp_path / "out") == 2
    path = project(tmp_path / "lamp.zip")
    with zipfile.ZipFile(tmp_path / "other.zip", "w") as target, zipfile.ZipFile(path) as source:
        target.writestr("project.json", source.read("project.json"))
        for name in source.namelist():
            if name.startswith("files/"):
                target.writestr(name, b"something else")
    assert ordered(tmp_path / "other.zip", tmp_path / "out") == 2
    assert "square.glb is damaged" in capsys.readouterr().err
