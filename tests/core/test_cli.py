"""The command line: what it prints and writes, and how it refuses."""

import json
import zipfile

import numpy as np
import OpenImageIO as oiio
import pytest

from lantern.assets.hashing import sha256_of
from lantern.assets.reading import import_asset
from lantern.cli import main
from lantern.picture.files import write_radiance_hdr
from lantern.picture.look.files import written_whole
from lantern.scene.document import Asset, Scene
from lantern.scene.look import Look
from lantern.scene.looks import NamedLook
from lantern.scene.model import FileRef
from lantern.scene.motion import Keyed, Motion, ValueKey
from tests.core.gltf_files import changed, damaged_files, glb
from tests.core.test_ordering import brightness, project


def _with_a_mesh_that_is_not_there(path):
    """A scene of an asset, its one part made of mesh number 7."""
    asset = import_asset(path)
    parts = {key: part.model_copy(update={"mesh": 7}) for key, part in asset.parts.items()}
    file = FileRef(sha256=sha256_of(path), name=path.name)
    return Scene(asset=Asset(file=file, name="square"), parts=parts, materials=asset.materials).plain()


@pytest.fixture
def files(tmp_path):
    (tmp_path / "square.glb").write_bytes(glb())
    (tmp_path / "odd.glb").write_bytes(glb(changed("materials", 0, "extensions", "KHR_materials_ior", value="1.7")))
    (tmp_path / "no-mesh.json").write_text(json.dumps(_with_a_mesh_that_is_not_there(tmp_path / "square.glb")))
    write_radiance_hdr(tmp_path / "sky.hdr", np.ones((16, 32, 3), np.float32))
    return tmp_path


def test_inspect_prints_what_the_file_holds(files, capsys):
    assert main(["inspect", str(files / "square.glb"), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["triangles"] == 2 and found["materials"] == ["Red Enamel"]
    assert found["bounds_m"] == {"low": [1, 2, 3], "high": [3, 4, 3]}
    assert main(["inspect", str(files / "square.glb")]) == 0
    assert "2 triangles" in capsys.readouterr().out


def render(files, *extra, out="out.png"):
    return main(
        ["render", str(files / "square.glb"), "--environment", str(files / "sky.hdr"), "--size", "40x24",
         "--samples", "4", "--out", str(files / out), *extra]
    )  # fmt: skip


def test_a_document_is_rendered_at_a_moment_of_its_time_line(files):
    asset = import_asset(files / "square.glb")
    file = FileRef(sha256=sha256_of(files / "square.glb"), name="square.glb")
    keys = (ValueKey(time=0.0, value=-4.0), ValueKey(time=1.0, value=0.0))
    motion = Motion(moves={"look": Keyed(name="Look", path="/look/exposure", keys=keys)})
    scene = Scene(asset=Asset(file=file, name="square"), parts=asset.parts, materials=asset.materials, motion=motion)
    (files / "scene.json").write_text(json.dumps(scene.plain()))
    means = []
    for moment in ("0", "1"):
        out = files / f"at-{moment}.png"
        wanted = ["--size", "24x16", "--samples", "2", "--moment", moment, "--out", str(out)]
        assert main(["render", str(files / "scene.json"), *wanted]) == 0
        means.append(oiio.ImageBuf(str(out)).get_pixels(oiio.FLOAT).mean())
    assert means[1] > 2 * means[0]


def test_render_writes_pictures_and_statistics(files):
    assert render(files, "--denoise", "--stats", str(files / "stats.json")) == 0
    assert render(files, "--no-floor", "--rotate-environment", "30", out="out.exr") == 0
    image = oiio.ImageBuf(str(files / "out.exr"))
    assert (image.spec().width, image.spec().height, image.spec().nchannels) == (40, 24, 11)
    stats = json.loads((files / "stats.json").read_text())
    assert stats["samples"] == 4 and stats["rays"]["camera"] == 40 * 24 * 4
    assert stats["rays_per_second"] > 0 and stats["peak_memory_bytes"] > 0 and stats["libraries"]["embreex"]
    assert set(stats["seconds"]) == {"importing", "compiling", "tracing", "developing"}


def test_layers_and_a_noise_target(files):
    assert render(files, "--layers", "--noise", "30", "--samples", "64", out="layers.exr") == 0
    image = oiio.ImageBuf(str(files / "layers.exr"))
    names, pixels = list(image.spec().channelnames), image.get_pixels(oiio.FLOAT)
    assert {"direct.R", "group_environment.G", "CryptoObject00.R", "variance.V"} <= set(names)
    samples = pixels[..., names.index("samples.V")]
    assert samples.min() >= 16 and samples.max() <= 64


def test_threads_do_not_change_the_picture_and_the_seed_does(files):
    for name, extra in (("a", ["--threads", "1"]), ("b", ["--threads", "2"]), ("c", ["--seed", "5"])):
        assert render(files, *extra, out=f"{name}.png") == 0
    a, b, c = ((files / f"{n}.png").read_bytes() for n in "abc")
    assert a == b != c


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["inspect", "gone.glb"], "no such file"),
        (["render", "square.glb", "--out", "x.gif"], ".png, .exr, .jpg, .tif"),
        (["render", "square.glb", "--out", "nowhere/x.png"], "no folder"),
        (["render", "square.glb", "--environment", "gone.hdr", "--out", "x.png"], "no such file"),
        (["render", "square.glb", "--samples", "0", "--out", "x.png"], "print/samples"),
        (["render", "square.glb", "--threads", "0", "--out", "x.png"], "threads"),
        (["render", "square.glb", "--seed", "3000000000", "--out", "x.png"], "--seed must lie within 0 and 2147483647"),
        (["render", "no-mesh.json", "--out", "x.png"], "parts/square/mesh: the asset has 1 meshes"),
        (["inspect", "odd.glb"], "material 'Red Enamel' does not follow glTF 2.0"),
    ],
)
def test_bad_input_is_one_line_and_exit_code_2(files, capsys, monkeypatch, arguments, words):
    monkeypatch.chdir(files)
    assert main(arguments) == 2
    error = capsys.readouterr().err
    assert error.startswith("lantern: ") and error.count("\n") == 1 and words in error
    assert not (files / "x.png").exists()


def test_bad_arguments_too(files, capsys):
    with pytest.raises(SystemExit) as stop:
        main(["render", "square.glb", "--size", "big", "--out", "x.png"])
    assert stop.value.code == 2
    assert capsys.readouterr().err.count("\n") == 1


def test_damaged_assets_too(files, capsys):
    name, content, _ = damaged_files()["truncated"]
    (files / name).write_bytes(content)
    assert main(["render", str(files / name), "--out", str(files / "x.png")]) == 2
    assert name in capsys.readouterr().err


def test_a_document_is_rendered_under_its_shot_light_and_edition_into_every_format(tmp_path, capsys):
    path = project(tmp_path / "lamp.zip")
    with zipfile.ZipFile(path) as package:
        (tmp_path / "scene.json").write_text(json.dumps(json.loads(package.read("project.json"))["scene"]))
    common = ["render", str(tmp_path / "scene.json"), "--samples", "4"]
    plain, bright = (tmp_path / name for name in ("plain.png", "bright.tif"))
    assert main([*common, "--shot", "Front", "--out", str(plain)]) == 0
    assert main([*common, "--light", "Dark", "--out", str(tmp_path / "dark.png")]) == 0
    assert brightness(plain) > brightness(tmp_path / "dark.png")
    assert main([*common, "--shot", "Front", "--edition", "Bright & Red", "--out", str(bright)]) == 0
    assert brightness(bright) > brightness(plain) + 0.05
    assert oiio.ImageInput.open(str(bright)).spec().format == oiio.UINT16
    (tmp_path / "look.json").write_bytes(written_whole(NamedLook(name="Bright", look=Look(exposure=3.0))))
    assert main([*common, "--look", str(tmp_path / "look.json"), "--out", str(tmp_path / "a.jpg")]) == 0
    assert main([*common, "--finish-noise", "1.5", "--out", str(tmp_path / "b.exr")]) == 0
    assert main([*common, "--light", "Noon", "--out", str(plain)]) == 2
    assert "there is no light 'Noon'" in capsys.readouterr().err
    assert main([*common, "--look", str(tmp_path / "gone.json"), "--out", str(plain)]) == 2
    assert sorted(file.name for file in tmp_path.iterdir()) == [
        "a.jpg", "b.exr", "bright.tif", "dark.png", "lamp.zip", "look.json", "plain.png", "scene.json", "square.glb",
    ]  # fmt: skip


def test_render_tells_a_program_how_far_it_is_and_which_file_it_wrote(files, capsys):
    assert render(files, "--json") == 0
    *steps, done = [json.loads(line) for line in capsys.readouterr().out.splitlines()]
    assert steps and all(step["wanted"] == 4 for step in steps) and steps[-1]["samples"] == 4
    assert done == {"file": str(files / "out.png"), "samples": 4}
