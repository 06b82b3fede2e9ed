"""New inputs and layers of materials, begun so that they are seen at once and can be tuned by eye.

In: a document, materials, a parameter or a layer, a kind of source, how large the parts are that wear them. Out: the
patch that adds the input or layer, or gives an input that is there another source. Called by the render host, which
knows the sizes.
"""

from collections.abc import Sequence
from typing import Any, cast

from lantern.scene.document import Material, Scene
from lantern.scene.inputs import MaterialInput, Parameter, Placement, Ramp, Stop
from lantern.scene.layers import MOST_LAYERS, Layer, LayerInput
from lantern.scene.making import Made
from lantern.scene.sources import LABELS, SOURCES, AnySource, DistanceSource, OcclusionSource, SourceKind, WornSource

REPEATS_ACROSS = {
    "weave": 60.0, "brushed": 40.0, "dots": 16.0, "checks": 12.0, "tiles": 8.0, "wood": 8.0,
    "knit": 40.0, "leather": 50.0, "knurl": 40.0, "scratches": 6.0, "smudges": 6.0, "fingerprints": 6.0, "flakes": 90.0,
}  # fmt: skip
"""Repeats across a part, of those that are finer or coarser than others."""
_ACROSS = 10.0
DARKER = 0.45
"""Of a colour, at the dark end of a new ramp."""
AROUND = 0.2
"""How far a number goes up and down from its constant."""
NEW_GLOW = 100.0
"""cd/m² at the bright end, of what did not glow before."""
BUMP_OF_SIZE = 0.05
"""Height of a new bump, of a repeat."""
RELIEF_OF_SIZE = 0.1
"""The same of a new relief, which is of the mesh."""
_MOST_BUMP = 100.0
WORN_OF_EXTENT = 1 / 60
"""Width of a new worn edge, of the part."""


NEAR_OF_EXTENT = 1 / 10
"""How far a new mask looks for what is near, of the part."""


def with_input(scene: Scene, materials: Sequence[str], parameter: Parameter, kind: SourceKind, extent: float) -> Made:
    """The patch that gives a parameter of materials an input of a kind; `extent` [m] is the length of what wears them.

    An input that is there keeps all but its source. Raises KeyError for a kind or a material that there is not.
    """
    patch: list[dict[str, Any]] = []
    for key in materials:
        material = scene.materials[key]
        known = material.inputs.get(parameter)
        if known is not None:
            one = known.model_copy(update={"source": _source(kind, extent)})
        else:
            one = new_input(material, parameter, kind, extent)
        path = f"/materials/{key}/inputs/{parameter}"
        patch.append({"op": "add" if known is None else "replace", "path": path, "value": one.model_dump(mode="json")})
        if parameter == "bump" and material.bump == 0:
            height = min(max(one.placement.size * BUMP_OF_SIZE, 1e-6), _MOST_BUMP)
            patch.append({"op": "replace", "path": f"/materials/{key}/bump", "value": float(f"{height:.2g}")})
    return Made(parameter, f"{LABELS[kind]} for {Material.model_fields[parameter].title}", patch)


def with_relief(scene: Scene, parts: Sequence[str], kind: SourceKind, extent: float) -> Made:
    """The patch that displaces parts of an extent [m] by a pattern, in the place of an image; as `with_input`."""
    patch: list[dict[str, Any]] = []
    for key in parts:
        part = scene.parts[key]
        known = part.displacement_input
        one = _begun(kind, extent)
        # Coarser than in shading: what is finer than the mesh is not there.
        size = max(one.placement.size, min(float(f"{extent / _ACROSS:.2g}"), 1e4))
        one = one.model_copy(update={"placement": one.placement.model_copy(update={"size": size})})
        if known is not None:
            one = known.model_copy(update={"source": _source(kind, extent)})
        changes: dict[str, Any] = {"displacement_texture": None, "displacement_input": one.model_dump(mode="json")}
        if part.displacement == 0:
            height = min(max(one.placement.size * RELIEF_OF_SIZE, 1e-6), _MOST_BUMP)
            changes["displacement"] = float(f"{height:.2g}")
        patch += [{"op": "replace", "path": f"/parts/{key}/{name}", "value": v} for name, v in changes.items()]
    return Made(kind, f"Displaced by {LABELS[kind].lower()}", patch)


def new_input(material: Material, parameter: Parameter, kind: SourceKind, extent: float) -> MaterialInput:
    """An input around the constant that it joins, of a size that suits a part of some extent [m]."""
    one, value = _begun(kind, extent), getattr(material, parameter)
    if kind in ("picture", "lit_ball"):
        # It is seen as it is: what it stands in for was chosen for want of it.
        return one
    if kind in ("image", "vertex_color"):
        return one.model_copy(update={"combine": "multiply" if isinstance(value, tuple) else "replace"})
    if isinstance(value, tuple):
        dark = tuple(round(DARKER * channel, 5) for channel in value)
        return one.model_copy(update={"ramp": Ramp(stops=(Stop(at=0.0, color=dark), Stop(at=1.0, color=value)))})
    if parameter == "emission_luminance" and value == 0:
        return one.model_copy(update={"high": NEW_GLOW})
    if parameter in ("bump", "emission_luminance"):
        return one.model_copy(update={"combine": "multiply"})
    if parameter == "geometry_opacity" or parameter.endswith("_weight") or parameter == "base_metalness":
        return one
    return one.model_copy(
        update={"low": round(max(value - AROUND, 0.0), 4), "high": round(min(value + AROUND, 1.0), 4)}
    )


def _source(kind: SourceKind, extent: float) -> AnySource:
    """A source whose own measures suit a part of some extent [m]."""
    source = SOURCES[kind]()
    if isinstance(source, WornSource):
        width = min(max(float(f"{extent * WORN_OF_EXTENT:.2g}"), 1e-6), 1e3)
        source = source.model_copy(update={"width": width, "grain": width})
    if isinstance(source, OcclusionSource | DistanceSource):
        reach = min(max(float(f"{extent * NEAR_OF_EXTENT:.2g}"), 1e-6), 1e3)
        source = source.model_copy(update={"reach" if isinstance(source, OcclusionSource) else "none": reach})
    return cast(AnySource, source)


def _begun(kind: SourceKind, extent: float) -> MaterialInput:
    size = max(extent, 1e-5) / REPEATS_ACROSS.get(kind, _ACROSS)
    placement = Placement(kind="uv" if kind == "image" else "box", size=min(max(float(f"{size:.2g}"), 1e-6), 1e4))
    return MaterialInput(source=_source(kind, extent), placement=placement)


def with_layer(scene: Scene, materials: Sequence[str], over: str, extent: float) -> Made:
    """The patch that lays the material `over` on others, at their edges at first; as `with_input`.

    One that has as many layers as it can have, or that is `over` itself, is left as it is.
    """
    fresh = Layer(material=over, mask=_begun("edges", extent))
    patch: list[dict[str, Any]] = []
    for key in materials:
        layers = scene.materials[key].layers
        if key != over and len(layers) < MOST_LAYERS:
            # As a whole: laid twice over a document, a patch must not add two.
            value = [layer.model_dump(mode="json") for layer in (*layers, fresh)]
            patch.append({"op": "replace", "path": f"/materials/{key}/layers", "value": value})
    return Made(over, f"{scene.materials[over].name} over it", patch)


def with_mask(scene: Scene, material: str, number: int, which: LayerInput, kind: SourceKind, extent: float) -> Made:
    """The patch that gives a layer of a material a mask, or what breaks it up; as `with_input`.

    Raises IndexError for a layer that there is not.
    """
    layer = scene.materials[material].layers[number]
    known: MaterialInput | None = getattr(layer, which)
    if known is not None:
        one = known.model_copy(update={"source": _source(kind, extent)})
    else:
        one = _begun(kind, extent).model_copy(update={"combine": "multiply"})
    path = f"/materials/{material}/layers/{number}/{which}"
    patch = [{"op": "replace", "path": path, "value": one.model_dump(mode="json")}]
    return Made(which, f"{LABELS[kind]} for {scene.materials[layer.material].name}", patch)
