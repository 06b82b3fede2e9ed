"""Differences of colours and pictures against published values and what must hold of any."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.picture.delta_e import delta_e_2000
from lantern.picture.differing import TOPS, difference_of

# Sharma, Wu and Dalal (2005), table 1: pairs that go wrong where an angle is taken the wrong way round.
PAIRS = [
    ((50.0, 2.6772, -79.7751), (50.0, 0.0, -82.7485), 2.0425),
    ((50.0, -1.3802, -84.2814), (50.0, 0.0, -82.7485), 1.0000),
    ((50.0, -1.0, 2.0), (50.0, 0.0, 0.0), 2.3669),
    ((50.0, 2.4900, -0.0010), (50.0, -2.4900, 0.0009), 7.1792),
    ((50.0, 2.4900, -0.0010), (50.0, -2.4900, 0.0011), 7.2195),
    ((50.0, 2.5, 0.0), (50.0, 0.0, -2.5), 4.3065),
    ((50.0, 2.5, 0.0), (73.0, 25.0, -18.0), 27.1492),
    ((50.0, 2.5, 0.0), (56.0, -27.0, -3.0), 31.9030),
    ((60.2574, -34.0099, 36.2677), (60.4626, -34.1751, 39.4387), 1.2644),
    ((22.7233, 20.0904, -46.6940), (23.0331, 14.9730, -42.5619), 2.0373),
    ((6.7747, -0.2908, -2.4247), (5.8714, -0.0985, -2.2286), 0.6377),
    ((2.0776, 0.0795, -1.1350), (0.9033, -0.0636, -0.5514), 0.9082),
]
LAB = st.tuples(st.floats(0, 100), st.floats(-120, 120), st.floats(-120, 120))


@pytest.mark.parametrize(("first", "second", "wanted"), PAIRS)
def test_colour_differences_are_those_that_are_published(first, second, wanted):
    assert float(delta_e_2000(np.array(first), np.array(second))) == pytest.approx(wanted, abs=6e-5)


@given(LAB, LAB)
def test_colour_differences_are_the_same_both_ways_and_none_of_a_colour_from_itself(first, second):
    there = delta_e_2000(np.array([first, first]), np.array([second, first]))
    back = delta_e_2000(np.array(second), np.array(first))
    assert there[0] == pytest.approx(float(back), abs=1e-9) and there[1] == 0 and np.isfinite(there).all()


def noise(seed):
    return np.random.default_rng(seed).integers(0, 256, (40, 60, 3)).astype(np.uint8)


@pytest.mark.parametrize("kind", TOPS)
def test_a_picture_does_not_differ_from_itself_and_pairs_differ_both_ways_alike(kind):
    assert difference_of(noise(1), noise(1), kind).worst == 0
    there, back = difference_of(noise(1), noise(2), kind), difference_of(noise(2), noise(1), kind)
    np.testing.assert_allclose(there.values, back.values, atol=1e-9)
    assert 0 < there.mean <= there.worst


def test_white_and_black_differ_as_the_definition_says():
    white, black = np.full((50, 50, 3), 255, np.uint8), np.zeros((50, 50, 3), np.uint8)
    assert difference_of(white, black, "absolute").mean == 255
    assert difference_of(white, black, "colour").mean == pytest.approx(100, abs=1e-6)
    # 100 ^ 0.7 over the largest distance of the gamut, beyond its knee: by hand from sections 4.1.2 and 4.1.3.
    most = 41.2760
    wanted = 0.95 + (100**0.7 - 0.4 * most) / (0.6 * most) * 0.05
    assert difference_of(white, black, "perceptual").mean == pytest.approx(wanted, abs=2e-3)


def test_what_is_finer_than_the_eye_is_perceived_less_than_what_is_coarse():
    rows, columns = np.mgrid[:64, :64]
    grey = np.full((64, 64, 3), 128, np.uint8)

    def seen(side):
        board = np.where((rows // side + columns // side) % 2 == 0, 118, 138).astype(np.uint8)
        return difference_of(grey, np.repeat(board[..., None], 3, axis=2), "perceptual").mean

    assert seen(1) < 0.5 * seen(16)


def test_pictures_of_two_sizes_are_refused():
    with pytest.raises(ValueError, match="60 x 40 and 30 x 40"):
        difference_of(noise(1), noise(1)[:, :30], "absolute")
