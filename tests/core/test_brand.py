"""Brand colours: read from what people have, against published values; measured on parts; and found by solving."""

import numpy as np
import pytest

from lantern.engine.engine import Engine
from lantern.engine.fidelity import (
    Deviation,
    deviation,
    deviation_in,
    difference_at,
    even_color,
    even_deviation,
    nearest_base_color,
    pixels_of,
)
from lantern.picture.display import Transform, display_analytic
from lantern.scene.brand import BrandColor, of_part, read_brand, tied
from lantern.scene.colorimetry import daylight, lab_of_linear, lab_of_spectrum, linear_of_lab
from lantern.scene.cxf import BrandError
from lantern.scene.document import Camera, Material, Part, Scene
from lantern.scene.forms import BallForm
from lantern.scene.look import Look
from lantern.scene.orders import Combination, document_of
from lantern.scene.surroundings import Backdrop, Environment, Graded
from lantern.shaping.chart import PATCHES_LAB, patch_colors

CAMERA = Camera(position=(0.0, 0.0, 1.0), target=(0.0, 0.0, 0.0), focal_length=85.0)


def lab_of(text):
    (brand,) = read_brand(text)
    return brand.lab


@pytest.mark.parametrize(
    ("text", "lab"),
    [
        # sRGB under D50 by Bradford's adaptation, as tables of the primaries print it.
        ("#ff0000", (54.29, 80.81, 69.89)),
        ("00FF00", (87.82, -79.27, 80.99)),
        ("#00f", (29.57, 68.30, -112.03)),
        ("#ffffff", (100.0, 0.0, 0.0)),
        ("#777777", (50.03, 0.0, 0.0)),
        ("lab(42.43, 51.05, 28.62)", (42.43, 51.05, 28.62)),
        ("42.43 51.05 -28.62", (42.43, 51.05, -28.62)),
    ],
)
def test_a_colour_is_read_as_people_write_it(text, lab):
    assert lab_of(text) == pytest.approx(lab, abs=0.06)


def test_lab_goes_there_and_back_and_the_board_is_made_of_the_same():
    inside = patch_colors().min(axis=1) > 0
    assert np.allclose(lab_of_linear(patch_colors())[inside], PATCHES_LAB[inside], atol=0.02)
    assert np.allclose(linear_of_lab(np.array([100.0, 0.0, 0.0])), 1.0, atol=2e-4)


def test_daylight_of_5003_kelvin_has_the_white_of_d50():
    """By the components of daylight, whose own chromaticity is asked for: an independent way to the same white."""
    nm = np.arange(380.0, 741.0, 5.0)
    from lantern.kernel.spectrum import matching_functions

    x, y, z = daylight(0.3457, 0.3585, nm) @ matching_functions(nm)
    assert (x / (x + y + z), y / (x + y + z)) == pytest.approx((0.3457, 0.3585), abs=0.002)


def test_a_flat_spectrum_is_grey_and_one_of_long_waves_is_red():
    nm = np.arange(400.0, 701.0, 10.0)
    assert lab_of_spectrum(nm, np.full(len(nm), 0.2)) == pytest.approx((51.837, 0, 0), abs=0.01)
    text = "\n".join(f"{int(w)}: {5 if w < 600 else 80}" for w in nm)  # in percent
    light, a, b = lab_of(text)
    assert 35 < light < 60 and a > 50 and b > 25
    assert lab_of("\n".join(f"{int(w)} {0.05 if w < 600 else 0.8}" for w in nm)) == (light, a, b)


CXF = """<?xml version="1.0" encoding="UTF-8"?>
<cc:CxF xmlns:cc="http://colorexchangeformat.com/CxF3-core">
  <cc:Resources>
    <cc:ObjectCollection>
      <cc:Object ObjectType="Target" Name="Ember" Id="c1"><cc:ColorValues>
        <cc:ColorCIELab ColorSpecification="s"><cc:L>54.29</cc:L><cc:A>80.81</cc:A><cc:B>69.89</cc:B></cc:ColorCIELab>
      </cc:ColorValues></cc:Object>
      <cc:Object ObjectType="Target" Name="Slate" Id="c2"><cc:ColorValues>
        <cc:ReflectanceSpectrum ColorSpecification="s">{spectrum}</cc:ReflectanceSpectrum>
      </cc:ColorValues></cc:Object>
      <cc:Object ObjectType="Target" Id="c3"><cc:ColorValues>
        <cc:ColorSRGB MaxRange="255"><cc:R>119</cc:R><cc:G>119</cc:G><cc:B>119</cc:B></cc:ColorSRGB>
      </cc:ColorValues></cc:Object>
      <cc:Object ObjectType="Note" Name="Nothing" Id="c4"/>
    </cc:ObjectCollection>
    <cc:ColorSpecificationCollection><cc:ColorSpecification Id="s">
      <cc:MeasurementSpec><cc:WavelengthRange StartWL="400" Increment="10"/></cc:MeasurementSpec>
    </cc:ColorSpecification></cc:ColorSpecificationCollection>
  </cc:Resources>
</cc:CxF>""".format(spectrum=" ".join(["0.2"] * 31))


def test_a_cxf_file_gives_what_each_of_its_objects_says():
    found = read_brand(CXF)
    assert [brand.name for brand in found] == ["Ember", "Slate", "c3"]
    assert found[0].lab == pytest.approx((54.29, 80.81, 69.89))
    assert found[1].lab == pytest.approx((51.837, 0, 0), abs=0.01)
    assert found[2].lab == pytest.approx((50.03, 0, 0), abs=0.02)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("mauve", "is no colour: a colour is #rrggbb"),
        ("#12345", "is no colour"),
        ("120 0 0", "no colour of a surface"),
        ("50 900 0", "no colour of a surface"),
        ("400 0.1\n500 0.2", "is no colour"),
        ("\n".join(f"{w} 0.2" for w in range(700, 390, -10)), "rises from 420"),
        ("\n".join(f"{w} -0.2" for w in range(400, 710, 10)), "between 0 and 1"),
        (CXF[:900], "is broken"),
        (CXF.replace("54.29", "much"), "no number"),
        (CXF.replace("54.29", "nan"), "no colour of a surface"),
        (CXF.replace(">0.2 ", ">x "), "no number"),
        (CXF.replace("Object ", "Thing "), "is broken"),
        ("<CxF/>", "has no object"),
        ('<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "b">]><CxF>&a;</CxF>', "document type"),
    ],
)
def test_what_is_no_colour_is_said(text, words):
    with pytest.raises(BrandError, match=words):
        read_brand(text)


# Parts


def ball(**surface):
    """A ball before grey under even light of 1 cd/m², shown as it is: reflectance is what is seen."""
    even = Graded(zenith=(1.0, 1.0, 1.0), horizon=(1.0, 1.0, 1.0), ground=(1.0, 1.0, 1.0))
    return Scene(
        parts={
            "ball": Part(name="Ball", material="paint", form=BallForm(radius=0.1)),
            "other": Part(name="Other", material="paint", form=BallForm(radius=0.02)),
        },
        materials={"paint": Material(name="Paint", **surface)},
        environment=Environment(graded=even),
        backdrop=Backdrop(kind="color", color=(0.2, 0.2, 0.2)),
        camera=CAMERA,
        look=Look(view="plain"),
    )


@pytest.fixture
def opened():
    engines = []

    def opens(scene):
        engine = Engine(2)
        engine.open(scene, lambda reference: None)
        engines.append(engine)
        return engine

    yield opens
    for engine in engines:
        engine.close()


MATT = {"specular_weight": 0.0, "base_diffuse_roughness": 0.0}


def test_in_even_light_matt_paint_has_the_colour_that_it_is_given(opened):
    (brand,) = read_brand("#8a4b32")
    brand = tied(brand, ["ball", "ball"])
    assert brand.parts == ("ball",) and of_part({"b": brand}, "ball") is brand and of_part({"b": brand}, None) is None
    color = tuple(linear_of_lab(np.array(brand.lab)).tolist())
    engine = opened(ball(base_color=color, **MATT))
    seen = even_color(engine, CAMERA, 1.5, brand.parts)
    assert seen == pytest.approx(color, abs=0.004) and even_deviation(seen, brand) < 0.4


def test_a_part_that_is_not_seen_says_nothing(opened):
    engine = opened(ball())
    assert even_color(engine, CAMERA, 1.5, ["other"]) is None, "it is within the ball"
    assert nearest_base_color(engine, CAMERA, 1.5, tied(read_brand("#888")[0], ["other"]), "paint", None) is None


@pytest.mark.parametrize(
    "surface",
    [
        MATT,
        {"specular_weight": 1.0, "specular_roughness": 0.4},
        {"base_metalness": 1.0, "specular_roughness": 0.5},
        {"coat_weight": 1.0, "coat_roughness": 0.1, "coat_color": (0.9, 0.8, 0.7)},
        {"fuzz_weight": 0.6, "fuzz_color": (0.8, 0.8, 0.9)},
    ],
)
def test_the_nearest_base_colour_is_found_through_all_that_lies_over_it(opened, surface):
    scene = ball(base_color=(0.8, 0.8, 0.8), **surface)
    engine = opened(scene)
    brand = tied(read_brand("#c8b0a0")[0], ["ball"])
    before = even_deviation(even_color(engine, CAMERA, 1.5, brand.parts), brand)
    found = nearest_base_color(engine, CAMERA, 1.5, brand, "paint", None)
    assert before > 4 and found.left < 0.5
    assert engine.scene == scene, "the scene is as before"
    worn = scene.materials["paint"].model_copy(update={"base_color": found.color})
    other = opened(scene.model_copy(update={"materials": {"paint": worn}}))
    again = even_deviation(even_color(other, CAMERA, 1.5, brand.parts), brand)
    assert again == pytest.approx(found.left, abs=0.05), "and taken it looks as was promised"


def test_what_cannot_be_reached_says_by_how_much(opened):
    """No base colour makes a white fuzz black."""
    engine = opened(ball(base_color=(0.5, 0.5, 0.5), fuzz_weight=1.0, fuzz_color=(1.0, 1.0, 1.0)))
    found = nearest_base_color(engine, CAMERA, 1.5, tied(read_brand("#101010")[0], ["ball"]), "paint", None)
    assert found.left > 5 and max(found.color) < 0.01


def test_the_difference_is_of_the_pixels_of_the_part():
    brand = BrandColor(name="Grey", lab=(50.03, 0.0, 0.0))
    shown = np.full((20, 20, 3), 119, np.uint8)
    shown[:, 10:] = 255
    left = np.zeros((20, 20), bool)
    left[:, :10] = True
    assert deviation(shown, left, brand) == Deviation(pytest.approx(0, abs=0.05), pytest.approx(0, abs=0.05))
    both = deviation(shown, left | ~left, brand)
    assert both.worst == pytest.approx(34, abs=3), "half of it is white"
    assert deviation(shown, np.zeros((20, 20), bool), brand) is None


@pytest.mark.parametrize("encoding", ["srgb", "p3", "rec1886"])
def test_a_colour_is_the_same_on_whatever_display_it_is_shown(encoding):
    linear = np.array([[[0.30, 0.12, 0.05]]], np.float32)
    brand = BrandColor(name="Rust", lab=tuple(lab_of_linear(linear[0, 0])))
    shown = (display_analytic(linear, Transform("plain", encoding)) * 255 + 0.5).astype(np.uint8)
    assert difference_at(shown[0, 0], brand, encoding) < 0.6
    assert all(difference_at(shown[0, 0], brand, other) > 1.5 for other in {"srgb", "p3", "rec1886"} - {encoding})


def test_each_light_has_a_difference_of_its_own_and_the_scene_stays(opened):
    from lantern.scene.conditions import conditions_of

    scene = ball(base_color=(0.18, 0.18, 0.18), **MATT)
    bright = scene.model_copy(update={"look": Look(view="plain", exposure=2.0)})
    scene = scene.model_copy(update={"conditions": {"bright": conditions_of(bright, "Bright")}})
    engine = opened(scene)
    brand = tied(read_brand(f"{lab_of_linear(np.full(3, 0.18))[0]} 0 0")[0], ["ball"])
    (plain, made), (changed, again) = (
        deviation_in(engine, document_of(scene, one), CAMERA, 1.5, brand, None)
        for one in (Combination(), Combination(conditions="bright"))
    )
    assert made and again and plain.typical < 12 and changed.typical > plain.typical + 5
    assert engine.scene == scene
    film = engine.film_for(60, 40)
    engine.trace(film, 1)
    assert 100 < np.count_nonzero(pixels_of(engine, film, ["ball"])) < 1200
