"""Small pictures of textures."""

import numpy as np
import pytest

from lantern.light.light_row import blackbody, blackbody_table
from lantern.picture.thumbnail import SIDE, thumbnail


@pytest.mark.parametrize("shape", [(8, 8, 3), (1, 4000, 4), (3000, 700, 1), (64, 64, 2)])
@pytest.mark.parametrize("dtype", [np.uint8, np.uint16, np.float16, np.float32])
def test_any_texture_has_a_small_picture(shape, dtype):
    most = np.iinfo(dtype).max if dtype in (np.uint8, np.uint16) else 1
    small = thumbnail(np.full(shape, most // 2 if most > 1 else 0.5, dtype), None)
    assert small.dtype == np.uint8 and small.shape[2] == 3
    assert min(small.shape[:2]) >= 1 and max(small.shape[:2]) <= SIDE
    assert np.abs(small.astype(int) - 127).max() <= 1


def test_a_channel_is_shown_as_grey():
    texels = np.zeros((4, 4, 3), np.uint8)
    texels[..., 1] = 200
    assert (thumbnail(texels, 1) == 200).all() and (thumbnail(texels, 2) == 0).all()


def test_what_is_no_number_is_black():
    assert (thumbnail(np.full((2, 2, 3), np.nan, np.float32), None) == 0).all()


@pytest.mark.parametrize("kelvin", [600, 1900, 2856, 5600, 6504, 15000])
def test_the_table_of_black_bodies_is_close_enough_between_its_rows(kelvin):
    table = np.array(blackbody_table())
    color = [np.interp(1e6 / kelvin, table[:, 0], table[:, i]) for i in (1, 2, 3)]
    assert color == pytest.approx(blackbody(kelvin), abs=2e-3)
