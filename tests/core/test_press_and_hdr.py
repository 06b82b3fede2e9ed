"""Pictures of Rec. 2100 PQ, and colours that a press cannot print."""

import struct

import numpy as np
import OpenImageIO as oiio
import pytest

from lantern.picture.display import TransformError
from lantern.picture.hdr import REC709_TO_REC2020, decode_pq, encode_pq, write_pq_png
from lantern.picture.look.files import read_look
from lantern.picture.look.marks import OUT_OF_GAMUT, marked
from lantern.picture.look.pipeline import Finisher
from lantern.picture.look.surround import Surround
from lantern.picture.press import beyond_press, check_profile
from lantern.scene.look import Border, Look
from lantern.scene.model import FileRef

SRGB_D50 = np.array([[0.4360, 0.3851, 0.1431], [0.2225, 0.7169, 0.0606], [0.0139, 0.0971, 0.7141]])
"""Columns: XYZ of red, green and blue of sRGB, adapted to D50."""


_COLUMNS = (b"rXYZ", b"gXYZ", b"bXYZ")


def press_profile(strength: float) -> bytes:
    """An ICC profile (version 2, matrix and curves) of a printer whose inks are so much as colourful as sRGB's."""

    def fixed(*values):
        return b"".join(struct.pack(">i", round(v * 65536)) for v in values)

    columns = strength * SRGB_D50 + (1 - strength) * SRGB_D50.sum(axis=1, keepdims=True) / 3
    tags = [
        (b"desc", b"desc\0\0\0\0" + struct.pack(">I", 6) + b"Press\0" + bytes(78)),
        (b"wtpt", b"XYZ \0\0\0\0" + fixed(0.9642, 1.0, 0.8249)),
        (b"cprt", b"text\0\0\0\0none\0"),
        *((name, b"XYZ \0\0\0\0" + fixed(*column)) for name, column in zip(_COLUMNS, columns.T, strict=True)),
        *((name, b"curv\0\0\0\0" + struct.pack(">IHH", 1, 563, 0)) for name in (b"rTRC", b"gTRC", b"bTRC")),
    ]
    table, data, start = struct.pack(">I", len(tags)), b"", 132 + 12 * len(tags)
    for name, content in tags:
        padded = content + bytes(-len(content) % 4)
        table += name + struct.pack(">II", start + len(data), len(content))
        data += padded
    head = struct.pack(">I4sI4s4s4s", start + len(data), b"", 0x02400000, b"prtr", b"RGB ", b"XYZ ")
    head += bytes(12) + b"acsp" + bytes(28) + fixed(0.9642, 1.0, 0.8249) + bytes(48)
    return head + table + data


@pytest.fixture
def press(tmp_path):
    path = tmp_path / "press.icc"
    path.write_bytes(press_profile(0.6))
    return path


def test_what_the_press_has_no_ink_for_is_told_from_what_it_prints(press):
    """With inks of 60 % of sRGB's colourfulness pure colours are out of reach, and muted ones within."""
    picture = np.array(
        [
            [(255, 0, 0), (0, 255, 0), (0, 0, 255), (255, 240, 0)],
            [(128, 128, 128), (255, 255, 255), (0, 0, 0), (150, 120, 110)],
        ],
        np.uint8,
    )
    assert beyond_press(picture, "srgb", press).tolist() == [[True] * 4, [False] * 4]
    # Display P3 codes of the same greys are the same; its pure colours lie farther out still.
    assert beyond_press(picture, "p3", press).tolist() == [[True] * 4, [False] * 4]


def test_marks_stand_where_the_press_has_no_ink_and_nowhere_without_a_profile(press):
    light = np.zeros((12, 12, 3), np.float32)
    light[:, :6] = (0.9, 0.02, 0.02)
    light[:, 6:] = 0.18
    file = FileRef(sha256="0" * 64, name="press.icc")
    look, around = Look(press_profile=file), Surround(files={file.sha256: press})
    picture = Finisher().bytes_of(light, look, around)
    shown = (marked(picture, light, look, around, "press") == OUT_OF_GAMUT).all(axis=-1)
    assert shown[:, :6].any() and not shown[:, 6:].any()
    assert (marked(picture, light, look, Surround(), "press") == picture).all()


@pytest.mark.parametrize(
    ("content", "said"),
    [(b"not a profile at all", "no ICC profile"), (press_profile(0.6)[:300], "ends too early"),
     (press_profile(0.6).replace(b"prtr", b"abst"), "nothing is printed")],
)  # fmt: skip
def test_what_is_no_profile_of_a_press_is_said(tmp_path, content, said):
    path = tmp_path / "bad.icc"
    path.write_bytes(content)
    with pytest.raises(TransformError, match=said):
        check_profile(path)


def test_a_profile_comes_in_as_part_of_a_look_and_does_not_change_its_picture(press):
    look = read_look(press, "press.icc", "1" * 64)
    assert look == Look(press_profile=FileRef(sha256="1" * 64, name="press.icc"))


def test_pq_codes_are_those_of_the_standard():
    """SMPTE ST 2084: 10,000 cd/m² is 1; ITU-R BT.2408, table 1: 203 cd/m² is 58 %, and 1,000 is 75 %."""
    assert encode_pq(np.array([0.0, 203.0, 1000.0, 10000.0])) == pytest.approx([0, 0.5807, 0.7518, 1.0], abs=1e-4)
    light = np.geomspace(0.01, 9000, 40)
    assert decode_pq(encode_pq(light)) == pytest.approx(light, rel=1e-6)
    assert REC709_TO_REC2020.sum(axis=1) == pytest.approx([1, 1, 1], abs=1e-6), "white stays white"


def test_an_hdr_picture_keeps_apart_what_an_sdr_one_makes_white():
    stops = np.array([-4, -2, 0, 1, 2, 3, 4, 5], np.float32)
    light = np.repeat((0.18 * 2**stops)[None, :, None], 3, axis=2).astype(np.float32)
    luminance = decode_pq(Finisher().hdr_of(light, Look(), Surround())[0, :, 1] / 65535)
    assert (np.diff(luminance) > 0).all() and 400 < luminance[-1] < 1000.5
    sdr = Finisher().bytes_of(light, Look(), Surround())[0, :, 1]
    # The middle is about as bright as on paper-white displays of 100 cd/m², a little more.
    assert 8 < luminance[2] < 25 and sdr[-1] > 230
    plain = decode_pq(Finisher().hdr_of(light, Look(view="plain"), Surround())[0, :, 1] / 65535)
    assert plain[3] / plain[2] == pytest.approx(2.0, rel=0.02), "without a transform light stays proportional"


def test_finish_and_border_are_drawn_in_an_hdr_picture_at_the_brightness_of_graphics():
    light = np.full((60, 80, 3), 0.18, np.float32)
    look = Look(border=Border(enabled=True, width=10.0, color=(1, 1, 1)))
    luminance = decode_pq(Finisher().hdr_of(light, look, Surround()) / 65535)
    assert luminance[0, 0] == pytest.approx([203] * 3, rel=2e-3) and luminance[30, 40, 0] < 30


def test_an_hdr_file_says_what_its_codes_mean_and_keeps_all_16_bits(tmp_path):
    pixels = np.arange(40 * 30 * 3, dtype=np.uint16).reshape(40, 30, 3) * 18
    write_pq_png(tmp_path / "a.png", pixels)
    found = oiio.ImageBuf(str(tmp_path / "a.png"))
    assert (found.get_pixels(oiio.UINT16) == pixels).all()
    assert tuple(found.spec().getattribute("CICP")) == (9, 16, 0, 1)
    assert b"sRGB" not in (tmp_path / "a.png").read_bytes()[:200] and list(tmp_path.iterdir()) == [tmp_path / "a.png"]
