"""Variant sets of a stage as groups of variants: what parts wear, which are shown, how materials differ.

In: an open stage whose chosen variants have been read. Out: groups. Called by `stage`. Each variant is chosen in turn,
above the file's own layers, and what it shows of the parts that there are is compared.
"""

from collections.abc import Callable, Iterator, Mapping
from typing import Any, NamedTuple

from pxr import Usd, UsdGeom, UsdShade

from lantern.assets.alternatives import group_of
from lantern.assets.imported import ImportedAsset
from lantern.assets.keys import unique_key
from lantern.assets.readers.usd.materials import MaterialReader
from lantern.scene.editions import VariantGroup

MOST_SETS = 24
SHOWN = (UsdGeom.Tokens.default_, UsdGeom.Tokens.render)
"""Purposes of what is read."""


class Stood(NamedTuple):
    """Where on the stage a part stands: paths of its prim and of the piece of it to which its material is bound."""

    prim: str
    piece: str


class VariantSets:
    """The variant sets of one stage."""

    def __init__(
        self,
        stage: Usd.Stage,
        asset: ImportedAsset,
        materials: MaterialReader,
        stood: Mapping[str, Stood],
        start: Usd.TimeCode,
    ) -> None:
        self._stage, self._asset, self._materials = stage, asset, materials
        self._stood, self._start = stood, start

    def groups(self) -> dict[str, VariantGroup]:
        """One group for each set in which something that was read differs, in the order of the stage."""
        found: dict[str, VariantGroup] = {}
        sets = list(self._sets())
        if len(sets) > MOST_SETS:
            self._asset.problems.append(f"{len(sets)} variant sets: only those that are chosen are read")
            return {}
        names = [name for _, name in sets]
        for path, name in sets:
            called = name if names.count(name) == 1 else f"{path.rpartition('/')[2]}: {name}"
            group = self._group(path, name, called)
            if group is not None:
                found[unique_key(called, found)] = group
        return found

    def _sets(self) -> Iterator[tuple[str, str]]:
        for prim in Usd.PrimRange.Stage(self._stage):
            for name in prim.GetVariantSets().GetNames():
                if len(prim.GetVariantSet(name).GetVariantNames()) > 1:
                    yield str(prim.GetPath()), name

    def _group(self, path: str, name: str, called: str) -> VariantGroup | None:
        said, others = [], set()
        for variant in self._stage.GetPrimAtPath(path).GetVariantSet(name).GetVariantNames():
            with Usd.EditContext(self._stage, self._stage.GetSessionLayer()):
                self._stage.GetPrimAtPath(path).GetVariantSet(name).SetVariantSelection(variant)
            said.append((variant, self._values()))
            others |= self._surfaces()
        with Usd.EditContext(self._stage, self._stage.GetSessionLayer()):
            self._stage.GetPrimAtPath(path).GetVariantSet(name).ClearVariantSelection()
        if extra := others - {stood.prim for stood in self._stood.values()}:
            self._asset.problems.append(f"{called}: what {len(extra)} surfaces have in other variants alone")
        plain = self._plain({place for _, values in said for place in values})
        differing = {
            place for place, value in plain.items() if any(values.get(place, value) != value for _, values in said)
        }
        if not differing:
            return None
        return group_of(
            called,
            [
                (variant, {place: value for place, value in values.items() if place in differing})
                for variant, values in said
            ],
            {place: plain[place] for place in differing},
            self._asset.problems,
        )

    def _surfaces(self) -> set[str]:
        """Paths of what is a surface and is shown now."""
        every = Usd.PrimRange.Stage(self._stage)
        return {str(prim.GetPath()) for prim in every if prim.IsA(UsdGeom.Gprim) and self._is_shown(prim)}

    def _is_shown(self, prim: Usd.Prim) -> bool:
        image = UsdGeom.Imageable(prim)
        hidden = image.ComputeVisibility(self._start) == UsdGeom.Tokens.invisible
        return not hidden and image.ComputePurpose() in SHOWN

    def _values(self) -> dict[str, Any]:
        """What the stage says now, by places: of parts, and of the materials that they wear."""
        values: dict[str, Any] = {}
        for key, stood in self._stood.items():
            prim = self._stage.GetPrimAtPath(stood.prim)
            is_there = bool(prim) and prim.IsActive() and self._is_shown(prim)
            values[f"/parts/{key}/visible"] = is_there
            if is_there and (bound := bound_material(self._stage.GetPrimAtPath(stood.piece), prim)):
                material = self._materials.key_of(bound)
                values[f"/parts/{key}/material"] = material
                place = f"/materials/{material}"
                if place not in values:
                    values[place] = self._dumped(self._materials.as_now(bound), material)
        return values

    def _dumped(self, material: Any, key: str) -> Any:
        """A material as the document has it, called and tinted as the one that is known."""
        known = self._asset.materials[key]
        same = {"name": known.name, "vertex_colors": known.vertex_colors}
        return material.model_copy(update=same).model_dump(mode="json")

    def _plain(self, places: set[str]) -> dict[str, Any]:
        parts, materials = self._asset.parts, self._asset.materials
        said: dict[str, Callable[[str], Any]] = {
            "visible": lambda key: parts[key].visible,
            "material": lambda key: parts[key].material,
        }
        plain = {}
        for place in sorted(places):
            _, section, key, *field = place.split("/")
            plain[place] = materials[key].model_dump(mode="json") if section == "materials" else said[field[0]](key)
        return plain


def bound_material(*prims: Usd.Prim) -> UsdShade.Material | None:
    """The material of the first prim that has one."""
    for prim in prims:
        bound, _ = UsdShade.MaterialBindingAPI(prim).ComputeBoundMaterial() if prim else (None, None)
        if bound:
            return bound
    return None
