"""Material variants of a glTF file as a group of variants (`KHR_materials_variants`).

In: the primitives that parts are made of. Out: one group, each of whose variants says what every part wears that has
variants at all. Called by `nodes`.
"""

from typing import Any

from lantern.assets.alternatives import group_of
from lantern.assets.readers.gltf.accessors import AccessorReader
from lantern.assets.readers.gltf.document import Entry
from lantern.scene.document import Part
from lantern.scene.editions import VariantGroup

EXTENSION = "KHR_materials_variants"
GROUP = "Variants of the file"


def others_of(primitive: Entry) -> list[int]:
    """Numbers of the materials that a primitive wears in some variant."""
    return [mapping["material"] for mapping in _mappings(primitive)]


def _mappings(primitive: Entry) -> list[dict[str, Any]]:
    return list((primitive.extensions or {}).get(EXTENSION, {}).get("mappings", []))


class MaterialVariants:
    """Collects, part by part, what the variants of a file have it wear. Raises AssetError for what cannot be used."""

    def __init__(self, document: Entry, reader: AccessorReader, material_keys: list[str]) -> None:
        self._reader, self._material_keys = reader, material_keys
        said = (document.extensions or {}).get(EXTENSION, {})
        self._names = [
            str(each.get("name") or f"Variant {n}")[:200] for n, each in enumerate(said.get("variants", []), 1)
        ]
        self._worn: dict[str, dict[int, str]] = {}

    def take(self, part: str, primitive: Entry) -> None:
        """Note what a part wears in which variants; a primitive without a word of it wears its own in all of them."""
        for mapping in _mappings(primitive):
            for number in mapping["variants"]:
                self._worn.setdefault(part, {})[self._variant(number)] = self._material(mapping["material"])

    def _variant(self, number: Any) -> int:
        if not isinstance(number, int) or not 0 <= number < len(self._names):
            raise self._reader.fail(f"variant {number} is missing")
        return number

    def _material(self, number: Any) -> str:
        if not isinstance(number, int) or not 0 <= number < len(self._material_keys):
            raise self._reader.fail(f"material {number} of a variant is missing")
        return self._material_keys[number]

    def groups(self, parts: dict[str, Part], problems: list[str]) -> dict[str, VariantGroup]:
        """One group, or none. On is what parts wear without a variant: one of the file's, or else one more."""
        if not self._worn or not self._names:
            return {}
        plain = {f"/parts/{key}/material": parts[key].material for key in self._worn}
        said = [
            (name, {f"/parts/{key}/material": worn[number] for key, worn in self._worn.items() if number in worn})
            for number, name in enumerate(self._names)
        ]
        group = group_of(GROUP, said, plain, problems)
        return {"variants-of-the-file": group} if group else {}
