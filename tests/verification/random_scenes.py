"""Random small scenes over all features at once, each from its seed: what agreement is tested on.

In: a seed. Out: a document, an asset, a map, and whether every light in it can be run into by a scattered ray.
"""

from dataclasses import dataclass

import numpy as np

from lantern.assets.imported import ImportedAsset
from lantern.assets.mesh import Mesh
from lantern.assets.textures import Texture
from lantern.scene.document import Camera, Material, Part, PartKey, Rendering, Scene, Shutter
from lantern.scene.lights import Light
from lantern.scene.surroundings import FREE_PATHS_OF_SIGHT, Backdrop, Box, Environment, Ground, Haze, Sky
from lantern.scene.texture_use import TextureUse
from tests.core.shapes import light_of, slab_mesh, sphere_mesh, square_mesh
from tests.verification.random_lighting import LIGHTING, lit
from tests.verification.random_patterns import glowing, patterned, stuck

PATTERNS = 1_000_003
"""What is added to a seed for the patterns of its materials."""
DECALS = 2_000_003
"""The same for its decals, and how its materials glow."""
DTYPES = (np.uint8, np.uint16, np.float16, np.float32)
TEXTURED = (
    "base_color", "metallic_roughness", "normal", "emission", "transmission", "transmission_tint", "coat_normal",
)  # fmt: skip


@dataclass(frozen=True)
class RandomScene:
    """One scene and what may be asked of it."""

    scene: Scene
    asset: ImportedAsset
    environment: np.ndarray
    can_be_met: bool  # no light is a point
    can_be_aimed: (
        bool  # no lobe is so narrow, and no light refracted, that aiming alone would hardly ever find its light
    )


class Chooser:
    """Random choices, named by what they are for."""

    def __init__(self, seed: int) -> None:
        self.generator = np.random.default_rng(seed)

    def chance(self, share: float) -> bool:
        return bool(self.generator.random() < share)

    def number(self, low: float, high: float) -> float:
        return float(self.generator.uniform(low, high))

    def color(self, low: float = 0.0, high: float = 1.0) -> tuple[float, float, float]:
        return tuple(float(c) for c in self.generator.uniform(low, high, 3))

    def one_of(self, *values):
        return values[int(self.generator.integers(len(values)))]

    def place(self, reach: float) -> tuple[float, float, float]:
        return tuple(float(c) for c in self.generator.uniform(-reach, reach, 3))


def _dressed(mesh: Mesh, choose: Chooser) -> Mesh:
    """The mesh with two UV sets and colours of its vertices."""
    flat = mesh.positions[:, [0, 2]] if np.ptp(mesh.positions[:, 1]) == 0 else mesh.positions[:, :2]
    uvs = np.stack([flat * 1.5, flat[:, ::-1] * 4.0 + 0.3]).astype(np.float32)
    colors = choose.generator.uniform(0.3, 1.0, (len(mesh.positions), 4)).astype(np.float32)
    return Mesh(mesh.positions, mesh.indices, mesh.normals, uvs, None, None, colors)


def _texture(choose: Chooser) -> Texture:
    dtype = choose.one_of(*DTYPES)
    shape = choose.one_of(1, 2, 5), choose.one_of(1, 3, 4), choose.one_of(1, 2, 3, 4)
    texels = choose.generator.uniform(0.05, 1.0, shape) ** 2
    if np.dtype(dtype).kind == "u":
        texels = np.rint(texels * np.iinfo(dtype).max)
    texels = texels.astype(dtype)
    if dtype is np.uint8 and texels.shape[2] == 3:
        texels = np.concatenate([texels, np.full((*texels.shape[:2], 1), 255, np.uint8)], axis=2)
    wrap_u, wrap_v = choose.one_of(0, 1, 2), choose.one_of(0, 1, 2)
    return Texture(np.ascontiguousarray(texels), wrap_u, wrap_v, choose.chance(0.3))


def _uses(choose: Chooser, textures: int) -> dict[str, TextureUse]:
    chosen = {}
    for name in TEXTURED:
        if choose.chance(0.35 if name == "emission" else 0.2):
            angle = choose.number(-3, 3)
            c, s = np.cos(angle), np.sin(angle)
            matrix = (float(c), float(s), choose.number(-1, 1), float(-s), float(c), choose.number(-1, 1))
            number = int(choose.generator.integers(textures))
            chosen[f"{name}_texture"] = TextureUse(texture=number, uv_set=choose.one_of(0, 1), matrix=matrix)
    return chosen


WIDE = ("matt", "gloss", "metal", "leaf", "skin")
NARROW = ("glass", "thin", "cloudy", "half", "mirror")


def _lobes(choose: Chooser, *, wide: bool) -> dict[str, object]:
    """Parameters of one kind of surface, and of layers on it."""
    rough = {"specular_roughness": choose.number(0.5 if wide else 0.25, 1.0), "specular_color": choose.color(0.5)}
    kind = choose.one_of(*WIDE, *(() if wide else NARROW))
    fields: dict[str, object] = {"base_color": choose.color(0.1, 0.95), **rough}
    if kind == "matt":
        fields |= {"base_diffuse_roughness": choose.number(0, 1), "specular_ior": 1.0}
    elif kind == "metal":
        fields |= {"base_metalness": choose.one_of(1.0, 0.5)}
    elif kind == "glass":
        fields |= {"transmission_weight": 1.0, "transmission_color": choose.color(0.3)}
        fields |= {"transmission_depth": choose.one_of(0.0, 0.1), "transmission_tint": choose.color(0.7)}
        fields |= {"transmission_dispersion_scale": choose.one_of(0.0, 1.0)}
    elif kind == "thin":
        fields |= {"transmission_weight": choose.number(0.3, 1), "geometry_thin_walled": True}
    elif kind == "leaf":
        fields |= {"subsurface_weight": choose.number(0.3, 1), "geometry_thin_walled": True}
    elif kind == "skin":
        fields |= {"subsurface_weight": choose.number(0.3, 1), "subsurface_color": choose.color(0.2, 0.8)}
        fields |= {"subsurface_radius": choose.number(0.002, 0.05)}
    elif kind == "cloudy":
        fields |= {"transmission_weight": 1.0, "transmission_depth": 0.2, "transmission_color": choose.color(0.4, 0.9)}
        fields |= {
            "transmission_scatter": choose.color(0.0, 0.5),
            "transmission_scatter_anisotropy": choose.number(-0.5, 0.7),
        }
    elif kind == "half":
        fields |= {"transmission_weight": 0.5, "interior_priority": choose.one_of(-1, 0, 1)}
    elif kind == "mirror":
        fields |= {"base_metalness": 1.0, "specular_roughness": 0.0}
    if choose.chance(0.25):
        fields |= {"coat_weight": choose.number(0.3, 1), "coat_roughness": choose.number(0.4 if wide else 0.2, 0.8)}
        fields |= {"coat_color": choose.color(0.4), "coat_roughness_anisotropy": choose.one_of(0.0, 0.6)}
    if choose.chance(0.2):
        fields |= {"fuzz_weight": choose.number(0.2, 1), "fuzz_color": choose.color(0.2), "fuzz_roughness": 0.6}
    if choose.chance(0.15):
        fields |= {"thin_film_weight": 1.0, "thin_film_thickness": choose.number(0.2, 0.8)}
    if choose.chance(0.2):
        fields |= {"specular_roughness_anisotropy": choose.number(0, 0.8), "tangent_rotation": choose.number(0, 90)}
    return fields


def _material(choose: Chooser, textures: int, *, wide: bool) -> Material:
    fields = _lobes(choose, wide=wide) | _uses(choose, textures)
    if wide:
        fields.pop("metallic_roughness_texture", None)
    if choose.chance(0.25):
        fields |= {"emission_luminance": choose.number(3, 15), "emission_color": choose.color(0.2)}
    if choose.chance(0.2):
        fields |= {"geometry_opacity": choose.number(0.2, 0.8)}
    fields |= {
        "alpha_mode": choose.one_of("opaque", "opaque", "blend", "mask"),
        "double_sided": choose.chance(0.4),
        "vertex_colors": choose.chance(0.25),
        "interior_priority": choose.one_of(0, 0, 1),
        "normal_scale": choose.number(0, 0.5),
    }
    return Material(name="m", **fields)


def _matrix(choose: Chooser, reach: float) -> tuple[float, ...]:
    """A random turn, stretch and shift; mirrored now and then."""
    turn, _ = np.linalg.qr(choose.generator.normal(size=(3, 3)))
    if np.linalg.det(turn) < 0 and not choose.chance(0.5):
        turn[:, 0] = -turn[:, 0]
    stretch = np.diag(choose.generator.uniform(0.6, 1.4, 3))
    return tuple(float(v) for v in np.column_stack([turn @ stretch, choose.place(reach)]).ravel())


def _part(choose: Chooser, mesh: int, material: str) -> Part:
    off = 0.15
    matrix = _matrix(choose, 0.25)
    keys: tuple[PartKey, ...] = ()
    if choose.chance(0.12):
        moved = (*matrix[:3], matrix[3] + 0.1, *matrix[4:])
        keys = (PartKey(time=0, matrix=matrix), PartKey(time=1, matrix=moved))
    return Part(
        name="p",
        mesh=mesh,
        material=material,
        matrix=matrix,
        keys=keys,
        seen_by_camera=not choose.chance(off),
        seen_in_reflections=not choose.chance(off),
        casts_shadow=not choose.chance(off),
        receives_shadow=not choose.chance(off),
    )


def _light(choose: Chooser, parts: list[str], *, with_points: bool) -> Light:
    kinds = ("rectangle", "disk", "sphere", "tube", "directional") + (("point", "spot") if with_points else ())
    kind = choose.one_of(*kinds)
    away = np.array(choose.place(1.0))
    away /= np.linalg.norm(away)
    fields: dict[str, object] = {"unit": "lx", "amount": choose.number(0.5, 4)}
    if kind == "directional":
        fields |= {"spread": choose.number(10, 40)}
    drawn = dict(
        name="l",
        position=tuple(float(v) for v in away * choose.number(0.5, 1.2)),
        target=choose.place(0.1),
        width=choose.number(0.2, 0.6),
        height=choose.number(0.2, 0.6),
        radius=choose.number(0.08, 0.25),
        color=choose.color(0.3),
        seen_by_camera=choose.chance(0.5),
        seen_in_reflections=not choose.chance(0.15),
        casts_shadow=not choose.chance(0.15),
        unlit_parts=(choose.one_of(*parts),) if choose.chance(0.2) else (),
        group=choose.one_of("a", "b"),
        **fields,
    )
    return light_of(kind, length=drawn["height"], **drawn)


def _box(choose: Chooser) -> Box | None:
    is_boxed = [choose.chance(0.7), choose.chance(0.9)]
    return Box(low=(-0.5,) * 3, high=(0.5,) * 3) if all(is_boxed) else None


def _map(choose: Chooser) -> np.ndarray:
    """A coarse map with a broad bright side."""
    pixels = choose.generator.uniform(0.0, 1.0, (choose.one_of(4, 8), choose.one_of(8, 16), 3))
    pixels[: choose.one_of(2, 4), : choose.one_of(2, 6)] += choose.number(0, 4)
    return pixels.astype(np.float32)


def random_scene(seed: int) -> RandomScene:
    """The scene of a seed."""
    choose = Chooser(seed)
    wide = choose.chance(0.4)
    with_points = wide and choose.chance(0.5)
    shapes = [sphere_mesh(0.15, 10), square_mesh(0.3), slab_mesh(0.05, 0.2), sphere_mesh(0.3, 12)]
    meshes = [_dressed(mesh, choose) for mesh in shapes]
    textures = [_texture(choose) for _ in range(3)]
    materials = {f"m{i}": _material(choose, len(textures), wide=wide) for i in range(4)}
    count = int(choose.generator.integers(1, 6))
    parts = {
        f"p{i}": _part(choose, int(choose.generator.integers(4)), f"m{choose.one_of(0, 1, 2, 3)}") for i in range(count)
    }
    lights = [_light(choose, list(parts), with_points=with_points) for _ in range(choose.one_of(0, 1, 2, 3))]
    moves = any(part.keys for part in parts.values())
    haze = Haze(
        enabled=choose.chance(0.2), sight=FREE_PATHS_OF_SIGHT * choose.number(0.5, 3), color=choose.color(0.3, 0.95),
        anisotropy=choose.number(-0.4, 0.6), box=_box(choose),
    )  # fmt: skip
    materials = patterned(Chooser(seed + PATTERNS), materials, len(textures), wide=wide)
    of_decals = Chooser(seed + DECALS)
    materials, decals = glowing(of_decals, materials), stuck(of_decals, parts, wide=wide)
    scene = Scene(
        parts=parts,
        materials=materials,
        decals=decals,
        lights={f"l{i}": light for i, light in enumerate(lights)},
        environment=Environment(
            intensity=choose.one_of(0.0, 0.3, 1.0) if lights else 1.0, rotation=choose.number(0, 360)
        ),
        sky=Sky(enabled=choose.chance(0.05), sun=False),
        haze=haze,
        ground=Ground(enabled=choose.chance(0.4), height=-0.3, reflectance=choose.color(0.1, 0.8), reflection=0.1),
        backdrop=Backdrop(kind=choose.one_of("environment", "color")),
        camera=Camera(position=(0.3, 0.4, 1.2), target=(0, 0, 0), focal_length=45, f_number=choose.one_of(None, 2)),
        shutter=Shutter(opens=0, closes=1.0) if moves else Shutter(),
        rendering=Rendering(caustics=choose.one_of("exact", "filtered")),
    )
    scene = lit(Chooser(seed + LIGHTING), scene)
    return RandomScene(
        scene, ImportedAsset("random", "none", meshes, textures=textures), _map(choose), not with_points, wide
    )
