"""Materials as files: what was written is read as it was, and looks the same; files of others; odd files."""

import io
import zipfile

import MaterialX as mx
import numpy as np
import pytest
from PIL import Image

from lantern.assets.materialx.reading import MaterialError, read_materials
from lantern.assets.materialx.words import library
from lantern.assets.materialx.writing import DOCUMENT, write_material
from lantern.assets.textures import REPEAT, Texture
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.scene.document import Material
from lantern.scene.inputs import MaterialInput, Placement, Ramp, Stop
from lantern.scene.layers import Layer
from lantern.scene.model import FileRef
from lantern.scene.sources import SOURCES, EdgesSource, ImageSource, NoiseSource, PictureSource
from lantern.scene.texture_use import TextureUse
from lantern.shelf.catalogue import catalogue
from tests.core.shapes import no_files
from tests.core.test_decals import FILE, halves, scene_with
from tests.core.test_inputs import SIDE

LIMIT = 64 << 20
RICH = Material(
    name="Rich & odd", base_color=(0.7, 0.2, 0.1), base_metalness=0.3, specular_roughness=0.2, coat_weight=0.5,
    coat_color=(0.9, 0.8, 0.7), fuzz_weight=0.2, thin_film_weight=0.4, thin_film_thickness=0.3, emission_luminance=2.0,
    emission_temperature=3000.0, bump=0.0002, tangent_rotation=30.0, transmission_weight=0.1,
    transmission_tint=(0.9, 0.5, 0.4), interior_priority=3, double_sided=True, geometry_thin_walled=True,
    subsurface_radius=0.02,
)  # fmt: skip


def written(tmp_path, material, over=None, textures=(), resolve=no_files):
    """A material after it was written and read again, those over it, and its files."""
    made = write_material(material, over or {}, textures, resolve)
    (tmp_path / "m.zip").write_bytes(made.data)
    folder = tmp_path / "unpacked"
    folder.mkdir(exist_ok=True)
    read = read_materials(tmp_path / "m.zip", "m.zip", LIMIT, folder)
    assert read.problems == []
    ((lowest, above),) = read.materials
    return lowest, above, folder


def test_every_constant_comes_back(tmp_path):
    again, over, _ = written(tmp_path, RICH)
    assert over == {} and again == RICH


@pytest.mark.parametrize("kind", [kind for kind in SOURCES if kind != "image"])
def test_every_source_comes_back_with_its_placement_and_its_ramp(kind, tmp_path):
    path = halves(tmp_path)
    source = SOURCES[kind]()
    if "file" in SOURCES[kind].model_fields:
        source = source.model_copy(update={"file": FILE})
    placement = Placement(kind="cylinder", size=0.0123, ratio=1.7, offset=(0.1, -0.2, 0.3), turn_y=20.0, space="scene")
    ramp = Ramp(stops=(Stop(at=0.1, color=(0.2, 0.3, 0.4)), Stop(at=0.7, color=(1, 2, 3))), blend="smooth")
    one = MaterialInput(source=source, placement=placement, combine="overlay", amount=0.7, low=-0.5, high=1.5)
    material = RICH.model_copy(
        update={"inputs": {"base_color": one.model_copy(update={"ramp": ramp}), "bump": one, "coat_weight": one}}
    )
    again, _, folder = written(tmp_path, material, resolve=lambda reference: path)
    if "file" in SOURCES[kind].model_fields:
        file = again.inputs["bump"].source.file
        assert (folder / file.sha256).read_bytes() == path.read_bytes()
        again = Material.model_validate_json(
            again.model_dump_json().replace(file.sha256, FILE.sha256).replace(file.name, FILE.name)
        )
    assert again == material


def test_layers_come_back_with_their_masks_and_are_a_mix_for_others(tmp_path):
    mask = MaterialInput(source=EdgesSource(width=0.003))
    breakup = MaterialInput(source=NoiseSource(), combine="lighter")
    layers = (
        Layer(material="a", mask=mask, breakup=breakup, coverage=0.8, thickness=0.0001),
        Layer(material="b", coverage=0.25, enabled=False),
    )
    over = {"a": RICH.model_copy(update={"name": "A"}), "b": Material(name="B", base_color=(0.1, 0.2, 0.3))}
    lowest = Material(name="Low", layers=layers)
    again, above, _ = written(tmp_path, lowest, over)
    assert [above[layer.material] for layer in again.layers] == [over["a"], over["b"]]
    for found, wanted in zip(again.layers, layers, strict=True):
        assert found.model_copy(update={"material": wanted.material}) == wanted
    text = zipfile.ZipFile(tmp_path / "m.zip").read(DOCUMENT).decode()
    assert text.count("<mix ") == 2 and text.count("<open_pbr_surface ") == 3


def test_what_is_written_is_valid_and_names_nothing_outside(tmp_path):
    rough = MaterialInput(source=NoiseSource())
    made = write_material(RICH.model_copy(update={"inputs": {"specular_roughness": rough}}), {}, [], no_files)
    document = mx.createDocument()
    mx.readFromXmlString(document, zipfile.ZipFile(io.BytesIO(made.data)).read(DOCUMENT).decode())
    document.setDataLibrary(library())
    assert document.validate()[0]
    assert document.getVersionString() == "1.39"
    assert made.lost == ["Rich & odd: Noise of specular_roughness; elsewhere its plain value is seen"]


def pictures_of(materials, asset_textures, files):
    """Radiance of a square that wears each."""
    found = []
    for material, over in materials:
        scene, asset = scene_with([])
        asset.textures.extend(asset_textures)
        engine = Engine(threads=2)
        scene = scene.model_copy(update={"materials": {"m": material} | over})
        assert engine.open(scene, lambda reference: files / reference.sha256, asset) == []
        film = Film(SIDE, SIDE)
        engine.trace(film, 8)
        engine.close()
        found.append(film.means())
    return found


def _textures():
    rng = np.random.default_rng(7)
    made = []
    for _ in range(6):
        texels = rng.integers(80, 220, (16, 16, 4), np.uint8)
        made.append(Texture(np.ascontiguousarray(texels), REPEAT, REPEAT))
    made[0].texels[:8, :8, 3] = 10
    return made


def khr(sx, sy, angle, ox, oy):
    """The affine map of KHR_texture_transform."""
    c, s = np.cos(angle), np.sin(angle)
    return tuple(float(v) for v in (c * sx, s * sy, ox, -s * sx, c * sy, oy))


@pytest.mark.parametrize("matrix", [(1, 0, 0, 0, 1, 0), khr(1.7, 0.6, 0.0, 0.2, -0.3), khr(1.5, 1.5, 0.7, 0.1, 0.4)])
@pytest.mark.parametrize("mode", ["opaque", "mask", "blend"])
def test_a_material_with_every_map_of_a_gltf_looks_the_same_when_it_comes_back(matrix, mode, tmp_path):
    names = ("base_color", "metallic_roughness", "normal", "emission", "transmission", "coat_normal")
    maps = {f"{name}_texture": TextureUse(texture=n, matrix=matrix) for n, name in enumerate(names)}
    material = Material(
        name="All", base_color=(0.9, 0.8, 0.7), base_metalness=0.6, specular_roughness=0.8, normal_scale=0.7,
        coat_weight=0.6, coat_roughness=0.2, coat_normal_scale=1.5, emission_color=(0.5, 0.4, 0.3),
        emission_luminance=0.6, transmission_weight=0.4, geometry_thin_walled=True, alpha_mode=mode, alpha_cutoff=0.4,
        geometry_opacity=0.9, **maps,
    )  # fmt: skip
    textures = _textures()
    again, _, folder = written(tmp_path, material, textures=textures)
    assert again.base_color_texture.file is not None and again.inputs == {}
    before, after = pictures_of([(material, {}), (again, {})], textures, folder)
    # A hole's edge may fall on either side of a sample.
    assert np.quantile(np.abs(after.radiance - before.radiance), 0.999) < 2e-3
    assert np.quantile(np.abs(after.alpha - before.alpha), 0.999) < 1e-5
    assert np.ptp(before.radiance) > 0.2


def test_images_in_inputs_and_masks_look_the_same_when_they_come_back(tmp_path):
    textures = _textures()
    flat = Placement(kind="plane", size=0.5)
    material = Material(
        name="Low", base_color=(0.2, 0.5, 0.8),
        inputs={
            "base_color": MaterialInput(source=ImageSource(texture=1), placement=flat, combine="screen"),
            "specular_roughness": MaterialInput(source=ImageSource(texture=2, channel="green", decoding="linear")),
        },
        base_color_texture=TextureUse(texture=0),
        layers=(Layer(material="o", mask=MaterialInput(source=ImageSource(texture=3, channel="red"), placement=flat)),),
    )  # fmt: skip
    over = {"o": Material(name="Over", base_metalness=1.0, specular_roughness=0.4)}
    again, above, folder = written(tmp_path, material, over, textures)
    before, after = pictures_of([(material, over), (again, above)], textures, folder)
    assert after.radiance == pytest.approx(before.radiance, abs=2e-3)
    assert after.albedo == pytest.approx(before.albedo, abs=1e-4)


@pytest.mark.parametrize("key", list(catalogue())[::9])
def test_swatches_of_the_shelf_come_back(key, tmp_path):
    swatch = catalogue()[key]
    again, above, _ = written(tmp_path, swatch.material, swatch.over)
    plain = [layer.material for layer in swatch.material.layers]
    renamed = [layer.model_copy(update={"material": name}) for layer, name in zip(again.layers, plain, strict=True)]
    assert again.model_copy(update={"layers": tuple(renamed)}) == swatch.material
    assert [above[layer.material] for layer in again.layers] == [swatch.over[name] for name in plain]


def foreign(tmp_path, body, images=()):
    """What is read of a file of somebody else's."""
    path = tmp_path / "f.zip"
    with zipfile.ZipFile(path, "w") as package:
        package.writestr("look/f.mtlx", f'<materialx version="1.39" colorspace="lin_rec709">{body}</materialx>')
        for name in images:
            stored = io.BytesIO()
            Image.fromarray(np.full((4, 4, 3), 128, np.uint8)).save(stored, "PNG")
            package.writestr(f"look/{name}", stored.getvalue())
    folder = tmp_path / "f"
    folder.mkdir(exist_ok=True)
    return read_materials(path, "f.zip", LIMIT, folder)


def worn(shader, kind):
    return (
        f'<{kind} name="s" type="surfaceshader">{shader}</{kind}><surfacematerial name="Oak_board" type="material">'
        '<input name="surfaceshader" type="surfaceshader" nodename="s"/></surfacematerial>'
    )


def test_the_surfaces_of_other_programs_are_read(tmp_path):
    gltf = worn(
        '<input name="base_color" type="color3" value="0.5, 0.25, 0.1"/><input name="metallic" type="float" value="0"/>'
        '<input name="roughness" type="float" value="0.4"/><input name="emissive" type="color3" value="0.2, 0.1, 0"/>'
        '<input name="emissive_strength" type="float" value="10"/>'
        '<input name="sheen_color" type="color3" value="0.5, 0.25, 0"/>',
        "gltf_pbr",
    )
    ((material, _),) = foreign(tmp_path, gltf).materials
    assert (material.name, material.base_color, material.base_metalness) == ("Oak board", (0.5, 0.25, 0.1), 0.0)
    assert material.emission_color == (1.0, 0.5, 0.0) and material.emission_luminance == pytest.approx(2.0)
    assert material.fuzz_weight == 0.5 and material.fuzz_color == (1.0, 0.5, 0.0)
    preview = worn(
        '<input name="diffuseColor" type="color3" value="0.1, 0.2, 0.3"/>'
        '<input name="clearcoat" type="float" value="0.7"/><input name="opacity" type="float" value="0.5"/>',
        "UsdPreviewSurface",
    )
    ((material, _),) = foreign(tmp_path, preview).materials
    assert material.base_color == (0.1, 0.2, 0.3) and material.coat_weight == 0.7 and material.geometry_opacity == 0.5
    standard = worn(
        '<input name="base" type="float" value="0.9"/><input name="specular_IOR" type="float" value="1.4"/>'
        '<input name="thin_film_thickness" type="float" value="400"/>',
        "standard_surface",
    )
    ((material, _),) = foreign(tmp_path, standard).materials
    assert (material.base_weight, material.specular_ior, material.thin_film_thickness) == (0.9, 1.4, 0.4)


def test_nodes_are_reckoned_out_and_images_are_laid_as_they_say(tmp_path):
    body = (
        '<nodegraph name="g"><input name="tint" type="color3" value="0.5, 0.5, 1"/>'
        '<texcoord name="t" type="vector2"/><place2d name="p" type="vector2">'
        '<input name="texcoord" type="vector2" nodename="t"/><input name="scale" type="vector2" value="0.5, 0.25"/>'
        '</place2d><image name="i" type="color3"><input name="file" type="filename" value="a.png" '
        'colorspace="srgb_texture"/><input name="texcoord" type="vector2" nodename="p"/></image>'
        '<multiply name="m" type="color3"><input name="in1" type="color3" nodename="i"/>'
        '<input name="in2" type="color3" interfacename="tint"/></multiply>'
        '<mix name="r" type="float"><input name="bg" type="float" value="0.2"/>'
        '<input name="fg" type="float" value="0.6"/>'
        '<input name="mix" type="float" value="0.5"/></mix>'
        '<output name="c" type="color3" nodename="m"/><output name="rough" type="float" nodename="r"/></nodegraph>'
    ) + worn(
        '<input name="base_color" type="color3" nodegraph="g" output="c"/>'
        '<input name="specular_roughness" type="float" nodegraph="g" output="rough"/>'
        '<input name="coat_weight" type="float" nodename="nowhere"/>',
        "open_pbr_surface",
    )
    read = foreign(tmp_path, body, ["a.png"])
    ((material, _),) = read.materials
    assert material.specular_roughness == pytest.approx(0.4) and material.base_color == (0.5, 0.5, 1.0)
    use = material.base_color_texture
    assert use.file.sha256 in read.files and use.matrix == pytest.approx((2, 0, 0, 0, 4, -3))
    missing = foreign(tmp_path, body)
    assert missing.problems == ["image a.png: it is not in the zip"] and missing.files == {}
    assert missing.materials[0][0].base_color_texture is None


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"hello", "no MaterialX"),
        (b'<materialx version="1.39"/>', "holds no material"),
        (b"<materialx version='1.39'><surfacematerial name='m' type='material'/></materialx>", "has no surface"),
        (b"PK\x05\x06" + bytes(18), "holds 0 .mtlx files"),
    ],
)
def test_what_is_no_file_of_materials_is_said(data, said, tmp_path):
    path = tmp_path / "a.mtlx"
    path.write_bytes(data)
    with pytest.raises(MaterialError, match=said) as error:
        read_materials(path, "a.mtlx", LIMIT, tmp_path)
    assert str(error.value).startswith("a.mtlx: ")


def test_nodes_without_end_and_nodes_that_are_not_known_are_said(tmp_path):
    ring = (
        '<add name="a" type="float"><input name="in1" type="float" nodename="b"/><input name="in2" type="float" '
        'value="1"/></add><add name="b" type="float"><input name="in1" type="float" nodename="a"/></add>'
        '<crosshatch name="w" type="float"/>'
    ) + worn(
        '<input name="coat_weight" type="float" nodename="a"/><input name="fuzz_weight" type="float" nodename="w"/>',
        "open_pbr_surface",
    )
    read = foreign(tmp_path, ring)
    assert any("without end" in problem for problem in read.problems)
    assert any("'crosshatch' is not known" in problem for problem in read.problems)
    assert read.materials[0][0].coat_weight == 0.0


def test_a_file_that_is_large_when_it_is_unpacked_is_refused(tmp_path):
    path = tmp_path / "bomb.zip"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as package:
        package.writestr("a.mtlx", b" " * (3 << 20))
    with pytest.raises(MaterialError, match="too large"):
        read_materials(path, "bomb.zip", 1 << 20, tmp_path)


def test_nothing_beside_the_file_is_read(tmp_path):
    (tmp_path / "secret.png").write_bytes(halves(tmp_path).read_bytes())
    for name in ("../secret.png", str(tmp_path / "secret.png")):
        body = f'<image name="i" type="color3"><input name="file" type="filename" value="{name}"/></image>' + worn(
            '<input name="base_color" type="color3" nodename="i"/>', "open_pbr_surface"
        )
        read = foreign(tmp_path, body)
        assert read.files == {} and "it is not in the zip" in read.problems[0]
    include = '<xi:include xmlns:xi="http://www.w3.org/2001/XInclude" href="/etc/hostname"/>' + worn(
        "", "open_pbr_surface"
    )
    assert len(foreign(tmp_path, include).materials) == 1


def test_a_file_of_ones_own_that_is_lost_is_said(tmp_path):
    one = MaterialInput(source=PictureSource(file=FileRef(sha256="2" * 64, name="lost.png")))
    made = write_material(
        Material(name="M", inputs={"base_color": one}), {}, [], lambda reference: tmp_path / "nowhere"
    )
    assert made.lost == ["lost.png: it is not there"]
