"""The map as a file lights as the document does: turned, tinted, with cards, with the sun."""

from pathlib import Path

import numpy as np
import OpenImageIO as oiio
import pytest

from lantern.assets.hashing import sha256_of
from lantern.compile.environment_tables import EnvironmentTables
from lantern.engine.engine import Engine
from lantern.engine.light_images import read_map
from lantern.engine.map_layouts import directions
from lantern.engine.unrolled import looked_up, map_picture, unrolled, write_environment
from lantern.film.film import Film
from lantern.light.environment import open_ground_irradiance
from lantern.picture.files import ImageError, write_image, write_radiance_hdr
from lantern.picture.thumbnails import HEIGHT, WIDTH
from lantern.scene.document import Camera, Material, Scene
from lantern.scene.model import FileRef
from lantern.scene.surroundings import Card, Environment, Graded, Ground, Sky
from tests.core.shapes import no_files, one_part, sphere_mesh

GREY = Material(name="m", base_color=(0.5, 0.5, 0.5))
CAMERA = Camera(position=(0, 0.4, 4), target=(0, 0, 0), focal_length=60)
CARDS = {
    "card-1": Card(name="Key", azimuth=40, elevation=35, width=40, height=30, luminance=30.0, edge=0.3),
    "card-2": Card(name="Flag", shape="round", azimuth=-70, elevation=0, width=60, height=60, blend="darken"),
}


def lit(environment: Environment, path: Path | None, sky: Sky | None = None) -> np.ndarray:
    """A grey ball, and what is behind it."""
    if path is not None:
        environment = environment.model_copy(update={"map": FileRef(sha256=sha256_of(path), name=path.name)})
    scene, asset = one_part(GREY, sphere_mesh(1.0, 32))
    around = {"environment": environment, "ground": Ground(enabled=False), "camera": CAMERA, "sky": sky or Sky()}
    scene = scene.model_copy(update=around)
    scene = scene.model_copy(update={"backdrop": scene.backdrop.model_copy(update={"kind": "environment"})})
    engine = Engine(2)
    engine.open(scene, lambda reference: path, asset)
    film = Film(32, 32)
    engine.trace(film, 256)
    found = film.radiance()
    engine.close()
    return found


def test_the_file_lights_as_the_document_does(tmp_path):
    generator = np.random.default_rng(3)
    pixels = generator.uniform(0.2, 1.0, (64, 128, 3)).astype(np.float32)
    pixels[20:26, 30:40] = (20, 16, 10)
    environment = Environment(
        rotation=50.0, tilt=20.0, mirrored=True, intensity=1.7, tint=(1.0, 0.8, 0.6), blur=3.0, cards=CARDS
    )
    source = tmp_path / "source.hdr"
    write_radiance_hdr(source, pixels)
    scene = Scene(environment=environment.model_copy(update={"map": FileRef(sha256="1" * 64, name="source.hdr")}))
    assert write_environment(scene, lambda reference: source, tmp_path / "kept.exr") == []
    kept, problems = read_map(tmp_path / "kept.exr", "kept.exr")
    assert problems == [] and kept.shape[1] == 2 * kept.shape[0]
    wanted, found = lit(environment, source), lit(Environment(), tmp_path / "kept.exr")
    assert found.mean((0, 1)) == pytest.approx(wanted.mean((0, 1)), rel=0.02)
    ball = np.s_[12:20, 12:20]
    assert found[ball].mean((0, 1)) == pytest.approx(wanted[ball].mean((0, 1)), rel=0.03)
    assert np.corrcoef(found.ravel(), wanted.ravel())[0, 1] > 0.99


@pytest.mark.parametrize("elevation", [75.0, 20.0])
def test_the_sun_of_a_sky_is_in_the_file_with_all_its_light(elevation, tmp_path):
    sky = Sky(enabled=True, azimuth=130.0, elevation=elevation)
    for shown in (sky, sky.model_copy(update={"sun": False})):
        scene = Scene(sky=shown, environment=Environment(intensity=0.01))
        write_environment(scene, no_files, tmp_path / "sky.exr")
        wanted = lit(scene.environment, None, shown)
        again = lit(Environment(), tmp_path / "sky.exr")
        assert again[12:20, 12:20].mean((0, 1)) == pytest.approx(wanted[12:20, 12:20].mean((0, 1)), rel=0.03)


def test_graded_light_is_unrolled_as_it_is():
    graded = Graded(zenith=(1, 0, 0), horizon=(0, 1, 0), ground=(0, 0, 1))
    scene = Scene(environment=Environment(graded=graded))
    found = unrolled(scene, EnvironmentTables(scene, None))
    assert found[0, 0] == pytest.approx((1, 0, 0), abs=0.01) and found[-1, 0] == pytest.approx((0, 0, 1), abs=0.01)
    white = Scene()
    assert open_ground_irradiance(unrolled(white, EnvironmentTables(white, None)), np.eye(3)) == pytest.approx(
        np.pi, rel=0.01
    )


def test_a_map_is_looked_up_as_kernels_do():
    pixels = np.random.default_rng(5).uniform(0, 1, (8, 16, 3)).astype(np.float32)
    assert looked_up(pixels, directions(8, 16)) == pytest.approx(pixels, abs=1e-5)
    between = (pixels[3, 15] + pixels[3, 0]) / 2
    behind = np.array([0.0, np.cos(3.5 / 8 * np.pi), np.sin(3.5 / 8 * np.pi)])
    assert looked_up(pixels, behind) == pytest.approx(between, abs=1e-5), "over the seam"


def test_a_file_without_its_map_is_refused_and_a_picture_is_small(tmp_path):
    gone = FileRef(sha256="2" * 64, name="gone.hdr")

    def nowhere(reference):
        raise FileNotFoundError(f"The file {reference.name} is not stored here: upload it again.")

    with pytest.raises(ImageError, match=r"gone\.hdr"):
        write_environment(Scene(environment=Environment(map=gone)), nowhere, tmp_path / "gone.exr")
    assert not (tmp_path / "gone.exr").exists()
    scene = Scene(environment=Environment(cards=CARDS))
    picture = map_picture(scene, EnvironmentTables(scene, None))
    assert picture.shape == (HEIGHT, WIDTH, 3) and picture.dtype == np.uint8
    assert picture[HEIGHT // 2, int((0.5 - 70 / 360) * WIDTH)].max() < 5, "the flag is dark where it lies"


def test_a_file_that_says_how_bright_its_white_is_comes_in_cd_per_square_metre(tmp_path):
    spec = oiio.ImageSpec(8, 4, 3, oiio.FLOAT)
    spec.attribute("whiteLuminance", 250.0)
    write_image(tmp_path / "measured.exr", spec, np.full((4, 8, 3), 2.0, np.float32))
    assert read_map(tmp_path / "measured.exr", "measured.exr")[0] == pytest.approx(500.0)
