"""Images of one's own in inputs, lit balls, chance by copy: rendered, live, odd files."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import OpenImageIO as oiio
import pytest
from PIL import Image

from lantern.assets.pictures import MOST_TEXELS, PictureError, read_picture
from lantern.assets.textures import REPEAT, Texture
from lantern.color import decode_srgb
from lantern.engine.engine import Engine
from lantern.engine.own_images import picture_files
from lantern.film.film import Film
from lantern.scene.document import Camera, Material, Part
from lantern.scene.forms import BallForm
from lantern.scene.inputs import MaterialInput, Placement
from lantern.scene.layers import Layer
from lantern.scene.model import FileRef
from lantern.scene.scatter import Scatter
from lantern.scene.sources import ChanceSource, LitBallSource, PictureSource
from lantern.scene.texture_use import TextureUse
from tests.core.test_decals import FILE, GREY, halves, rendered, scene_with
from tests.core.test_inputs import CAMERA, SIDE


def material_of(source, name="base_color", **fields):
    placement = Placement(kind="plane", size=1.0, offset=(-0.5, -0.5, 0))
    one = MaterialInput(source=source, placement=placement)
    return GREY.model_copy(update={"inputs": {name: one}, **fields})


def shown(material, path, parts=None):
    scene, asset = scene_with([], parts)
    return rendered(scene.model_copy(update={"materials": {"m": material}}), asset, path).albedo


@pytest.mark.parametrize(("decoding", "wanted"), [("srgb", float(decode_srgb(np.array(0.5019608)))), ("linear", 0.502)])
def test_an_image_of_ones_own_is_seen_as_it_is_decoded(decoding, wanted, tmp_path):
    path = halves(tmp_path, left=(128, 128, 128), right=(128, 128, 128))
    found = shown(material_of(PictureSource(file=FILE, decoding=decoding)), path)[SIDE // 2, SIDE // 2]
    assert found == pytest.approx([wanted] * 3, abs=0.002)


@pytest.mark.parametrize(("wrap", "beyond"), [("repeat", 0), ("mirror", 2), ("clamp", 2)])
def test_it_goes_on_beyond_its_edges_as_it_is_told(wrap, beyond, tmp_path):
    """The image is as wide as the left half of the square; what follows on its right begins red or blue."""
    placement = Placement(kind="plane", size=0.5, offset=(-0.5, -0.5, 0))
    one = MaterialInput(source=PictureSource(file=FILE, wrap=wrap), placement=placement)
    albedo = shown(GREY.model_copy(update={"inputs": {"base_color": one}}), halves(tmp_path))
    row = albedo[SIDE // 2]
    assert np.argmax(row[SIDE // 8]) == 0 and np.argmax(row[3 * SIDE // 8]) == 2
    assert np.argmax(row[5 * SIDE // 8]) == beyond


def test_its_hue_is_turned_and_its_saturation_taken(tmp_path):
    path = halves(tmp_path)
    turned = shown(material_of(PictureSource(file=FILE, hue=120.0)), path)[SIDE // 2, SIDE // 4]
    assert turned == pytest.approx((0, 1, 0), abs=0.01)
    grey = shown(material_of(PictureSource(file=FILE, saturation=0.0)), path)[SIDE // 2, SIDE // 4]
    assert grey == pytest.approx([1 / 3] * 3, abs=0.01)


def test_one_channel_drives_a_number_and_a_mask(tmp_path):
    path = halves(tmp_path)
    rough = shown(material_of(PictureSource(file=FILE, channel="blue"), "base_metalness", specular_weight=1.0), path)
    assert rough[SIDE // 2, 3 * SIDE // 4] == pytest.approx([0.5] * 3, abs=0.01)
    over = Material(name="Over", base_color=(0, 0.8, 0), specular_weight=0.0)
    mask = material_of(PictureSource(file=FILE, channel="red", decoding="linear")).inputs["base_color"]
    layered = GREY.model_copy(update={"layers": (Layer(material="o", mask=mask),)})
    scene, asset = scene_with([])
    albedo = rendered(scene.model_copy(update={"materials": {"m": layered, "o": over}}), asset, path).albedo
    assert albedo[SIDE // 2, SIDE // 4] == pytest.approx((0, 0.8, 0), abs=0.01)
    assert albedo[SIDE // 2, 3 * SIDE // 4] == pytest.approx([0.5] * 3, abs=0.01)


def ball_picture(folder, side=256):
    """A picture of a ball whose colour is its normal: red to the right, green upwards."""
    y, x = np.mgrid[0:side, 0:side]
    u, v = (x + 0.5) / side, 1 - (y + 0.5) / side
    texels = np.stack([u, v, np.zeros_like(u)], axis=2)
    path = folder / "ball.png"
    Image.fromarray(np.round(texels * 255).astype(np.uint8)).save(path)
    return path


@pytest.mark.parametrize("position", [(0, 0, 4), (4, 0, 0), (2, 2, -3)])
def test_a_lit_ball_looks_like_its_picture_from_everywhere(position, tmp_path):
    path = ball_picture(tmp_path)
    parts = {"part": Part(name="Part", form=BallForm(radius=0.4), material="m", offset=(0, -0.4, 0))}
    scene, asset = scene_with([], parts)
    away = float(np.linalg.norm(position))
    camera = CAMERA.model_copy(update={"position": position, "focal_length": 36 * away})
    lit = material_of(LitBallSource(file=FILE))
    albedo = rendered(scene.model_copy(update={"materials": {"m": lit}, "camera": camera}), asset, path).albedo
    for column, row in ((32, 32), (20, 32), (32, 44), (40, 24)):
        x, y = (column + 0.5) / SIDE - 0.5, 0.5 - (row + 0.5) / SIDE
        wanted = [float(decode_srgb(np.array(0.5 + 0.5 * 0.985 * v / 0.4))) for v in (x, y)]
        assert albedo[row, column, :2] == pytest.approx(wanted, abs=0.02)


def test_a_lit_ball_is_the_same_on_a_part_that_is_turned_and_mirrored(tmp_path):
    path = ball_picture(tmp_path)
    found = []
    for fields in ({}, {"turn_x": 40.0, "turn_y": 110.0, "mirror": "x"}):
        ball = Part(name="Part", form=BallForm(radius=0.4), material="m", offset=(0, -0.4, 0), pivot=(0, 0.4, 0))
        parts = {"part": ball.model_copy(update=fields)}
        found.append(shown(material_of(LitBallSource(file=FILE)), path, parts))
    assert found[0][8:-8, 8:-8] == pytest.approx(found[1][8:-8, 8:-8], abs=0.03)


def test_chance_by_copy_is_another_for_each_and_by_part_one_for_all():
    parts = {
        "part": Part(name="Ground", mesh=0, material="g", turn_x=0.0),
        "copies": Part(name="Copies", mesh=1, material="m", strewn=Scatter(over="part", density=60.0, seed=3)),
    }
    for each, spread in (("copy", True), ("part", False)):
        one = MaterialInput(source=ChanceSource(each=each))
        material = GREY.model_copy(update={"inputs": {"base_color": one}})
        scene, asset = scene_with([], parts, {"g": GREY.model_copy(update={"base_color": (0, 0, 1)})})
        scene = scene.model_copy(update={"materials": scene.materials | {"m": material}})
        albedo = rendered(scene, asset).albedo.reshape(-1, 3)
        greys = albedo[np.ptp(albedo, axis=1) < 1e-3, 0]
        assert len(greys) > 200
        assert (np.ptp(greys) > 0.3) == spread


def test_a_new_image_is_a_row_and_an_image_that_is_gone_goes(tmp_path):
    paths = {}
    for number, color in enumerate([(255, 0, 0), (0, 0, 255)]):
        folder = tmp_path / str(number)
        folder.mkdir()
        paths[f"{number}" * 64] = halves(folder, color, color)
    files = [FileRef(sha256=sha, name="one.png") for sha in paths]
    scene, asset = scene_with([])
    engine = Engine(threads=2)
    engine.open(scene, lambda reference: paths[reference.sha256], asset)
    for file, channel in ((files[0], 0), (files[1], 2), (files[0], 0)):
        changed = scene.model_copy(update={"materials": {"m": material_of(PictureSource(file=file))}})
        assert list(picture_files(changed)) == [file.sha256]
        change = engine.apply(changed, lambda reference: paths[reference.sha256])
        assert change.restarts and not change.recompiled and not change.problems
        film = Film(SIDE, SIDE)
        engine.trace(film, 2)
        assert film.means().albedo[SIDE // 2, SIDE // 2, channel] == pytest.approx(1.0, abs=0.01)
    engine.close()


@pytest.mark.parametrize(
    ("name", "content", "said"),
    [
        ("a.png", b"\x89PNG but nothing else", "cannot be decoded"),
        ("a.txt", b"hello", "no kind that can be read"),
        ("a.svg", b"<svg", "no drawing"),
        ("a.svg", b'<svg xmlns="http://www.w3.org/2000/svg"><image href="/etc/passwd"/></svg>', "other files"),
        ("a.svg", b'<svg xmlns="http://www.w3.org/2000/svg"><use href="https://a/b.svg#c"/></svg>', "other files"),
    ],
)
def test_what_is_no_image_is_said(name, content, said, tmp_path):
    path = tmp_path / name
    path.write_bytes(content)
    with pytest.raises(PictureError, match=said) as problem:
        read_picture(path, name)
    assert str(problem.value).startswith(f"{name}: ")


def test_an_image_of_a_hundred_megapixels_is_refused_before_it_is_decoded(tmp_path):
    path = tmp_path / "large.png"
    Image.fromarray(np.zeros((10_000, 10_000), np.uint8)).save(path)
    with pytest.raises(PictureError, match="10000x10000 texels"):
        read_picture(path, path.name)
    assert MOST_TEXELS < 100e6


def test_texels_that_are_no_numbers_are_said_and_taken_as_nothing(tmp_path):
    path = tmp_path / "odd.exr"
    texels = np.full((4, 4, 3), 0.5, np.float32)
    texels[1, 2] = np.nan
    texels[3, 0, 1] = np.inf
    out = oiio.ImageOutput.create(str(path))
    out.open(str(path), oiio.ImageSpec(4, 4, 3, oiio.FLOAT))
    out.write_image(texels)
    out.close()
    found, problems = read_picture(path, path.name)
    assert np.isfinite(found).all() and found[0, 0] == pytest.approx([0.5] * 3)
    assert problems == ["odd.exr: 2 texels are no numbers, and are taken as 0"]


def test_a_drawing_is_read_with_its_alpha_and_its_shape(tmp_path):
    path = tmp_path / "mark.svg"
    path.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 50 100">'
        '<rect width="50" height="50" fill="#00ff00"/><text x="5" y="90" font-size="30">A</text></svg>'
    )
    texels, problems = read_picture(path, path.name)
    assert texels.shape == (2048, 1024, 4) and problems == []
    assert tuple(texels[100, 100]) == (0, 255, 0, 255)
    assert texels[1100, 1000, 3] == 0 and texels[1024:, :, 3].max() == 255


def test_an_orthographic_picture_of_a_lost_file_goes_without_it(tmp_path):
    """A file that is not on the disk any more."""
    scene, asset = scene_with([])
    lost = scene.model_copy(update={"materials": {"m": material_of(PictureSource(file=FILE))}})
    engine = Engine(threads=2)
    problems = engine.open(lost, lambda reference: Path(tmp_path / "nowhere.png"), asset)
    assert len(problems) == 1 and "halves.png: cannot be read" in problems[0]
    film = Film(SIDE, SIDE)
    engine.trace(film, 4)
    engine.close()
    assert film.means().albedo[SIDE // 2, SIDE // 2] == pytest.approx([0.5] * 3, abs=1e-3)
    assert isinstance(lost.camera, Camera)


def test_a_map_of_ones_own_is_what_the_same_map_of_the_asset_is(tmp_path):
    """Colour, roughness with metalness, and normals, of a file and of the asset's own textures."""
    names = ("base_color", "metallic_roughness", "normal")
    rng, files, textures = np.random.default_rng(4), {}, []
    for number, name in enumerate(names):
        texels = rng.integers(90, 200, (8, 8, 4), np.uint8)
        texels[..., 3] = 255
        path = tmp_path / f"{name}.png"
        Image.fromarray(texels).save(path)
        files[f"{number}" * 64] = path
        textures.append(Texture(texels, REPEAT, REPEAT))
    matrix = (2.0, 0.3, 0.1, -0.2, 1.5, 0.4)
    by_number = {f"{name}_texture": TextureUse(texture=n, matrix=matrix) for n, name in enumerate(names)}
    by_file = {
        f"{name}_texture": TextureUse(file=FileRef(sha256=sha, name=f"{name}.png"), matrix=matrix)
        for name, sha in zip(names, files, strict=True)
    }
    found = []
    for maps in (by_number, by_file):
        scene, asset = scene_with([])
        material = Material(name="M", base_metalness=1.0, specular_roughness=1.0, **maps)
        engine = Engine(threads=2)
        engine.open(
            scene.model_copy(update={"materials": {"m": material}}),
            lambda reference: files[reference.sha256],
            replace(asset, textures=textures),
        )
        film = Film(SIDE, SIDE)
        engine.trace(film, 4)
        engine.close()
        found.append(film.means())
    assert found[1].radiance == pytest.approx(found[0].radiance, abs=1e-6)
    assert found[1].normal == pytest.approx(found[0].normal, abs=1e-6)
    assert np.ptp(found[0].albedo) > 0.1


def test_a_large_image_is_decoded_once(tmp_path, monkeypatch):
    """What was kept is what was decoded, with what was put right; what is damaged is decoded again."""
    monkeypatch.setenv("LANTERN_CACHE", str(tmp_path / "cache"))
    texels = np.random.default_rng(3).integers(0, 255, (1100, 1000, 4), np.uint8)
    path = tmp_path / "large.png"
    Image.fromarray(texels).save(path)
    first, _ = read_picture(path, "large.png", "a" * 64)
    path.unlink()
    again, repaired = read_picture(path, "large.png", "a" * 64)
    assert np.array_equal(again, texels) and np.array_equal(first, texels) and repaired == []
    (kept,) = (tmp_path / "cache" / "pictures").iterdir()
    (kept / "0.npy").write_bytes(b"damaged")
    with pytest.raises(PictureError, match="cannot be read"):
        read_picture(path, "large.png", "a" * 64)


def test_what_was_put_right_of_a_large_image_is_said_each_time(tmp_path, monkeypatch):
    monkeypatch.setenv("LANTERN_CACHE", str(tmp_path / "cache"))
    light = np.ones((700, 700, 3), np.float32)
    light[5, 7] = np.nan
    path = tmp_path / "light.exr"
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), oiio.ImageSpec(700, 700, 3, oiio.FLOAT)) and out.write_image(light)
    out.close()
    first, second = (read_picture(path, "light.exr", "b" * 64) for _ in range(2))
    assert first[1] == second[1] == ["light.exr: 1 texels are no numbers, and are taken as 0"]
    assert np.array_equal(first[0], second[0]) and np.isfinite(second[0]).all()
