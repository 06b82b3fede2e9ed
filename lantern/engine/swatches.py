"""Swatches: the picture of one material on a pebble, for the shelf; followed by the same paths as the proof.

In: a material and the textures of its asset. Out: a picture for display. Called by the render host between two passes
of a proof, so it stops at any pixel and goes on there.
"""

from collections.abc import Iterable, Mapping
from dataclasses import replace

import numpy as np

from lantern.assets.imported import ImportedAsset
from lantern.assets.mesh import Mesh
from lantern.assets.textures import Texture
from lantern.compile.checks import texture_uses
from lantern.engine.engine import Engine
from lantern.engine.own_images import Resolver, no_files
from lantern.film.film import Film
from lantern.picture.develop import display_rgb
from lantern.scene.document import Camera, Material, Part, Rendering, Scene
from lantern.scene.forms import BoxForm
from lantern.scene.inputs import MaterialInput, with_texture, with_textures
from lantern.scene.layers import with_inputs
from lantern.scene.lights import RectangleLight
from lantern.scene.look import Look
from lantern.scene.sources import WornSource
from lantern.scene.surroundings import Environment, Ground

WIDTH, HEIGHT = 168, 96
SAMPLES = 8
LARGEST_TEXTURE = 256
"""Texels along a side: a swatch shows no more."""
EXPOSURE = 0.5
_PEBBLE = Part(name="pebble", mesh=0, material="shown")
_EDGED = Part(
    name="block", form=BoxForm(width=0.052, height=0.034, depth=0.036, edge=0.0006), material="shown",
    offset=(0.0, -0.019, 0.0), turn_y=32.0,
)  # fmt: skip
"""What is worn at its edges is shown on something that has some."""
BRIGHTEST_GLOW = 1.0
"""cd/m² that a swatch shows of a glowing material: its colour is still to be seen."""
_HALF = np.array([0.033, 0.019, 0.02])
"""Half the size of the pebble [m]."""
_SQUARE = 0.62
"""Exponent of the superellipsoid: 1 is an ellipsoid, 0 a box (Barr, "Superquadrics and Angle-Preserving
Transformations", IEEE CG&A 1(1), 1981)."""
_RINGS, _SECTORS = 48, 96


def _power(value: np.ndarray, exponent: float) -> np.ndarray:
    return np.sign(value) * np.abs(value) ** exponent


def _pebble() -> Mesh:
    """A superellipsoid; the half that faces the camera shows a map twice across and once down."""
    down, around = np.meshgrid(np.linspace(-0.5, 0.5, _RINGS + 1), np.linspace(-1, 1, _SECTORS + 1), indexing="ij")
    latitude, longitude = np.pi * down, np.pi * around

    def surface(exponent: float) -> np.ndarray:
        across = _power(np.cos(latitude), exponent)
        return np.stack(
            [
                across * _power(np.sin(longitude), exponent),
                _power(np.sin(latitude), exponent),
                across * _power(np.cos(longitude), exponent),
            ],
            axis=-1,
        )

    positions = surface(_SQUARE) * _HALF
    normals = surface(2 - _SQUARE) / _HALF
    normals /= np.linalg.norm(normals, axis=-1, keepdims=True)
    uvs = np.stack([2 * around, 0.5 - down], axis=-1)
    ring, sector = np.meshgrid(np.arange(_RINGS), np.arange(_SECTORS), indexing="ij")
    first = (ring * (_SECTORS + 1) + sector).ravel()
    above = first + _SECTORS + 1
    indices = np.concatenate(
        [np.stack([first, first + 1, above], 1), np.stack([first + 1, above + 1, above], 1)]
    ).astype(np.uint32)
    return Mesh(
        positions.reshape(-1, 3).astype(np.float32),
        indices,
        normals.reshape(-1, 3).astype(np.float32),
        uvs.reshape(1, -1, 2).astype(np.float32),
        None,
    )


def _board(corner: tuple[float, float, float], a: tuple[float, float, float], b: tuple[float, float, float]) -> Mesh:
    """A flat board from a corner along two edges, facing a × b."""
    p, u, v = (np.array(x, np.float32) for x in (corner, a, b))
    normal = np.cross(u, v)
    normals = np.tile(normal / np.linalg.norm(normal), (4, 1)).astype(np.float32)
    return Mesh(
        np.stack([p, p + u, p + u + v, p + v]), np.array([[0, 1, 2], [0, 2, 3]], np.uint32), normals, None, None
    )


_MESHES = [
    _pebble(),
    _board((-0.5, -float(_HALF[1]), 0.3), (1, 0, 0), (0, 0, -0.37)),  # the table
    _board((-0.5, -float(_HALF[1]), -0.07), (1, 0, 0), (0, 0.3, 0)),  # the wall behind
    # Two stripes that stand behind the pebble and are seen through glass alone.
    _board((-0.019, -float(_HALF[1]), -0.03), (0.011, 0, 0), (0, 0.026, 0)),
    _board((0.008, -float(_HALF[1]), -0.03), (0.011, 0, 0), (0, 0.026, 0)),
]
_STUDIO = Scene(
    environment=Environment(intensity=0.6),
    ground=Ground(enabled=False),
    lights={
        "above": RectangleLight(
            name="above", position=(-0.12, 0.3, 0.16), target=(0, 0, 0), width=0.3, height=0.12, unit="cd/m²", amount=9
        ),
        "beside": RectangleLight(
            name="beside", position=(0.3, 0.06, 0.12), target=(0, 0, 0), width=0.06, height=0.3, unit="cd/m²", amount=7
        ),
    },
    camera=Camera(position=(0, 0.055, 0.34), target=(0, -0.001, 0), focal_length=150),
    rendering=Rendering(caustics="filtered", caustic_roughness=0.3),
)


def _shrunk(whole: Texture) -> Texture:
    """A texture of at most LARGEST_TEXTURE texels a side, each the mean of what it covers."""
    height, width = whole.texels.shape[:2]
    step = -(-max(height, width) // LARGEST_TEXTURE)
    if step == 1:
        return whole
    rows, columns = np.arange(0, height, step), np.arange(0, width, step)
    sums = np.add.reduceat(np.add.reduceat(whole.texels.astype(np.float32), rows, 0), columns, 1)
    counts = np.outer(np.diff(np.append(rows, height)), np.diff(np.append(columns, width)))
    means = sums / counts[..., None]
    rounded = np.rint(means) if whole.texels.dtype.kind == "u" else means
    return replace(whole, texels=np.ascontiguousarray(rounded.astype(whole.texels.dtype)))


def _on_the_pebble(one: MaterialInput) -> MaterialInput:
    """An input that goes by the one set of coordinates that the pebble has, or about its middle."""
    return one.model_copy(update={"placement": one.placement.model_copy(update={"uv_set": 0})})


def _fitting(material: Material, textures: list[Texture], kept: list[Texture]) -> Material:
    """The material with the textures that it uses alone, as small as a swatch needs them, added to those `kept`."""

    def keep(number: int) -> int | None:
        if number >= len(textures):
            return None
        kept.append(_shrunk(textures[number]))
        return len(kept) - 1

    changes: dict[str, object] = {"emission_luminance": min(material.emission_luminance, BRIGHTEST_GLOW)}
    glow = material.inputs.get("emission_luminance")
    most = max(material.emission_luminance, 0.0 if glow is None else glow.high)
    if glow is not None and most > BRIGHTEST_GLOW:
        less = BRIGHTEST_GLOW / most
        dimmed = glow.model_copy(update={"low": glow.low * less, "high": glow.high * less})
        changes["emission_luminance"] = material.emission_luminance * less
        material = material.model_copy(update={"inputs": {**material.inputs, "emission_luminance": dimmed}})
    for name, use in texture_uses(material):
        if use.file is not None:
            changes[name] = use.model_copy(update={"uv_set": 0})
            continue
        number = keep(use.texture)
        changes[name] = None if number is None else use.model_copy(update={"texture": number, "uv_set": 0})

    def lay(one: MaterialInput) -> MaterialInput | None:
        found = with_texture(one, keep)
        return None if found is None else _on_the_pebble(found)

    changes["inputs"] = {name: _on_the_pebble(one) for name, one in with_textures(material.inputs, keep).items()}
    changes["layers"] = with_inputs(material.layers, lay)
    return material.model_copy(update=changes)


def _asks_for_edges(materials: Iterable[Material]) -> bool:
    inputs = (one for material in materials for one in (*material.inputs.values(), *_masks(material)))
    return any(isinstance(one.source, WornSource) for one in inputs)


def _masks(material: Material) -> list[MaterialInput]:
    return [one for layer in material.layers for one in layer.inputs()]


class SwatchMaker:
    """Makes one swatch after another."""

    def __init__(self) -> None:
        self._engine = Engine()
        self._film: Film | None = None

    def begin(
        self,
        material: Material,
        textures: list[Texture],
        others: Mapping[str, Material] | None = None,
        pictures: Mapping[str, np.ndarray] | None = None,
        resolve: Resolver = no_files,
    ) -> None:
        """Begin the swatch of a material, whose layers are of `others`; what was begun before is given up.

        Images of one's own are among the `pictures`, by the SHA-256 of their files, or where `resolve` says; one that
        cannot be had is left out.
        """
        kept: list[Texture] = []
        over = dict.fromkeys(layer.material for layer in material.layers)
        laid = {f"over {key}": _fitting((others or {})[key], textures, kept) for key in over}
        dressed = _fitting(material, textures, kept)
        layers = [layer.model_copy(update={"material": f"over {layer.material}"}) for layer in dressed.layers]
        dressed = dressed.model_copy(update={"layers": tuple(layers)})
        scene = _STUDIO.model_copy(
            update={
                "parts": {
                    "shown": _EDGED if _asks_for_edges([dressed, *laid.values()]) else _PEBBLE,
                    "table": Part(name="table", mesh=1, material="grey"),
                    "wall": Part(name="wall", mesh=2, material="grey"),
                    "left_stripe": Part(name="left stripe", mesh=3, material="white"),
                    "right_stripe": Part(name="right stripe", mesh=4, material="white"),
                },
                "materials": {
                    "shown": dressed,
                    **laid,
                    "grey": Material(name="grey", base_color=(0.09, 0.09, 0.09), specular_ior=1.0),
                    "white": Material(name="white", base_color=(0.6, 0.6, 0.6), specular_ior=1.0),
                },
            }
        )
        self._engine.open(scene, resolve, ImportedAsset("swatch", "none", _MESHES, textures=kept), pictures)
        self._film = Film(WIDTH, HEIGHT)

    def step(self) -> np.ndarray | None:
        """Go on; (HEIGHT, WIDTH, 3) uint8 when it is done, None when `cancel` came first."""
        assert self._film is not None, "no swatch was begun"
        if not self._engine.trace(self._film, SAMPLES):
            return None
        picture = self._engine.develop_unless(self._engine.must_give_way, self._film, denoise="fast")
        return None if picture is None else display_rgb(picture, Look(exposure=EXPOSURE))

    def cancel(self) -> None:
        """Make `step` give way at its next pixel, until `ready`; safe from any thread."""
        self._engine.cancel()

    def ready(self) -> None:
        """Take back `cancel`."""
        self._engine.ready()

    def close(self) -> None:
        """End its threads."""
        self._engine.close()
