"""Groups of controls: whole, and true about what has an effect."""

import numpy as np
import pytest

from lantern.scene import groups
from lantern.scene.document import Material
from lantern.scene.fields import describe
from lantern.scene.groups import groups_of, plain_groups
from lantern.scene.lights import LIGHT_KINDS
from lantern.scene.placed import PartGroup
from tests.core.shapes import light_of, one_part, sphere_mesh, traced

MODELS = [*groups._GROUPS, *LIGHT_KINDS.values()]
LOOK_SIDE = 24
SAMPLES = 2


@pytest.mark.parametrize("model", MODELS, ids=lambda model: model.__name__)
def test_groups_name_fields_that_have_controls_each_once(model):
    named = [row.field for group in groups_of(model) for row in group.rows]
    assert len(named) == len(set(named))
    for group in groups_of(model):
        for row in group.rows:
            assert describe(model.model_fields[row.field])["kind"], row.field
            for condition in row.when:
                field, _, word = condition.partition("=")
                assert field in model.model_fields
                if word:
                    assert word in describe(model.model_fields[field])["options"]
        assert all(field in model.model_fields for field, _ in group.sums)


@pytest.mark.parametrize("model", MODELS, ids=lambda model: model.__name__)
def test_every_field_with_a_control_is_in_a_group(model):
    named = {row.field for group in groups_of(model) for row in group.rows}
    have = {name for name, info in model.model_fields.items() if info.title and describe(info)["kind"]}
    # What is set in another way: a light or a group of parts is switched in its list, boxes and targets by hand in
    # the picture. Shutter and ISO stand with the exposure, which is of the look.
    switched = {"visible"} if model is PartGroup else set[str]()
    elsewhere = switched | {"enabled", "solo", "locked", "position", "target", "name", "exposure_time", "iso"}
    assert have - named <= elsewhere


def seen(material: Material) -> np.ndarray:
    scene, asset = one_part(material, sphere_mesh(rings=16))
    light = light_of("sphere", name="L", position=(0.3, 0.4, 0.5), target=(0, 0, 0), radius=0.1, amount=20.0)
    scene = scene.model_copy(update={"lights": {"l": light}})
    return traced(scene, asset, SAMPLES, side=LOOK_SIDE).means().radiance


def other(name: str, value: object) -> object:
    """Another value of a field, far from its own."""
    extra = Material.model_fields[name].json_schema_extra
    if isinstance(value, tuple):
        return (0.9, 0.2, 0.1)
    return extra["soft_minimum"] + 0.9 * (extra["soft_maximum"] - extra["soft_minimum"])


LAYERED = [
    (group.weight, row.field)
    for group in groups_of(Material)
    for row in group.rows
    if group.weight and group.weight.endswith("_weight") and row.when == (group.weight,)
    # Seen only in a solid that lies in another.
    if row.field != "interior_priority"
]


@pytest.mark.parametrize(("weight", "field"), LAYERED, ids=lambda value: value)
def test_a_row_has_an_effect_when_it_is_shown_and_none_when_it_is_not(weight, field):
    off = Material(name="m")
    changed = {field: other(field, getattr(off, field))}
    before, after = seen(off), seen(off.model_copy(update=changed))
    if "anisotropy" in field:
        # It turns the frame in which directions are drawn: the same light by other samples.
        assert after.mean() == pytest.approx(before.mean(), rel=0.01)
    else:
        assert np.array_equal(before, after)
    needed = (
        {"transmission_depth": 0.05} if field in ("transmission_scatter", "transmission_scatter_anisotropy") else {}
    )
    if field == "transmission_scatter_anisotropy":
        needed |= {"transmission_scatter": (0.8, 0.8, 0.8)}
    if field == "transmission_depth":
        needed |= {"transmission_color": (0.5, 0.5, 0.5)}
    if field == "coat_darkening":
        needed |= {"base_color": (0.9, 0.5, 0.2)}
    on = off.model_copy(update={weight: 1.0, **needed})
    assert not np.array_equal(seen(on), seen(on.model_copy(update=changed)))


def test_the_generated_groups_say_conditions_in_fields_and_words():
    plain = plain_groups()
    backdrop = plain["Backdrop"][0]["rows"]
    words = ("color", "gradient")
    assert backdrop[1] == {"field": "color", "when": [{"field": "kind", "word": word} for word in words]}
    assert plain["PointLight"][1]["rows"] == [{"field": "roll", "when": [{"field": "profile"}]}]
