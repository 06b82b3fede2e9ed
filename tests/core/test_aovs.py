"""The layered EXR: names, identity mattes by their specification, what the layers hold."""

import json
import struct
from functools import partial

import numpy as np
import OpenImageIO as oiio
import pytest

from lantern.assets.imported import ImportedAsset
from lantern.engine.channels import channels_of
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.picture.cryptomatte import identity, matte, murmur3
from lantern.picture.exr import write_exr
from lantern.scene.document import Camera, Material, Part, Scene
from lantern.scene.lights import SphereLight
from lantern.scene.printing import LAYERS, PrintSettings
from lantern.scene.surroundings import Ground
from tests.core.shapes import box_mesh, no_files, one_part


@pytest.mark.parametrize(
    ("text", "expected"),
    # Published test vectors of MurmurHash3_x86_32 with seed 0.
    [
        (b"", 0),
        (b"test", 0xBA6BD213),
        (b"Hello, world!", 0xC0363E43),
        (b"The quick brown fox jumps over the lazy dog", 0x2E4FF723),
    ],
)
def test_murmur3_gives_the_published_values(text, expected):
    assert murmur3(text) == expected


def test_identities_are_floats_that_survive():
    """No name may become a denormal, infinite or not a number."""
    for i in range(3000):
        (value,) = struct.unpack("<f", struct.pack("<I", identity(f"name {i}")))
        assert np.isfinite(value) and (value == 0 or abs(value) >= 2.0**-126)


def test_matte_pairs_ranks_and_names_them():
    numbers = np.array([[[1, 0, -1]]])
    coverage = np.array([[[0.75, 0.25, 0.0]]], np.float32)
    found = matte("CryptoObject", ["base", "lid"], numbers, coverage)
    assert list(found.channels) == [f"CryptoObject{n:02d}.{c}" for n in (0, 1) for c in "RGBA"]
    assert found.channels["CryptoObject00.R"].view(np.uint32)[0, 0] == identity("lid")
    assert found.channels["CryptoObject00.B"].view(np.uint32)[0, 0] == identity("base")
    assert found.channels["CryptoObject00.G"][0, 0] == 0.75 and found.channels["CryptoObject01.R"][0, 0] == 0
    (prefix,) = {key.rsplit("/", 1)[0] for key in found.attributes}
    assert json.loads(found.attributes[f"{prefix}/manifest"]) == {n: f"{identity(n):08x}" for n in ("base", "lid")}


def test_every_layer_reaches_the_file(tmp_path):
    light = SphereLight(name="key", radius=0.05, position=(0.4, 0.5, 0.5), unit="cd", amount=5, group="key")
    scene, asset = one_part(Material(name="m", base_color=(0.6, 0.3, 0.1)), ground=True)
    engine = Engine(2)
    engine.open(scene.model_copy(update={"lights": {"key": light}}), no_files, asset)
    film = Film(48, 48, aovs=True)
    engine.trace(film, 32)
    everything = PrintSettings(**dict.fromkeys(LAYERS, True))
    picture = engine.develop(film, denoise=None)
    write_exr(tmp_path / "a.exr", partial(channels_of, engine, film, picture, everything), (48, 48))
    layers = film.aovs()
    engine.close()
    image = oiio.ImageBuf(str(tmp_path / "a.exr"))
    names, pixels = list(image.spec().channelnames), image.get_pixels(oiio.FLOAT)
    for wanted in ("R", "A", "Z", "direct.R", "indirect.G", "diffuse.B", "specular.R", "transmission.R", "emission.R",
                   "background.R", "group_environment.R", "group_emissive.R", "group_key.R", "position.X", "shadow.V",
                   "variance.V", "samples.V", "CryptoObject00.R", "CryptoMaterial00.G"):  # fmt: skip
        assert wanted in names, wanted
    assert np.isfinite(pixels[..., [names.index("R"), names.index("position.X"), names.index("variance.V")]]).all()
    identities = pixels[..., names.index("CryptoObject00.R")].copy().view(np.uint32)
    assert identities[24, 24] == identity("part")
    assert pixels[24, 24, names.index("CryptoObject00.G")] == pytest.approx(1)
    assert pixels[24, 24, names.index("samples.V")] == 32
    # The middle of the ball stands at z = 0.1, and is lit by the light of its group.
    assert pixels[24, 24, names.index("position.Z")] == pytest.approx(0.1, abs=0.003)
    assert pixels[24, 24, names.index("group_key.R")] > 0.05
    assert layers.shadow.max() > 0.3


def test_a_film_without_layers_says_so():
    with pytest.raises(ValueError, match="aovs=True"):
        Film(4, 4).aovs()


def beyond(material):
    """(albedo, normal, depth) that guide the denoiser at a pane before a red wall; a blue one is behind the camera."""
    pane = box_mesh((-0.5, -0.5, -0.005), (0.5, 0.5, 0.005))
    wall = box_mesh((-4, -4, -1.01), (4, 4, -1.0))
    behind = box_mesh((-4, -4, 2.0), (4, 4, 2.01))
    asset = ImportedAsset("test", "none", [pane, wall, behind])
    scene = Scene(
        parts={
            "pane": Part(name="Pane", mesh=0, material="pane"),
            "wall": Part(name="Wall", mesh=1, material="red"),
            "behind": Part(name="Behind", mesh=2, material="blue"),
        },
        materials={
            "pane": material,
            "red": Material(name="Red", base_color=(0.8, 0.1, 0.1)),
            "blue": Material(name="Blue", base_color=(0.1, 0.1, 0.8)),
        },
        camera=Camera(position=(0, 0, 1.0), target=(0, 0, 0), focal_length=100),
        ground=Ground(enabled=False),
    )
    engine = Engine(1)
    engine.open(scene, no_files, asset)
    film = Film(16, 16)
    engine.trace(film, 64)
    means = film.means()
    engine.close()
    normal = means.normal[8, 8] / np.linalg.norm(means.normal[8, 8])
    return means.albedo[8, 8], normal, means.depth[8, 8]


def test_what_is_seen_through_clear_glass_guides_the_denoiser():
    albedo, normal, depth = beyond(Material(name="Glass", transmission_weight=1.0, specular_roughness=0.0))
    # Eight hundredths of the light are mirrored by its two faces (Fresnel, index 1.5).
    assert albedo == pytest.approx([0.92 * 0.8 + 0.08 * 0.1, 0.1, 0.92 * 0.1 + 0.08 * 0.8], abs=0.03)
    assert normal[2] > 0.99 and depth == pytest.approx(0.995, abs=1e-3), "and the depth is that of the glass"


def test_a_mirror_guides_by_what_is_seen_in_it_in_its_colour():
    gold = Material(name="Gold", base_color=(1.0, 0.8, 0.3), base_metalness=1.0, specular_roughness=0.0)
    albedo, normal, _ = beyond(gold)
    assert albedo == pytest.approx([0.1, 0.08, 0.24], abs=0.01) and normal[2] < -0.99


def test_frosted_glass_and_brushed_metal_guide_by_themselves():
    albedo, normal, _ = beyond(Material(name="Frosted", transmission_weight=1.0, specular_roughness=0.4))
    assert albedo == pytest.approx([1, 1, 1]) and normal[2] > 0.99
    albedo, normal, _ = beyond(
        Material(name="Brushed", base_color=(1.0, 0.8, 0.3), base_metalness=1.0, specular_roughness=0.4)
    )
    assert albedo == pytest.approx([1, 0.8, 0.3]) and normal[2] > 0.99
