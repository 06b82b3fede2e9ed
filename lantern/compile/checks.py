"""What a document may refer to in its asset, asked before any table is touched: a refused edit leaves nothing behind.

In: a document and what its asset holds. Raises SceneError. Called by `compile.compiled`.
"""

from collections.abc import Iterator

from lantern.compile.changes import touched
from lantern.scene.document import Material, Scene
from lantern.scene.reading import SceneError
from lantern.scene.sources import ImageSource, PatternSource
from lantern.scene.texture_use import TextureUse

MOST_LINKS = 31
"""Different choices of unlit parts: each is a bit of a part's row."""


_MAPS = [name for name in Material.model_fields if name.endswith("_texture")]


def texture_uses(material: Material) -> Iterator[tuple[str, TextureUse]]:
    """(field, use) of every texture of a material."""
    for name in _MAPS:
        use: TextureUse | None = getattr(material, name)
        if use is not None:
            yield name, use


def check(scene: Scene, meshes: int, textures: int, before: Scene | None = None) -> None:
    """Raise SceneError, with the path of the field, where a document asks for what an asset does not have.

    What it has in common with the document `before`, which was checked, is not looked at again.
    """
    for _, key, _, part in touched(before.parts if before else {}, scene.parts):
        for number in () if part.form else (part.mesh, *(piece.mesh for piece in part.pieces)):
            if number >= meshes:
                raise SceneError(f"parts/{key}/mesh: the asset has {meshes} meshes, there is no number {number}")
        pattern = part.displacement_input
        if pattern is not None and not isinstance(pattern.source, PatternSource):
            raise SceneError(
                f"parts/{key}/displacement_input/source: a {pattern.source.kind} is no pattern to displace by"
            )
        mask = part.strewn.mask if part.strewn else None
        for field, use in (("displacement_texture", part.displacement_texture), ("strewn/mask", mask)):
            if use is not None and use.file is not None:
                raise SceneError(f"parts/{key}/{field}/file: only an image of the asset can be taken here")
            if use is not None and use.texture >= textures:
                raise SceneError(
                    f"parts/{key}/{field}: the asset has {textures} textures, there is no number {use.texture}"
                )
    for _, key, _, material in touched(before.materials if before else {}, scene.materials):
        for field, use in texture_uses(material):
            if use.file is None and use.texture >= textures:
                raise SceneError(
                    f"materials/{key}/{field}: the asset has {textures} textures, there is no number {use.texture}"
                )
        for name, one in material.inputs.items():
            if isinstance(one.source, ImageSource) and one.source.texture >= textures:
                raise SceneError(
                    f"materials/{key}/inputs/{name}/source: the asset has {textures} textures, there is no number "
                    f"{one.source.texture}"
                )
    links = {light.unlit_parts for light in scene.lights.values() if light.enabled and light.unlit_parts}
    if len(links) > MOST_LINKS:
        raise SceneError(f"lights: {len(links)} different choices of unlit parts, at most {MOST_LINKS} are possible")
