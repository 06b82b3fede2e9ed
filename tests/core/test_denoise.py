"""The denoiser in bands: large pictures are denoised as they would be whole, in little memory."""

import numpy as np
import pytest

from lantern.engine.engine import Engine
from lantern.engine.own_images import no_files
from lantern.film.film import Film
from lantern.picture import denoise
from tests.core.test_planning import scene


@pytest.fixture(scope="module")
def means():
    engine = Engine(2)
    engine.open(scene(), no_files)
    film = Film(200, 700)
    engine.trace(film, 2)
    yield film.means()
    engine.close()


@pytest.fixture
def in_bands(monkeypatch):
    monkeypatch.setattr(denoise, "MOST_AT_ONCE", 1000)
    monkeypatch.setattr(denoise, "BAND_PIXELS", 200 * 160)


def test_a_picture_in_bands_is_equal_to_the_whole(means, monkeypatch):
    guides = denoise.whole_guides(means.albedo, means.normal)
    whole = denoise.denoise_radiance(means.radiance, guides, "high")
    coverage = denoise.denoise_alpha(means.alpha, "high")
    monkeypatch.setattr(denoise, "MOST_AT_ONCE", 1000)
    monkeypatch.setattr(denoise, "BAND_PIXELS", 200 * 160)
    assert len(list(denoise._bands(700, 200))) == 5
    assert (denoise.denoise_radiance(means.radiance, guides, "high") == whole).all()
    assert np.abs(denoise.denoise_alpha(means.alpha, "high") - coverage).max() < 1e-3


def test_bands_cover_each_row_once_and_begin_at_even_blocks(in_bands):
    for height in (5, 31, 32, 33, 700, 1001):
        bands = list(denoise._bands(height, 200))
        assert [row for (first, last), _ in bands for row in range(first, last)] == list(range(height))
        assert all(above % 32 == 0 and above <= first and below >= last for (first, last), (above, below) in bands)


def test_a_picture_in_bands_gives_way_on_the_way(means, in_bands):
    asked = []

    def give_way():
        asked.append(1)
        return len(asked) > 8

    assert (
        denoise.denoise_radiance(means.radiance, denoise.whole_guides(means.albedo, means.normal), "high", give_way)
        is None
    )


def test_what_is_black_has_an_exposure():
    assert denoise._brightness(np.zeros((40, 40, 3), np.float32)) == 1.0
    assert denoise._brightness(np.full((40, 40, 3), 0.36, np.float32)) == pytest.approx(0.5)
