"""Sample points: what makes them better than random numbers, checked one by one."""

import numpy as np
import pytest

from lantern.kernel.points import MASK_SIDE, SET, blue_noise_mask, sample_points


@pytest.mark.parametrize("dimension", range(2 * SET))
@pytest.mark.parametrize("count", [16, 64, 256])
def test_each_dimension_is_stratified(dimension, count):
    """A scrambled (0, m, 1)-net has exactly one of its first 2^m points in each of 2^m equal steps."""
    column = sample_points(0, count, 7)[:, dimension]
    assert sorted((column * count).astype(int)) == list(range(count))


@pytest.mark.parametrize("first", [0, SET, 2 * SET])
def test_pairs_of_a_set_are_stratified_in_both_directions(first):
    """The first two dimensions of a set are a (0, 2)-sequence: one point in each of 4 x 4, 2 x 8 and 8 x 2 boxes."""
    x, y = sample_points(0, 16, 3)[:, first : first + 2].T
    for across, down in ((4, 4), (2, 8), (8, 2), (16, 1), (1, 16)):
        boxes = (x * across).astype(int) * down + (y * down).astype(int)
        assert len(set(boxes)) == 16


def test_points_depend_on_their_number_alone():
    whole = sample_points(0, 64, 5)
    assert (sample_points(24, 40, 5) == whole[24:]).all()
    assert (sample_points(0, 64, 6) != whole).mean() > 0.99


def test_sets_are_not_in_step():
    """Padding by shuffling: dimensions of different sets are as good as independent."""
    points = sample_points(0, 1024, 1)
    correlation = np.corrcoef(points[:, :32].T) - np.eye(32)
    assert np.abs(correlation).max() < 0.15


def test_the_mask_is_blue():
    """Every value once, and little energy at low frequencies: neighbours differ."""
    mask = blue_noise_mask().reshape(MASK_SIDE, MASK_SIDE)
    assert len(np.unique(mask)) == MASK_SIDE**2
    power = np.abs(np.fft.fft2(mask - mask.mean())) ** 2
    frequency = np.hypot(*np.meshgrid(*(np.fft.fftfreq(MASK_SIDE) * MASK_SIDE,) * 2))
    low = power[(frequency > 0) & (frequency < MASK_SIDE / 8)].mean()
    assert low < 0.02 * power[frequency > MASK_SIDE / 4].mean()
