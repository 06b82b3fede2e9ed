"""The meshes that the parts of a document are shown as: those of its asset, finer ones of them, and bodies made here.

In: the meshes and textures of an asset, a document. Out: one list of meshes and the number of each part's. Called by
`compiled`. What was made is kept while some part is shown as it.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from lantern.assets.faults import Fault, fault_lines
from lantern.assets.mesh import Mesh
from lantern.assets.textures import Texture
from lantern.compile.changes import touched
from lantern.compile.fitting import fitted_level, long_edge
from lantern.compile.heights import heights
from lantern.motion.bounds import mesh_boxes
from lantern.motion.poses import part_poses
from lantern.scene.document import MeshPiece, Part, Scene
from lantern.scene.placing import Places, affine
from lantern.shaping.density import BYTES_A_TRIANGLE, MOST_TRIANGLES, Density, Shaper
from lantern.shaping.displacing import Relief
from lantern.shaping.forms import form_mesh
from lantern.shaping.pieces import components, joined, piece_of

MOST_IN_PROOF = MOST_TRIANGLES // 3
"""Of one mesh in the proof: somebody is waiting for it."""
MOST_MADE = 2 * MOST_TRIANGLES
"""Triangles of all meshes together that are made finer."""
MOST_SMOOTHED = MOST_TRIANGLES // 2
"""Triangles of a mesh as it came whose faces are looked at at all."""
LEVEL = 4
"""Triangles that a step makes of one."""


Source = int | tuple[MeshPiece, ...]
"""What a part is made of before it is made finer: a mesh of the asset by its number, or pieces of some."""


def source_of(part: Part) -> Source:
    """What a part without a form is made of."""
    return part.pieces or part.mesh


def shape_of(part: Part) -> tuple[object, ...]:
    """Everything of a part that its mesh depends on."""
    if part.form is not None:
        return (part.form,)
    if part.subdivision == "none" and not _has_relief(part) and part.crease_angle is None:
        return (source_of(part),)
    return (
        source_of(part), part.subdivision, part.levels, part.print_levels, part.edge_pixels, part.crease_angle,
        part.displacement, part.displacement_middle, part.displacement_along, part.displacement_texture,
        part.displacement_input, part.size, part.matrix, part.keys, part.group,
    )  # fmt: skip


def same_shapes(before: Scene, after: Scene) -> bool:
    """Whether two documents have the same parts, of the same shapes."""
    sizes = [(scene.asset.scale if scene.asset else 1.0, scene.part_groups) for scene in (before, after)]
    if list(before.parts) != list(after.parts):
        return False
    if sizes[0] != sizes[1] and any(map(_is_displaced, after.parts.values())):
        return False
    return all(old and shape_of(part) == shape_of(old) for _, _, old, part in touched(before.parts, after.parts))


def _has_relief(part: Part) -> bool:
    return part.displacement_texture is not None or part.displacement_input is not None


def _is_displaced(part: Part) -> bool:
    return _has_relief(part) and part.displacement != 0


def density_of(part: Part, *, final: bool, level: int | None = None) -> Density | None:
    """How fine and how smooth a part is to be, in the print or in the proof, or at a level; None as it came."""
    if part.subdivision == "none":
        return None if part.crease_angle is None else Density(None, 0, part.crease_angle)
    return Density(part.subdivision, _levels(part, final=final) if level is None else level, part.crease_angle)


def _levels(part: Part, *, final: bool) -> int:
    return part.print_levels if final and part.print_levels is not None else part.levels


def relief_of(part: Part, places: Places) -> Relief | None:
    """How far a part is displaced in its mesh's own space."""
    if not _is_displaced(part):
        return None
    rows = np.array(part.keys[0].matrix if part.keys else part.matrix).reshape(3, 4)[:, :3]
    scale = abs(float(np.linalg.det(places.over(part)[:3, :3] @ rows))) ** (1 / 3)
    if scale < 1e-12:
        return None
    height = part.displacement / scale
    middle, pattern = part.displacement_middle, part.displacement_input
    if part.displacement_texture is not None:
        return Relief(part.displacement_texture, height, middle, part.displacement_along)
    return Relief(None, height, middle, "normal", pattern, scale)


def _most(*, final: bool) -> int:
    return MOST_TRIANGLES if final else MOST_IN_PROOF


def _held(density: Density, mesh: Mesh, shaper: Shaper, most: int) -> Density | None:
    """The finest density up to a wanted one that has no more triangles than that; None when not even one level fits."""
    # A level makes four triangles of one: what is beyond that is not even looked at.
    if density.scheme is not None and LEVEL * mesh.triangles > most:
        return None
    while density.levels > 1 and shaper.triangles(density) > most:
        density = replace(density, levels=density.levels - 1)
    return density


@dataclass(frozen=True)
class Foreseen:
    """Triangles of parts, each counted, and the memory that their meshes take, each mesh once."""

    brought: int = 0
    proof: int = 0
    print: int = 0
    bytes: int = 0  # in the print


class Stock:
    """The asset's meshes, followed by the others. `final` makes them as the print has them."""

    def __init__(
        self, meshes: Sequence[Mesh], scene: Scene, textures: Sequence[Texture] = (), *, final: bool = False
    ) -> None:
        self._own, self._own_boxes = list(meshes), mesh_boxes(meshes)
        self.textures, self._final = textures, final
        self._shapers: dict[Source, Shaper] = {}
        self._counters: dict[Source, Shaper] = {}
        """Of meshes that were only counted."""
        self._made: dict[object, Mesh] = {}
        self._components: dict[int, np.ndarray] = {}
        """Of meshes that are cut apart, the piece of each triangle."""
        self._pieced: dict[tuple[MeshPiece, ...], Mesh] = {}
        self._faults: dict[tuple[Source, Fault], np.ndarray] = {}
        """Lines of the kind that was shown last."""
        self._edges: dict[Source, tuple[float, np.ndarray]] = {}
        """Of what is refined by its size in the picture, how long its edges are, and its box."""
        self._fitted: dict[str, int] = {}
        """Levels of the parts that are refined so."""
        self.meshes: list[Mesh] = []
        self.boxes: list[np.ndarray] = []
        """(8, 3) corners of the box around each mesh [m]."""
        self.numbers: list[int] = []
        """The mesh of each part, in the order of the document."""
        self.problems: list[str] = []
        """What of the document's wishes could not be had."""
        self.bring(scene)

    def bring(self, scene: Scene) -> None:
        """Bring meshes and numbers to another document of the same asset."""
        self._places = Places.of(scene)
        self._fitted = self._fit(scene, scene.parts, final=self._final)
        self.problems, self._left = [], MOST_MADE
        made: dict[object, Mesh] = {}
        wanted: dict[Source, set[Density | None]] = {}
        places: dict[object, int] = {}
        numbers: dict[object, int] = {}
        levels = [self._fitted.get(key) for key in scene.parts]
        shapes = [(*shape_of(part), level) for part, level in zip(scene.parts.values(), levels, strict=True)]
        for shape, level, part in zip(shapes, levels, scene.parts.values(), strict=True):
            if shape in numbers:
                continue
            key, mesh = self._shown(part, level, wanted)
            if mesh is None:
                numbers[shape] = part.mesh
                continue
            made[key] = mesh
            numbers[shape] = places.setdefault(key, len(self._own) + len(places))
        self.numbers = [numbers[shape] for shape in shapes]
        self._made, self.meshes = made, [*self._own, *made.values()]
        self.boxes = [*self._own_boxes, *mesh_boxes(list(made.values()))]
        self._shapers = {source: shaper for source, shaper in self._shapers.items() if source in wanted}
        for source, densities in wanted.items():
            self._shapers[source].keep(densities)
        worn = {part.pieces for part in scene.parts.values() if part.pieces}
        self._pieced = {pieces: mesh for pieces, mesh in self._pieced.items() if pieces in worn}

    def fits(self, scene: Scene) -> bool:
        """Whether a document with the same shapes needs no other levels than there are."""
        return not self._fitted or self._fit(scene, self._fitted, final=self._final) == self._fitted

    def _fit(self, scene: Scene, keys: Iterable[str], *, final: bool) -> dict[str, int]:
        """Levels of the parts, of some, that are refined by their size in the picture."""
        places, levels = Places.of(scene), {}
        for key in keys:
            part = scene.parts[key]
            if part.edge_pixels is None or part.subdivision == "none" or part.form is not None:
                continue
            if part.strewn is not None:
                continue  # its copies are near and far, and one mesh
            source, most = source_of(part), _levels(part, final=final)
            if source not in self._edges:
                own = self._own_of(source)
                self._edges[source] = long_edge(own), mesh_boxes([own])[0]
            edge, box = self._edges[source]
            poses = part_poses(part, scene.shutter, places)
            levels[key] = fitted_level(scene, part.edge_pixels, edge, box, poses, most)
        return levels

    def _own_of(self, source: Source) -> Mesh:
        """The mesh of what a part is made of."""
        if isinstance(source, int):
            return self._own[source]
        if source not in self._pieced:
            cut = [(self._cut(piece), piece.matrix) for piece in source]
            plain = len(cut) == 1 and cut[0][1] == (1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0)
            self._pieced[source] = cut[0][0] if plain else joined([(mesh, affine(rows)) for mesh, rows in cut])
        return self._pieced[source]

    def _cut(self, piece: MeshPiece) -> Mesh:
        mesh = self._own[piece.mesh]
        if piece.component is None:
            return mesh
        if piece.mesh not in self._components:
            self._components[piece.mesh] = components(mesh)
        return piece_of(mesh, self._components[piece.mesh] == piece.component)

    def _shown(
        self, part: Part, level: int | None, wanted: dict[Source, set[Density | None]]
    ) -> tuple[object, Mesh | None]:
        """What tells a part's mesh from others, and the mesh; None for one of the asset's own."""
        if part.form is not None:
            return part.form, self._made.get(part.form) or form_mesh(part.form)
        density, relief = density_of(part, final=self._final, level=level), relief_of(part, self._places)
        source = source_of(part)
        own = self._own_of(source)
        as_it_came = (source,), None if isinstance(source, int) else own
        if density is None and relief is None:
            return as_it_came
        if own.shapes is not None:
            self.problems.append(f"{part.name}: it changes its shape, and is shown as it came")
            return as_it_came
        if relief is not None and relief.texture and (own.uvs is None or relief.texture.uv_set >= len(own.uvs)):
            self.problems.append(f"{part.name}: it has no texture coordinates by which it could be displaced")
            relief = None
        if own.triangles > MOST_SMOOTHED:
            self.problems.append(f"{part.name}: it has too many triangles to be made finer, smoothed or displaced")
            return as_it_came
        shaper = self._shapers.setdefault(source, Shaper(own))
        if density is not None:
            density = self._within(part, density, own, shaper)
        if density is None and relief is None:
            wanted.setdefault(source, set())
            return as_it_came
        wanted.setdefault(source, set()).add(density)
        key = source, density, relief
        return key, self._made.get(key) or shaper.shaped(density, relief, self.textures, heights)

    def _within(self, part: Part, density: Density, mesh: Mesh, shaper: Shaper) -> Density | None:
        held = _held(density, mesh, shaper, min(_most(final=self._final), self._left))
        self._left -= 0 if held is None else shaper.triangles(held)
        if held != density:
            triangles = mesh.triangles * LEVEL**density.levels if held is None else shaper.triangles(density)
            self.problems.append(
                f"{part.name}: {density.levels} levels would be {triangles / 1e6:.0f} million triangles and "
                f"{triangles * BYTES_A_TRIANGLE / 1e9:.1f} GB; {held.levels if held else 'none'} are shown"
            )
        return held

    def surface_of(self, part: Part, number: int) -> Mesh:
        """The mesh of a part for others to be strewn over, where it is shown as mesh `number`: that of the proof.

        So that they lie in the print where they lay in the proof, whose triangles are others.
        """
        shown = self.meshes[number]
        density = density_of(part, final=False)
        if not self._final or density == density_of(part, final=True) or shown.shapes is not None:
            return shown
        shaper = self._shapers.get(source_of(part))
        held = None if shaper is None or density is None else _held(density, shown, shaper, MOST_IN_PROOF)
        return (
            shown
            if shaper is None or held is None
            else shaper.shaped(held, relief_of(part, self._places), self.textures, heights)
        )

    def fault_lines(self, part: Part, kind: Fault) -> np.ndarray:
        """(n, 2, 3) lines that show the faults of a kind in what a part is made of, in its mesh's space."""
        source = source_of(part)
        if (source, kind) not in self._faults:
            self._faults = {of: lines for of, lines in self._faults.items() if of[1] == kind}
            self._faults[source, kind] = fault_lines(self._own_of(source), kind)
        return self._faults[source, kind]

    def foreseen(self, scene: Scene, keys: Iterable[str]) -> Foreseen:
        """How many triangles some parts came with, and will have in proof and print, as far as they can be held."""
        total = Foreseen()
        counted: set[object] = set()
        fitted = [self._fit(scene, keys, final=final) for final in (False, True)]
        for key in keys:
            part = scene.parts[key]
            brought = (form_mesh(part.form) if part.form else self._own_of(source_of(part))).triangles
            proof, printed = (self._count(part, brought, final=n, level=fitted[n].get(key)) for n in (False, True))
            shape = (*shape_of(part), fitted[True].get(key))
            held = 0 if shape in counted else printed * BYTES_A_TRIANGLE
            counted.add(shape)
            total = Foreseen(total.brought + brought, total.proof + proof, total.print + printed, total.bytes + held)
        return total

    def _count(self, part: Part, brought: int, *, final: bool, level: int | None) -> int:
        density = density_of(part, final=final, level=level)
        if part.form is not None or density is None or brought > MOST_SMOOTHED:
            return brought
        source = source_of(part)
        own = self._own_of(source)
        shaper = self._shapers.get(source) or self._counters.setdefault(source, Shaper(own))
        held = _held(density, own, shaper, _most(final=final))
        return brought if held is None else shaper.triangles(held)
