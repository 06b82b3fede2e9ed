"""A material of the document as a row of the material table: everything that does not depend on the point.

In: `Material`. Out: rows of `MATERIAL`, `BINDING` and the thin-film table. Called by `compile.compiled`.
"""

import functools
import math
import operator
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from lantern.compile.input_rows import InputRows, Needs, borders
from lantern.compile.operations import (
    FILM_STEPS,
    Laid,
    Stages,
    color_of_decal,
    film_range,
    lay,
    lifted,
    masks_of,
    masks_of_decal,
    needs_of,
    stages_of,
)
from lantern.compile.pictures import Pictures
from lantern.compile.sticking import PlacedDecal, finish_of
from lantern.kernel.spectrum import cauchy
from lantern.pattern.images import BINDING, LINEAR, SRGB
from lantern.pattern.material import BLEND, ENCODED, MASK, MATERIAL, OPAQUE, TEXTURED
from lantern.pattern.tables import CHOOSE, NEEDS_COLOR, NEEDS_PLACE, NEEDS_VIEW
from lantern.scene.decals import PictureContent
from lantern.scene.document import Material
from lantern.scene.inputs import MaterialInput
from lantern.scene.layers import Layer
from lantern.scene.texture_use import TextureUse
from lantern.surface.film import FILM_WIDTH, film_row
from lantern.surface.fresnel import LEAST_IOR, weighted_ior

SHORTEST_DEPTH = 1e-7
"""m: a colour reached sooner is as good as black, and its extinction must stay a float."""
CLAY = 0.4
"""Linear base colour of clay: light enough to show form, dark enough to show shadow."""
WHITE = Material(name="White", base_color=(1.0, 1.0, 1.0), specular_weight=0.0)
"""Perfect, matt: its luminance in cd/m² is the illuminance on it in lx over π."""
NOT_IN_CLAY = (
    "metalness", "transmission", "subsurface", "coat", "fuzz", "covered", "anisotropy", "interior", "cauchy_b",
    "thin_walled", "surface_count", "weighs", "turns_tangent",
)  # fmt: skip
_NEEDED_FOR = {"base_color": ("opacity_needs",), "emission": ("emission_needs",)}
_ALPHA_MODES = {"opaque": OPAQUE, "blend": BLEND, "mask": MASK}


class MaterialRows:
    """The tables of all materials of a scene, rewritten a row at a time."""

    def __init__(self, rooms: Sequence[int], pictures: Pictures) -> None:
        """`rooms` says of each material how many others may lie over it."""
        count = len(rooms)
        # Behind the materials themselves stand those that lie over them, as they are there.
        self._above = count + np.cumsum([0, *rooms])
        self.materials = MATERIAL.zeros(int(self._above[-1]))
        self.bindings = BINDING.zeros(len(TEXTURED) * max(count, 1))
        self.films = np.zeros((max(len(self.materials), 1), FILM_WIDTH), np.float32)
        self._clay: np.ndarray | None = None
        self._measuring: np.ndarray | None = None
        self._film_rows: dict[int, int] = {}
        """First row of the films of a material whose thickness varies."""
        self._pictures = pictures
        self.inputs = InputRows(pictures)

    @property
    def images(self) -> set[int]:
        """Numbers of the images that rows look up."""
        rows = self.materials[: len(self._above) - 1]
        bound = np.concatenate([rows[f"{name}_binding"].ravel() for name in TEXTURED])
        return self.inputs.images | set(self.bindings["image"].ravel()[bound[bound >= 0]].tolist())

    @property
    def has_holes(self) -> bool:
        """Whether some material lets rays through."""
        return bool(self.materials["lets_through"].any())

    @property
    def hides(self) -> bool:
        """Whether the volume of one material may hide the boundary of another."""
        priorities = self.materials["priority"][self.materials["interior"] != 0]
        return len(np.unique(priorities)) > 1

    def write(
        self,
        number: int,
        material: Material,
        over: Sequence[tuple[Layer, Material]] = (),
        decals: Sequence[PlacedDecal] = (),
    ) -> None:
        """Bring row `number` to `material`, whose textures the asset has, with what lies over it, the lowest first."""
        self._clay = self._measuring = None
        row, given = self.materials[number], material
        material = lifted(given)
        self._write_parameters(number, material)
        laid = [self._lay(number, place, layer, other) for place, (layer, other) in enumerate(over)]
        laid += [self._stick(number, place, decal) for place, decal in enumerate(decals, len(over))]
        if laid:
            row["covered"] |= any(other.coat_weight > 0 or other.fuzz_weight > 0 for _, other in over)
            row["covered"] |= any(one.decal.coat > 0 for one in decals)
            row["needs_tangent"] |= any(_is_anisotropic(lifted(other)) for _, other in over)
            row["weighs"] |= any(_weighs(other) for _, other in over)
        stages = self._with_films(number, given, stages_of(given, self._pictures, images=bool(laid)))
        lay(stages, laid, glows=max(row["emission"]) > 0)
        needs = self.inputs.write(number, row, stages)
        self.inputs.write_step(row, given, laid)
        self._write_bindings(number, row, material, needs, is_bare=bool(laid))

    def _write_parameters(self, number: int, material: Material) -> None:
        row, ior = self.materials[number], _weighted_ior(material)
        self._write_base(row, material, ior)
        self._write_layers(row, material)
        self._write_geometry(row, material)
        self._write_volume(row, material)
        self._write_subsurface(row, material)
        self._write_film(number, row, material, ior)

    def _lay(self, number: int, place: int, layer: Layer, material: Material) -> Laid:
        """Write a material as it lies over material `number`: by its look alone, it neither glows nor is a volume."""
        at = int(self._above[number]) + place
        below, row = self.materials[number], self.materials[at]
        changes: dict[str, object] = {"emission_luminance": 0.0}
        if not below["interior"] and not below["thin_walled"]:
            # There is nothing for light to pass into: it is seen by its colour.
            changes["transmission_weight"] = 0.0
        if material.subsurface_weight > 0 and not below["thin_walled"]:
            # The walk under a surface is that of the lowest material: what lies over it is thin.
            below_it = np.array(material.subsurface_color) * material.subsurface_weight
            own = np.array(material.base_color) * material.base_weight * (1 - material.subsurface_weight)
            changes |= {"subsurface_weight": 0.0, "base_color": tuple((own + below_it).tolist()), "base_weight": 1.0}
        inputs = {name: one for name, one in material.inputs.items() if name not in changes and "emission" not in name}
        material = material.model_copy(update={**changes, "inputs": inputs})
        self._write_parameters(at, lifted(material))
        row["interior"], row["lets_through"] = 0, 0
        if material.subsurface_weight == 0:
            # Nothing walks under it: what does so beside it keeps its colour.
            row["subsurface_color"] = below["subsurface_color"]
        stages = self._with_films(at, material, stages_of(material, self._pictures, images=True, holes=True))
        needs = self.inputs.write(at, row, stages)
        bump, opacities = material.inputs.get("bump"), len(stages["opacity"])
        return Laid(
            tuple(masks_of(layer, self._pictures)),
            layer.thickness,
            at,
            look=(int(row["surface_first"]), len(stages["surface"]) + opacities),
            opacity=(int(row["opacity_first"]), opacities),
            height=(int(row["opacity_first"]), opacities + len(stages["bump"])),
            needs=functools.reduce(operator.or_, map(needs_of, layer.inputs()), needs.everything),
            has_height=bump is not None or layer.thickness != 0,
            steps=(*borders(layer), *(() if bump is None else self._metres(bump))),
        )

    def _stick(self, number: int, place: int, placed: PlacedDecal) -> Laid:
        """Write a decal as it lies over material `number`."""
        at, decal = int(self._above[number]) + place, placed.decal
        self._write_parameters(at, finish_of(decal))
        row = self.materials[at]
        row["interior"], row["lets_through"] = 0, 0
        row["subsurface_color"] = self.materials[number]["subsurface_color"]
        stages = stages_of(finish_of(decal), self._pictures)
        if isinstance(decal.content, PictureContent):
            stages["surface"].append(color_of_decal(placed.image, placed.frame))
        needs = self.inputs.write(at, row, stages)
        span, none = (int(row["surface_first"]), len(stages["surface"])), (int(row["opacity_first"]), 0)
        return Laid(
            masks_of_decal(decal, placed.image, placed.frame),
            decal.raised,
            at,
            look=span,
            opacity=none,
            height=none,
            needs=needs.everything | NEEDS_PLACE | NEEDS_VIEW,
            has_height=decal.raised != 0,
            steps=(decal.width / self._pictures.texels(placed.image).shape[1],),
        )

    def _metres(self, bump: MaterialInput) -> tuple[float, ...]:
        step, of_set = self.inputs.bump_step(bump)
        return (step,) if of_set < 0 else ()

    def clay(self) -> np.ndarray:
        """Rows of a neutral material in place of every one; what glows, has holes or a normal map keeps them."""
        if self._clay is None:
            rows = self._clay = self.materials.copy()
            for name in NOT_IN_CLAY:
                rows[name] = 0
            rows["base_color"], rows["diffuse_roughness"], rows["roughness"] = CLAY, 1.0, 0.6
            rows["specular_weight"], rows["specular_color"], rows["ior"] = 1.0, 1.0, 1.5
            rows["film"] = -1
            for name in ("base_color", "metallic_roughness", "transmission"):
                rows[f"{name}_binding"] = -1
        return self._clay

    def measuring(self) -> tuple[np.ndarray, int]:
        """(all rows and that of a perfect matt white, its number)."""
        if self._measuring is None:
            white = MaterialRows([0], self._pictures)
            white.write(0, WHITE)
            self._measuring = np.concatenate([self.materials, white.materials])
        return self._measuring, len(self.materials)

    def _write_base(self, row: np.ndarray, material: Material, ior: float) -> None:
        row["base_color"] = np.array(material.base_color) * material.base_weight
        row["metalness"], row["diffuse_roughness"] = material.base_metalness, material.base_diffuse_roughness
        row["specular_weight"], row["specular_color"] = material.specular_weight, material.specular_color
        row["roughness"], row["anisotropy"] = material.specular_roughness, material.specular_roughness_anisotropy
        # An input says the whole turn.
        row["turns_tangent"], row["tangent_turn"] = "tangent_rotation" in material.inputs, 0.0
        turn = 0.0 if row["turns_tangent"] else math.radians(material.tangent_rotation)
        row["tangent_sine"], row["tangent_cosine"] = math.sin(turn), math.cos(turn)
        row["emission"] = np.array(material.emission_color) * material.emission_luminance
        scale, abbe = material.transmission_dispersion_scale, material.transmission_dispersion_abbe_number
        row["ior"], row["own_ior"] = ior, material.specular_ior
        row["weighs"] = _weighs(material)
        row["cauchy_a"], row["cauchy_b"] = cauchy(ior, abbe, scale if material.transmission_weight > 0 else 0.0)

    def _write_layers(self, row: np.ndarray, material: Material) -> None:
        row["coat"], row["coat_roughness"] = material.coat_weight, material.coat_roughness
        row["coat_anisotropy"], row["coat_darkening"] = material.coat_roughness_anisotropy, material.coat_darkening
        row["coat_ior"], row["coat_color"] = max(material.coat_ior, float(LEAST_IOR)), material.coat_color
        row["fuzz"], row["fuzz_color"] = material.fuzz_weight, material.fuzz_color
        row["fuzz_roughness"] = material.fuzz_roughness
        row["covered"] = material.coat_weight > 0 or material.fuzz_weight > 0

    def _write_geometry(self, row: np.ndarray, material: Material) -> None:
        row["opacity"], row["alpha_mode"] = material.geometry_opacity, _ALPHA_MODES[material.alpha_mode]
        row["alpha_cutoff"], row["normal_scale"] = material.alpha_cutoff, material.normal_scale
        row["coat_normal_scale"] = material.coat_normal_scale
        row["thin_walled"], row["priority"] = material.geometry_thin_walled, material.interior_priority
        row["two_sided"] = material.double_sided or material.geometry_thin_walled
        row["vertex_alpha"] = material.vertex_colors
        varies = material.base_color_texture is not None or material.vertex_colors
        row["lets_through"] = material.geometry_opacity < 1 or (material.alpha_mode != "opaque" and varies)
        mapped = material.normal_texture or material.coat_normal_texture
        row["needs_tangent"] = _is_anisotropic(material) or mapped is not None
        row["tangent_set"] = mapped.uv_set if mapped else 0

    def _write_volume(self, row: np.ndarray, material: Material) -> None:
        """OpenPBR 1.1, section 3.7: the colour is reached at the given depth, σ = -ln T / depth."""
        row["transmission"] = material.transmission_weight
        row["interior"] = material.transmission_weight > 0 and not material.geometry_thin_walled
        depth = material.transmission_depth
        by_depth = depth > 0.0 and not material.geometry_thin_walled
        at_surface = (1.0, 1.0, 1.0) if by_depth else material.transmission_color
        row["tint"] = np.multiply(material.transmission_tint, at_surface)
        row["extinction"], row["albedo"], row["forward"] = 0.0, 0.0, 0.0
        if by_depth:
            extinction = -np.log(np.maximum(np.array(material.transmission_color), 1e-6)) / max(depth, SHORTEST_DEPTH)
            scattering = np.array(material.transmission_scatter) / max(depth, SHORTEST_DEPTH)
            # Where more would be scattered than is lost in all, absorption is raised for all channels alike.
            absorption = extinction - scattering
            absorption += max(-float(absorption.min()), 0.0)
            extinction = absorption + scattering
            row["extinction"] = extinction
            row["albedo"] = np.divide(scattering, extinction, out=np.zeros(3), where=extinction > 0)
            row["forward"] = material.transmission_scatter_anisotropy

    def _write_subsurface(self, row: np.ndarray, material: Material) -> None:
        color, g = np.array(material.subsurface_color), material.subsurface_scatter_anisotropy
        row["subsurface"], row["subsurface_color"] = material.subsurface_weight, color
        row["subsurface_forward"] = (1 + g) / 2
        radius = np.array(material.subsurface_radius_scale) * material.subsurface_radius
        row["walk_extinction"], row["walk_forward"] = 1.0 / np.maximum(radius, 1e-7), min(max(g, -0.99), 0.99)

    def _write_film(self, number: int, row: np.ndarray, material: Material, ior: float) -> None:
        row["film"] = -1
        if material.thin_film_weight > 0 and material.thin_film_thickness > 0:
            row["film"] = number
            self.films[number] = _film(material, material.thin_film_thickness, ior)

    def _with_films(self, number: int, material: Material, stages: Stages) -> Stages:
        """Stages whose thin film finds its rows, where its thickness varies; they stand behind those of one each."""
        one = material.inputs.get("thin_film_thickness")
        if one is None or self.materials[number]["film"] < 0:
            stages["surface"] = [each for each in stages["surface"] if each.into != CHOOSE]
            return stages
        first = self._film_rows.setdefault(number, len(self.films))
        if first + FILM_STEPS > len(self.films):
            self.films = np.concatenate([self.films, np.zeros((FILM_STEPS, FILM_WIDTH), np.float32)])
        thick = np.linspace(*film_range(one, material), FILM_STEPS)
        ior = _weighted_ior(material)
        for place, thickness in enumerate(thick, first):
            self.films[place] = _film(material, float(thickness), ior)
        stages["surface"] = [replace(each, first=first) if each.into == CHOOSE else each for each in stages["surface"]]
        return stages

    def _write_bindings(
        self, number: int, row: np.ndarray, material: Material, of_inputs: Needs, *, is_bare: bool
    ) -> None:
        """Bindings of the textures; a row that `is_bare` has its operations for all but normals and holes."""
        needs = {
            "needs": of_inputs.everything,
            "opacity_needs": of_inputs.opacity,
            "emission_needs": of_inputs.emission,
        }
        for slot, name in enumerate(TEXTURED):
            use: TextureUse | None = getattr(material, f"{name}_texture")
            place = number * len(TEXTURED) + slot
            row[f"{name}_binding"] = place if use else -1
            if use:
                binding = self.bindings[place]
                binding["image"], binding["matrix"], binding["uv_set"] = use.texture, use.matrix, use.uv_set
                binding["decoding"] = SRGB if name in ENCODED else LINEAR
                for of in ("needs", *_NEEDED_FOR.get(name, ())):
                    needs[of] |= 1 << use.uv_set
        row["opacity_binding"] = row["base_color_binding"]
        row["vertex_colors"] = material.vertex_colors and not is_bare
        if is_bare:
            for name in TEXTURED:
                if name not in ("normal", "coat_normal"):
                    row[f"{name}_binding"] = -1
        if material.vertex_colors:
            needs["needs"] |= NEEDS_COLOR
            needs["opacity_needs"] |= NEEDS_COLOR
        if row["covered"]:
            # Light comes from beneath the layers, and what they let through depends on all that is below.
            needs["emission_needs"] = needs["needs"]
        for of, bits in needs.items():
            row[of] = bits


def _film(material: Material, thickness: float, ior: float) -> np.ndarray:
    """A row of the thin-film table for a thickness [µm] of the film on a material."""
    is_metal = material.base_metalness > 0 or "base_metalness" in material.inputs
    varies = material.base_color_texture or material.vertex_colors or "base_color" in material.inputs
    base = tuple(float(c * material.base_weight) for c in material.base_color)
    film_ior, edge = max(material.thin_film_ior, float(LEAST_IOR)), tuple(material.specular_color)
    return _film_row(
        thickness * 1000, film_ior, ior, None if is_metal and varies else base, edge, material.thin_film_weight
    )


@functools.lru_cache(maxsize=1024)
def _film_row(
    thickness: float, film: float, base: float, metal: tuple[float, ...] | None, edge: tuple[float, ...], weight: float
) -> np.ndarray:
    return film_row(thickness, film, base, None if metal is None else np.array(metal), np.array(edge), weight)


def _is_anisotropic(material: Material) -> bool:
    return material.specular_roughness_anisotropy > 0 or material.coat_roughness_anisotropy > 0


def _weighted_ior(material: Material) -> float:
    return float(weighted_ior.py_func(np.float64(material.specular_ior), np.float64(material.specular_weight)))


def _weighs(material: Material) -> bool:
    return "specular_weight" in material.inputs or "specular_ior" in material.inputs
