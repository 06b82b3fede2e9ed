"""The look: each effect against what is known of it, and all of them together at any size and in any strips."""

import numpy as np
import PyOpenColorIO as ocio
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from lantern.color import lab_of
from lantern.picture import strips
from lantern.picture.display import CONFIG, SOURCE, Transform, TransformError, display_analytic, own_config
from lantern.picture.look.acescct import decoded, encoded
from lantern.picture.look.aperture import ACROSS, Aperture, from_image
from lantern.picture.look.curves import tone_table
from lantern.picture.look.glare import pattern_of
from lantern.picture.look.pipeline import Finisher
from lantern.picture.look.scatter import scattered
from lantern.picture.look.shafts import with_shafts
from lantern.picture.look.surround import Surround, lens_of
from lantern.picture.look.table import apply_table
from lantern.picture.white import white_for, white_matrix
from lantern.scene.document import Camera
from lantern.scene.look import EFFECTS, FINISH, Look, effect_of, only_effect, without_effects

AROUND = Surround()
ALL = Look.model_validate(
    {name: {"enabled": True} for name in EFFECTS if name != "table"}
    | {"hues": {"enabled": True, "hue": [(0.1, 0.6)], "saturation": [(0.5, 0.2)]}}
    | {"curve": {"enabled": True, "master": [(0.2, 0.25), (0.6, 0.58)]}}
    | {"decision": {"enabled": True, "slope": (1.1, 1, 0.9), "power": (1, 1.1, 1), "saturation": 0.8}}
    | {"levels": {"enabled": True, "black": 0.02, "white": 0.5}}
    | {"monochrome": {"enabled": True, "amount": 0.3}}
    | {"locals": {"a": {"name": "A", "mask": {"kind": "ellipse"}, "exposure": 1.0, "tint": (1, 0.8, 0.6)}}}
)


def on(name, **fields):
    return Look.model_validate({name: {"enabled": True, **fields}})


def scene_of(height, width):
    """Smooth light with a lamp in it, the same at any size."""
    y, x = (np.mgrid[0:height, 0:width] + 0.5) / height
    light = np.stack([0.3 + 0.2 * np.sin(5 * x), 0.25 + 0.15 * np.cos(4 * y), 0.2 + 0.1 * np.sin(3 * (x + y))], -1)
    lamp = np.exp(-(((x - 1.2) ** 2 + (y - 0.3) ** 2) / 0.003))
    return (light + 30 * lamp[..., None] * [1, 0.8, 0.5]).astype(np.float32)


def finished(light, look, around=AROUND):
    return Finisher().bytes_of(light, look, around)


@pytest.mark.parametrize("name", ["bloom", "glare", "streaks", "halo"])
def test_light_that_spreads_is_neither_lost_nor_made(name):
    light = np.full((240, 320, 3), 0.1, np.float32)
    light[118:122, 158:162] = (900, 700, 300)
    fields = {"size": 1.0} if name == "bloom" else {"length": 10.0} if name == "streaks" else {}
    spread = scattered(light, on(name, amount=0.5, **fields), AROUND)
    assert np.abs(spread - light).max() > 1
    assert spread.sum((0, 1)) == pytest.approx(light.sum((0, 1)), rel=1e-3)


def test_a_lucky_sample_becomes_no_star_and_a_lamp_does():
    light = np.full((120, 160, 3), 0.1, np.float32)
    light[60, 80] = 500
    look = on("streaks", amount=0.5, length=20.0)
    lone, clean = (scattered(light, look, Surround(clean=clean)) for clean in (False, True))
    assert np.abs(lone[60, 90:] - 0.1).max() < 1e-3 and clean[60, 90, 1] > 1
    light[60:62, 80:82] = 500
    assert scattered(light, look, Surround(clean=False))[60, 90, 1] > 1, "a lamp is more than a pixel"


def test_shafts_come_from_what_is_far_enough_and_away_from_their_point():
    light = np.zeros((120, 160, 3), np.float32)
    light[30:36, 78:84] = 50
    depth = np.full((120, 160), 2.0, np.float32)
    far = with_shafts(light, on("shafts", behind=1.0, x=50, y=0).shafts, Surround(depth=depth))
    assert far[60, 80, 1] > 0.5 and far[60, 20, 1] < 1e-3 and far[10, 80, 1] < 1e-3
    near = with_shafts(light, on("shafts", behind=3.0, x=50, y=0).shafts, Surround(depth=depth))
    assert (near == light).all()


def test_half_of_a_bloom_falls_within_its_size():
    light = np.zeros((301, 301, 3), np.float32)
    light[150, 150] = 1000
    spread = scattered(light, on("bloom", amount=1.0, size=5.0, above=-12), AROUND)[..., 1]
    y, x = np.mgrid[-150:151, -150:151]
    within = spread[np.hypot(y, x) <= 0.05 * 301].sum() / spread.sum()
    # Its tails reach far beyond the frame, and what would fall there falls within it.
    assert 0.45 < within < 0.62


@pytest.mark.parametrize(("blades", "spikes"), [(5, 10), (6, 6), (7, 14), (8, 8), (9, 18)])
def test_an_odd_number_of_blades_makes_twice_as_many_spikes(blades, spikes):
    kernel = pattern_of(Aperture(blades)).kernel(6.0, (512, 512))[..., 1]
    angles = np.radians(np.arange(0, 360, 0.5))
    radii = np.arange(60, 200, 0.5)[:, None]
    row, column = np.rint(-radii * np.sin(angles)).astype(int) % 512, np.rint(radii * np.cos(angles)).astype(int) % 512
    round_about = kernel[row, column].sum(axis=0)
    strong = round_about > 0.5 * round_about.max()
    assert (strong & ~np.roll(strong, 1)).sum() == spikes


def test_the_first_dark_ring_of_a_round_aperture_is_airys():
    for ring in (8.0, 20.0):
        kernel = pattern_of(Aperture()).kernel(ring, (256, 256))
        # Green alone has a dark ring: red's and blue's lie elsewhere.
        profile = kernel[0, : int(1.5 * ring), 1]
        assert int(np.argmin(profile)) == pytest.approx(ring, rel=0.08)
        disc = kernel[..., 1]
        y, x = (
            np.minimum(np.arange(256), 256 - np.arange(256))[:, None],
            np.minimum(np.arange(256), 256 - np.arange(256)),
        )
        # Within the first dark ring lie 83.8 % of the light (Born and Wolf, 8.5.2).
        assert disc[np.hypot(y, x) <= ring].sum() == pytest.approx(0.838, abs=0.035)


def test_wider_wavelengths_are_spread_wider():
    kernel = pattern_of(Aperture()).kernel(12.0, (256, 256))
    y, x = np.minimum(np.arange(256), 256 - np.arange(256))[:, None], np.minimum(np.arange(256), 256 - np.arange(256))
    near = np.hypot(y, x) < 8
    red, green, blue = (kernel[..., c][near].sum() for c in range(3))
    assert red < green < blue


def test_acescct_is_that_of_the_library():
    ramp = np.geomspace(1e-5, 200, 300)
    light = np.repeat(ramp[None, :, None], 3, axis=2).astype(np.float32)
    config = ocio.Config.CreateFromBuiltinConfig(CONFIG)
    shown = np.ascontiguousarray(light).copy()
    config.getProcessor("ACEScg", "ACEScct").getDefaultCPUProcessor().applyRGB(shown)
    assert encoded(ramp) == pytest.approx(shown[0, :, 0], abs=2e-6)
    assert decoded(encoded(ramp)) == pytest.approx(ramp, rel=1e-6)


def test_a_grade_that_changes_nothing_changes_nothing():
    light = scene_of(40, 60)
    same = on("contrast", contrast=1.0)
    assert np.abs(finished(light, same).astype(int) - finished(light, Look())).max() <= 1


@pytest.mark.parametrize("saturation", [1.0, 0.6])
def test_a_colour_decision_is_that_of_the_standard(saturation):
    slope, offset, power = (1.2, 0.9, 1.05), (0.02, -0.03, 0.01), (0.9, 1.1, 1.2)
    light = np.random.default_rng(3).uniform(0.02, 4, (20, 20, 3)).astype(np.float32)
    config = ocio.Config.CreateFromBuiltinConfig(CONFIG)
    decision = ocio.CDLTransform()
    decision.setSlope(slope), decision.setOffset(offset), decision.setPower(power), decision.setSat(saturation)
    decision.setStyle(ocio.CDL_NO_CLAMP)
    to, back = (ocio.ColorSpaceTransform(src=a, dst=b) for a, b in ((SOURCE, "ACEScct"), ("ACEScct", SOURCE)))
    wanted = light.copy()
    config.getProcessor(ocio.GroupTransform([to, decision, back])).getDefaultCPUProcessor().applyRGB(wanted)
    look = on("decision", slope=slope, offset=offset, power=power, saturation=saturation)
    wanted = np.clip(display_analytic(wanted, Transform("plain")), 0, 1) * 255
    shown = finished(light, look.model_copy(update={"view": "plain"})).astype(float)
    assert np.abs(shown - wanted).max() < 2.5


@given(st.lists(st.tuples(st.floats(0, 1), st.floats(0, 1)), max_size=8))
def test_a_tone_curve_never_turns_back(points):
    across = sorted({round(x, 2) for x, _ in points})
    up = sorted(y for _, y in points)[: len(across)]
    table = tone_table(list(zip(across, up, strict=True)))
    assert (np.diff(table) >= -1e-12).all()


def test_curves_that_turn_back_are_refused_with_their_place():
    with pytest.raises(ValidationError, match="must not fall"):
        on("curve", master=[(0.2, 0.5), (0.6, 0.4)])
    with pytest.raises(ValidationError, match="to the right"):
        on("hues", hue=[(0.6, 0.5), (0.2, 0.4)])
    with pytest.raises(ValidationError, match="power"):
        on("decision", power=(1, 0, 1))


@pytest.mark.parametrize("kelvin", [2400.0, 3200.0, 4300.0, 8000.0])
def test_a_grey_card_under_any_light_becomes_neutral(kelvin):
    cast = np.linalg.inv(white_matrix(kelvin, 6.0)) @ np.full(3, 0.18)
    found = white_for(cast)
    light = np.broadcast_to(cast, (4, 4, 3)).astype(np.float32)
    look = Look(view="plain", white_temperature=found[0], white_tint=found[1])
    shown = finished(light, look)[0, 0] / 255
    linear = np.where(shown <= 0.04045, shown / 12.92, ((shown + 0.055) / 1.055) ** 2.4)
    _, a, b = lab_of(linear)
    assert np.hypot(a, b) < 0.5


@pytest.mark.parametrize("name", [name for name in EFFECTS if name != "table"])
def test_each_effect_shows_and_its_amount_takes_it_back(name):
    light = scene_of(90, 160)
    light[::2] *= 0.7
    light[:, ::7] *= 1.6
    # What is finer than a pixel of so small a picture does not show in it.
    coarse = {
        "fringe": {"red": 1.5, "blue": -1.5},
        "softness": {"blur": 4.0},
        "sharpening": {"radius": 2.0},
        "grain": {"size": 2.0},
    }
    look = on(name, **coarse[name]) if name in coarse else only_effect(ALL, name)
    around = Surround(half_diagonal=0.4)
    plain, with_it = finished(light, Look(), around), finished(light, look, around)
    assert np.abs(with_it.astype(int) - plain).max() > 3
    off = look.model_copy(update={name: effect_of(look, name).model_copy(update={"amount": 0.0})})
    assert np.abs(finished(light, off, around).astype(int) - plain).max() <= 1
    switched = look.model_copy(update={name: effect_of(look, name).model_copy(update={"enabled": False})})
    assert (finished(light, switched, around) == plain).all()


def test_before_the_look_there_is_exposure_white_and_display_alone():
    look = ALL.model_copy(update={"exposure": 1.5, "white_temperature": 3200.0, "view": "plain"})
    plain = Look(exposure=1.5, white_temperature=3200.0, view="plain")
    assert without_effects(look) == plain


def test_a_picture_is_finished_alike_in_any_strips(monkeypatch):
    light = scene_of(130, 200)
    whole = finished(light, ALL)
    monkeypatch.setattr(strips, "LEAST_ROWS_OF", 1)
    monkeypatch.setattr(strips, "MOST_PIXELS", 200 * 7)
    assert (finished(light, ALL) == whole).all()


@pytest.mark.parametrize("size", [(270, 480), (540, 960)])
def test_a_smaller_proof_looks_like_the_print(size):
    """Grain is finer than the pixels of either, and its means over both are the same to half a step."""
    look = ALL.model_copy(update={"grain": ALL.grain.model_copy(update={"amount": 0.0})})
    height, width = size
    small, large = finished(scene_of(height, width), look), finished(scene_of(2 * height, 2 * width), look)
    means = large.reshape(height, 2, width, 2, 3).mean(axis=(1, 3))
    inside = slice(height // 10, -height // 10)
    assert np.abs(means - small)[inside, inside].mean() < 1.0
    assert means.mean() == pytest.approx(small.mean(), abs=1.0)


def test_grain_is_between_black_and_white_the_same_each_time_and_of_its_size():
    height = 400
    grey = np.full((height, 600, 3), 0.18, np.float32)
    look = on("grain", amount=1.0, size=1.0, color=0.0)
    first = finished(grey, look)
    assert (first == finished(grey, look)).all()
    values = first[..., 0].astype(float) - first[..., 0].mean()
    assert 10 < values.std() < 30
    # Grains are four pixels wide: neighbours are alike, pixels further away are not.
    assert (values[:, 1:] * values[:, :-1]).mean() / values.var() > 0.6
    assert abs((values[:, 8:] * values[:, :-8]).mean() / values.var()) < 0.05
    for level in (0.0, 1000.0):
        assert np.ptp(finished(np.full((50, 50, 3), level, np.float32), look)) <= 2


def test_a_vignette_by_the_angle_of_light_is_its_cosine_to_the_fourth():
    camera = Camera(focal_length=24.0)
    aperture, tangent = lens_of(camera, 1.5)
    assert aperture.blades is None and tangent == pytest.approx(0.75 * np.hypot(1, 1 / 1.5))
    light = np.full((200, 300, 3), 0.5, np.float32)
    look = on("vignette", edge=0.0, natural=1.0).model_copy(update={"view": "plain"})
    corner = finished(light, look, Surround(half_diagonal=tangent))[0, 0, 0] / 255
    linear = ((corner + 0.055) / 1.055) ** 2.4
    assert linear / 0.5 == pytest.approx((1 / (1 + tangent**2)) ** 2, rel=0.03)


def test_distortion_keeps_the_corners_and_fringe_the_middle():
    y, x = np.mgrid[0:200, 0:300]
    light = np.repeat(((x // 10 + y // 10) % 2)[..., None], 3, -1).astype(np.float32) * 0.5
    bent, plain = finished(light, on("distortion", bend=0.2)), finished(light, Look())
    assert (bent[0, 0] == plain[0, 0]).all() and (bent != plain).any()
    fringed = finished(light, on("fringe", red=2.0, blue=-2.0)).astype(int)
    assert np.ptp(fringed[95:105, 145:155], axis=-1).max() < np.ptp(fringed[:30, :30], axis=-1).max() / 2


def test_a_place_is_graded_and_its_surroundings_are_not():
    light = np.full((100, 160, 3), 0.2, np.float32)
    place = {"name": "A", "mask": {"kind": "ellipse", "width": 30, "height": 30, "feather": 0}, "exposure": 1.0}
    look = Look.model_validate({"locals": {"a": place}, "view": "plain"})
    shown, plain = finished(light, look), finished(light, Look(view="plain"))
    double = finished(light * 2, Look(view="plain"))
    assert abs(int(shown[50, 80, 0]) - double[50, 80, 0]) <= 1 and (shown[:30] == plain[:30]).all()
    turned = Look.model_validate({"locals": {"a": {**place, "inverted": True}}, "view": "plain"})
    assert (finished(light, turned)[50, 80] == plain[50, 80]).all()


def test_only_certain_parts_are_graded():
    light = np.full((60, 80, 3), 0.2, np.float32)
    matte = np.zeros((30, 40), np.float32)
    matte[:, :20] = 1
    place = {"name": "A", "mask": {"kind": "parts", "parts": ["glass"]}, "saturation": 0.0, "exposure": -1.0}
    look = Look.model_validate({"locals": {"a": place}, "view": "plain"})
    around = Surround(mattes={("glass",): matte})
    shown, plain = finished(light, look, around), finished(light, Look(view="plain"))
    assert (shown[:, :35] < plain[:, :35]).all() and (shown[:, 45:] == plain[:, 45:]).all()
    assert (finished(light, look) == plain).all(), "a part that is not known is nowhere"


CUBE_3D = "LUT_3D_SIZE 2\n0 0 0\n0 0 1\n0 1 0\n0 1 1\n1 0 0\n1 0 1\n1 1 0\n1 1 1\n"
"""Red and blue change places."""


def test_a_table_works_in_the_code_that_it_is_made_for(tmp_path):
    path = tmp_path / "swap"
    path.write_text(CUBE_3D)
    light = np.random.default_rng(1).uniform(0, 1, (5, 5, 3)).astype(np.float32)
    for space in ("display", "linear"):
        shown = light.copy()
        apply_table(shown, path, space, 1.0)
        assert shown == pytest.approx(light[..., ::-1], abs=1e-4)
    half = light.copy()
    apply_table(half, path, "linear", 0.5)
    assert half == pytest.approx((light + light[..., ::-1]) / 2, abs=1e-4)


def test_what_is_no_table_is_said_in_one_line(tmp_path):
    path = tmp_path / "broken"
    path.write_text("LUT_3D_SIZE 33\n0 0 0\n")
    with pytest.raises(TransformError) as caught:
        apply_table(np.zeros((1, 1, 3), np.float32), path, "display", 1.0)
    assert "\n" not in str(caught.value) and str(path) not in str(caught.value)


def test_a_configuration_of_ones_own_is_used_and_a_broken_one_is_said(tmp_path):
    path = tmp_path / "config"
    config = ocio.Config.CreateFromBuiltinConfig(CONFIG)
    path.write_text(config.serialize())
    own = {"file": {"sha256": "a" * 64, "name": "own.ocio"}, "display": "sRGB - Display", "view": "Un-tone-mapped"}
    look = Look.model_validate({"own_transform": own})
    light = scene_of(30, 40)
    around = Surround(files={"a" * 64: path})
    assert np.abs(finished(light, look, around).astype(int) - finished(light, Look(view="plain"))).max() <= 1
    assert (finished(light, look) == finished(light, Look())).all(), "without its file the built-in one shows it"
    path.write_text("ocio_profile_version: 2\nroles: {}\n")
    with pytest.raises(TransformError):
        own_config(path)


def test_an_aperture_of_ones_own_must_be_numbers_and_let_light_pass():
    image = np.ones((40, 60, 3), np.float32)
    assert from_image(image).shape == (ACROSS, ACROSS)
    image[3, 7] = np.nan
    with pytest.raises(ValueError, match="row 4, column 8"):
        from_image(image)
    with pytest.raises(ValueError, match="black"):
        from_image(np.zeros((8, 8), np.float32))


def test_the_lens_is_remembered_while_the_grade_is_tried():
    finisher, light = Finisher(), scene_of(90, 160)
    look = ALL.model_copy(update={name: effect_of(ALL, name).model_copy(update={"enabled": False}) for name in FINISH})
    first = finisher.bytes_of(light, look, AROUND)
    lens = finisher._known[2]
    other = look.model_copy(update={"contrast": look.contrast.model_copy(update={"contrast": 1.4})})
    assert (finisher.bytes_of(light, other, AROUND) != first).any() and finisher._known[2] is lens
    assert (finisher.bytes_of(light, look.model_copy(update={"exposure": 1.0}), AROUND) != first).any()
    assert finisher._known[2] is not lens
    assert (finisher.bytes_of(light, look, AROUND) == first).all()
