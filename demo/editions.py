"""The lantern in three editions, as one project: what its body is made of, its strap, and what goes together.

In: the opening document of the demo and its finishes. Out: a document with variants and editions. Called by what fills
the demo account, and by `takes`.
"""

from collections.abc import Callable, Mapping
from pathlib import Path

from demo.finishes import FINISHES, LANTERN, finished
from demo.project import opening_demo
from lantern.scene import variants
from lantern.scene.document import Scene
from lantern.scene.editions import Exclusion
from lantern.scene.making import Made
from lantern.scene.model import FileRef
from lantern.scene.patching import apply_operations
from lantern.scene.reading import read_scene

PROJECT_NAME = f"{LANTERN} in three editions"
STRAP = "carry-strap"
BODIES = {"Brass & Cognac": "Brass", "Blackened Steel & Ink": "Blackened steel", "Porcelain & Moss": "Porcelain"}
STRAPS = {"Brass & Cognac": "Cognac", "Blackened Steel & Ink": "Ink", "Porcelain & Moss": "Moss"}
"""What the variants of body and strap are called, by the finish that they come from."""


def edition_demo() -> tuple[Scene, Callable[[FileRef], Path]]:
    """The document of the project, and a function that finds its files."""
    opening, resolve = opening_demo()
    return with_editions(opening), resolve


def with_editions(opening: Scene) -> Scene:
    """A document of the lantern with its bodies and straps as variants, made as a person makes them."""
    first, *others = FINISHES
    looks = {name: finished(opening, name) for name in FINISHES}
    materials = {key: one for look in looks.values() for key, one in look.materials.items()}
    scene = opening.model_copy(
        update={"materials": materials, "parts": looks[first].parts, "decals": looks[first].decals}
    )
    body = {key for key in scene.parts if key != STRAP}
    scene = _grouped(scene, "Body", BODIES, {name: _worn(scene, looks[name], body) for name in others})
    scene = _grouped(scene, "Strap", STRAPS, {name: _worn(scene, looks[name], {STRAP}, False) for name in others})
    scene = _with_rule(scene, BODIES["Porcelain & Moss"], STRAPS["Blackened Steel & Ink"])
    for name in FINISHES:
        choice = {
            key: _variant(scene, key, names[name])
            for key, names in zip(scene.variant_groups, (BODIES, STRAPS), strict=True)
        }
        scene = _done(scene, variants.taken(scene, choice))
        scene = _done(scene, variants.kept_edition(scene, name))
    return _done(scene, variants.edition_taken(scene, variants.edition_order(scene)[0]))


def _done(scene: Scene, made: Made) -> Scene:
    return read_scene(apply_operations(scene.plain(), made.patch)[0])


def _worn(scene: Scene, look: Scene, keys: set[str], lettered: bool = True) -> Scene:
    """A document in which some parts wear what they do in another, with the lettering of that one if wanted."""
    parts = {
        key: part.model_copy(update={"material": look.parts[key].material}) if key in keys else part
        for key, part in scene.parts.items()
    }
    return scene.model_copy(update={"parts": parts, "decals": look.decals if lettered else scene.decals})


def _grouped(scene: Scene, title: str, names: Mapping[str, str], worn: Mapping[str, Scene]) -> Scene:
    """A document with a group more: what is there, and what is worn in others."""
    made = variants.begun(scene)
    key, before = made.key, _done(scene, made)
    first, *_ = names.values()
    scene = before
    for name, one in worn.items():
        dressed = scene.model_copy(update={"parts": one.parts, "decals": one.decals})
        scene = _done(dressed, variants.kept(scene, dressed, key, names[name]))
    group = scene.variant_groups[key]
    renamed = {"variant-1": group.variants["variant-1"].model_copy(update={"name": first})}
    group = group.model_copy(update={"name": title, "variants": group.variants | renamed})
    return _done(
        scene.model_copy(update={"variant_groups": {**scene.variant_groups, key: group}}),
        variants.taken(scene, {key: "variant-1"}),
    )


def _variant(scene: Scene, group: str, name: str) -> str:
    return next(key for key, one in scene.variant_groups[group].variants.items() if one.name == name)


def _with_rule(scene: Scene, body: str, strap: str) -> Scene:
    """No dark strap on the porcelain: it rubs off."""
    first, second = scene.variant_groups
    rule = Exclusion(together={first: _variant(scene, first, body), second: _variant(scene, second, strap)})
    return scene.model_copy(update={"exclusions": (*scene.exclusions, rule)})
