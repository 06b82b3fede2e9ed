"""The film: its means against their definition, its counts, and passes over a region of it."""

import numpy as np
import pytest

from lantern.film.film import FAR_DEPTH, Film
from tests.core.shapes import sphere_mesh
from tests.core.test_looking import HEIGHT, WIDTH, opened, wall


def counted(film):
    """Least samples of an open pixel of the region, or the most of any when all have settled, by looking at each."""
    x, y, width, height = film.region
    rows = film.rows.reshape(film.height, film.width)[y : y + height, x : x + width]
    still = rows["samples"][rows["settled"] == 0]
    return still.min() if still.size else rows["samples"].max()


def test_means_are_sums_over_samples():
    film = Film(5, 3)
    generator = np.random.default_rng(3)
    for name in ("radiance", "albedo", "normal", "alpha", "depth"):
        film.rows[name] = generator.uniform(-1, 3, film.rows[name].shape)
    film.rows["samples"] = generator.integers(1, 9, 15)
    film.rows["depth_hits"] = generator.integers(0, 2, 15)
    film.rows["normal"][7] = 0
    film.rows[4] = np.zeros((), film.rows.dtype)
    layers = film.means()
    rows, count = film.rows.reshape(3, 5), np.maximum(film.rows["samples"], 1).reshape(3, 5)
    assert layers.radiance == pytest.approx(rows["radiance"] / count[..., None], rel=1e-6)
    assert (film.radiance() == layers.radiance).all()
    assert layers.albedo == pytest.approx(rows["albedo"] / count[..., None], rel=1e-6)
    assert layers.alpha == pytest.approx(np.clip(rows["alpha"] / count, 0, 1), rel=1e-6)
    lengths = np.linalg.norm(layers.normal, axis=2)
    assert lengths.ravel()[[4, 7]].tolist() == [0, 0] and np.delete(lengths, [4, 7]) == pytest.approx(1, rel=1e-5)
    assert (np.sum(layers.normal * rows["normal"], 2) >= 0).all()
    hit = rows["depth_hits"] > 0
    assert layers.depth[hit] == pytest.approx(rows["depth"][hit] / rows["depth_hits"][hit], rel=1e-6)
    assert (layers.depth[~hit] == np.float32(FAR_DEPTH)).all()


def test_the_counts_that_a_film_keeps_are_those_of_its_pixels():
    engine = opened(wall(8.0))
    film = Film(WIDTH, HEIGHT)
    for region, samples in ((None, 2), ((3, 4, 20, 9), 5), (None, 4), ((0, 0, 8, 8), 3)):
        film.select(region)
        assert film.samples == counted(film)
        engine.trace(film, samples)
        assert film.samples == counted(film) and film.is_done(samples)
        assert not film.is_done(film.samples + 1)
    film.select(None)
    engine.cancel()
    assert not engine.trace(film, 9) and film.samples == counted(film) == 4
    engine.ready()
    engine.trace(film, 64, noise=0.5)
    assert film.samples == counted(film), "after blocks have settled"
    film.leave_out(np.ones((HEIGHT, WIDTH), bool))
    assert film.is_done(10**6) and film.samples == film.rows["samples"].max() and film.next_sample == 0
    film.clear()
    assert film.samples == counted(film) == 0
    engine.close()


def test_a_film_goes_on_from_what_was_kept_and_refuses_another_kind():
    film, other = Film(6, 4), Film(6, 4)
    film.rows["samples"] = 7
    assert other.restore(film.arrays()) and other.samples == 7
    for unlike in (Film(4, 6, aovs=True), Film(5, 4)):
        assert not unlike.restore(film.arrays()) and unlike.samples == 0


def test_a_region_is_traced_alone_and_equals_the_same_pixels_of_the_whole():
    engine = opened(sphere_mesh(1.0))
    whole, part = Film(WIDTH, HEIGHT), Film(WIDTH, HEIGHT)
    engine.trace(whole, 8)
    part.select((10, 5, 23, 17))
    engine.trace(part, 8)
    inside = np.s_[5:22, 10:33]
    assert (part.radiance()[inside] == whole.radiance()[inside]).all()
    counts = part.rows["samples"].reshape(HEIGHT, WIDTH)
    assert (counts[inside] == 8).all() and counts.sum() == 8 * 23 * 17
    assert part.samples == 8 and part.is_done(8)
    # Released, the rest catches up and nothing is lost.
    part.select(None)
    assert part.samples == 0
    engine.trace(part, 8)
    assert (part.rows == whole.rows).all()
    with pytest.raises(ValueError, match="does not lie within"):
        part.select((60, 0, 10, 10))
    engine.close()


def test_the_loupe_traces_as_many_times_fewer_rays_as_its_area_is_smaller():
    """So it refines as many times faster: the same samples cost rays in proportion to the area."""
    engine = opened(wall(8.0))

    def rays(region):
        film = Film(WIDTH, HEIGHT)
        film.select(region)
        before = engine.ray_counts().rays
        engine.trace(film, 16)
        return engine.ray_counts().rays - before

    whole, quarter, small = rays(None), rays((16, 10, 32, 20)), rays((24, 15, 8, 5))
    assert whole / quarter == pytest.approx(4, rel=0.05)
    assert whole / small == pytest.approx(64, rel=0.1)
    engine.close()


def test_samples_left_are_what_the_noise_says():
    film = Film(64, 64)
    film.rows["samples"] = 16
    generator = np.random.default_rng(5)
    drawn = generator.normal(1.0, 0.4, (16, 64 * 64)).clip(0)
    film.rows["radiance"] = drawn.sum(0)[:, None]
    film.rows["squared_luminance"] = (drawn**2).sum(0)
    assert film.samples_left(256, 0.0) == 64 * 64 * 240
    assert film.noise() == pytest.approx(0.1, rel=0.05)
    assert film.samples_left(256, 0.2) == 0, "the target is reached already"
    # Half the noise needs four times the samples, looked at when they have doubled twice.
    assert film.samples_left(1024, 0.051) == pytest.approx(64 * 64 * 48, rel=0.1)
    assert film.samples_left(32, 0.001) == 64 * 64 * 16, "but never more than the limit"
    assert film.samples_left(256, 0.0, 500) == pytest.approx(64 * 64 * 240, rel=0.01)
    assert film.noise(500) == pytest.approx(film.noise(), rel=0.2)
