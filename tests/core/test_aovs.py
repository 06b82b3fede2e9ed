"""The layered EXR: names, identity mattes by their specification, what the layers hold."""

import json
import struct

import numpy as np
import OpenImageIO as oiio
import pytest

from lantern.engine.channels import channels_of
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.picture.cryptomatte import identity, matte, murmur3
from lantern.picture.exr import write_exr
from lantern.scene.document import Material
from lantern.scene.lights import SphereLight
from lantern.scene.printing import LAYERS, PrintSettings
from tests.core.shapes import no_files, one_part


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
    write_exr(tmp_path / "a.exr", channels_of(engine, film, engine.develop(film, denoise=None), everything))
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
