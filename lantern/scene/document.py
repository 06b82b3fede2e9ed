"""The models of the scene document.

Lengths in metres, angles in degrees, colours in linear Rec. 709, light in cd/m², exposure in EV. Meshes,
textures and maps are files named by the SHA-256 of their content; the document only refers to them.
"""

from itertools import pairwise
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, model_validator

from lantern.scene.brand import MOST as MOST_BRAND_COLORS
from lantern.scene.brand import BrandColor
from lantern.scene.decals import Decal
from lantern.scene.editions import Edition, Exclusion, VariantGroup
from lantern.scene.fields import (
    Finite,
    LightColor,
    Tint,
    Vector,
    choice,
    color,
    count,
    optional_count,
    optional_quantity,
    place,
    quantity,
)
from lantern.scene.forms import Form
from lantern.scene.inputs import MaterialInput, Parameter
from lantern.scene.layers import MOST_LAYERS, Layer
from lantern.scene.lights import Light
from lantern.scene.look import Look, Toned
from lantern.scene.model import FileRef, Key, Model, Name
from lantern.scene.motion import Motion
from lantern.scene.placed import PartGroup, Placed
from lantern.scene.printing import PrintSettings, Proof
from lantern.scene.scatter import Scatter
from lantern.scene.surroundings import Backdrop, Environment, Ground, Haze, Sky
from lantern.scene.texture_use import TextureUse
from lantern.scene.turning import Axis

SCHEMA_VERSION = 10  # `Scene.schema_version` says the same to the type checker


class Material(Model):
    """OpenPBR Surface 1.1; names of the parameters are the standard's, those without its prefixes are ours."""

    name: Name
    base_weight: float = quantity(1.0, "Base weight", "", (0, 1), step=0.01)
    base_color: Tint = color((0.8, 0.8, 0.8), "Base colour", "base_color_texture")
    base_diffuse_roughness: float = quantity(0.0, "Diffuse roughness", "", (0, 1), step=0.01)
    base_metalness: float = quantity(0.0, "Metalness", "", (0, 1), step=0.01, map=("metallic_roughness_texture", 2))
    specular_weight: float = quantity(1.0, "Specular weight", "", (0, 1), step=0.01)
    specular_color: Tint = color((1, 1, 1), "Specular colour")
    specular_roughness: float = quantity(0.3, "Roughness", "", (0, 1), step=0.01, map=("metallic_roughness_texture", 1))
    specular_roughness_anisotropy: float = quantity(0.0, "Anisotropy", "", (0, 1), step=0.01)
    specular_ior: float = quantity(1.5, "Index of refraction", "", (1, 3), (1, 2.5), 0.01)
    transmission_weight: float = quantity(0.0, "Transmission", "", (0, 1), step=0.01, map=("transmission_texture", 0))
    transmission_color: Tint = color((1, 1, 1), "Transmission colour")
    transmission_tint: Tint = color((1, 1, 1), "Tint at the surface", "transmission_tint_texture")
    transmission_depth: float = quantity(0.0, "Depth of that colour", "m", (0, 1000), (0, 0.2), 0.001)
    transmission_scatter: Tint = color((0, 0, 0), "Scattering inside")
    transmission_scatter_anisotropy: float = quantity(0.0, "Scattering forwards", "", (-1, 1), step=0.01)
    transmission_dispersion_scale: float = quantity(0.0, "Dispersion", "", (0, 1), step=0.01)
    transmission_dispersion_abbe_number: float = quantity(20.0, "Abbe number", "", (9, 91), step=0.5)
    subsurface_weight: float = quantity(0.0, "Subsurface", "", (0, 1), step=0.01)
    subsurface_color: Tint = color((0.8, 0.8, 0.8), "Subsurface colour")
    subsurface_radius: float = quantity(0.01, "Subsurface radius", "m", (0, 10), (0, 0.05), 0.0005)
    subsurface_radius_scale: Tint = color((1, 0.5, 0.25), "Radius by colour")
    subsurface_scatter_anisotropy: float = quantity(0.0, "Subsurface forwards", "", (-1, 1), step=0.01)
    coat_weight: float = quantity(0.0, "Coat", "", (0, 1), step=0.01)
    coat_color: Tint = color((1, 1, 1), "Coat colour")
    coat_roughness: float = quantity(0.0, "Coat roughness", "", (0, 1), step=0.01)
    coat_roughness_anisotropy: float = quantity(0.0, "Coat anisotropy", "", (0, 1), step=0.01)
    coat_ior: float = quantity(1.6, "Coat index", "", (1, 3), (1, 2.5), 0.01)
    coat_darkening: float = quantity(1.0, "Coat darkening", "", (0, 1), step=0.01)
    fuzz_weight: float = quantity(0.0, "Fuzz", "", (0, 1), step=0.01)
    fuzz_color: Tint = color((1, 1, 1), "Fuzz colour")
    fuzz_roughness: float = quantity(0.5, "Fuzz roughness", "", (0, 1), step=0.01)
    emission_color: LightColor = color((1, 1, 1), "Emission colour", "emission_texture")
    emission_luminance: float = quantity(0.0, "Emission", "cd/m²", (0, 1e6), (0, 200), 0.1)
    emission_lumens: float | None = optional_quantity(
        "Light of each part", "lm", (0, 1e9), (1, 2000), 1, on=100.0, off="by its emission"
    )
    emission_temperature: float | None = optional_quantity(
        "Colour temperature", "K", (500, 40000), (1500, 12000), 50, on=2700.0, off="as coloured"
    )
    thin_film_weight: float = quantity(0.0, "Thin film", "", (0, 1), step=0.01)
    thin_film_thickness: float = quantity(0.5, "Film thickness", "µm", (0, 10), (0, 1.5), 0.01)
    thin_film_ior: float = quantity(1.4, "Film index", "", (1, 3), (1, 2.5), 0.01)
    geometry_opacity: float = quantity(1.0, "Opacity", "", (0, 1), step=0.01)
    geometry_thin_walled: bool = choice(False, "Thin-walled")
    double_sided: bool = choice(False, "Both sides alike")
    vertex_colors: bool = choice(False, "Tinted by vertex colours")
    normal_scale: float = quantity(1.0, "Normals", "", (0, 10), (0, 2), 0.01, map=("normal_texture", None))
    coat_normal_scale: float = quantity(
        1.0, "Coat normals", "", (0, 10), (0, 2), 0.01, map=("coat_normal_texture", None)
    )
    bump: float = quantity(0.0, "Bump", "m", (-100, 100), (-0.002, 0.002), 0.00005)
    tangent_rotation: float = quantity(0.0, "Turn of the anisotropy", "°", (-360, 360), (-90, 90), 1)
    interior_priority: int = count(0, "Priority where volumes overlap", "", (-100, 100), (-5, 5))
    alpha_mode: Literal["opaque", "blend", "mask"] = choice(
        "opaque", "Alpha of the colour map", {"opaque": "Opaque", "blend": "Blend", "mask": "Cut out"}
    )
    alpha_cutoff: float = quantity(0.5, "Alpha cut-off", "", (0, 1e6), (0, 1), 0.01)
    base_color_texture: TextureUse | None = None
    metallic_roughness_texture: TextureUse | None = None
    normal_texture: TextureUse | None = None
    emission_texture: TextureUse | None = None
    transmission_texture: TextureUse | None = None
    transmission_tint_texture: TextureUse | None = None
    coat_normal_texture: TextureUse | None = None
    inputs: dict[Parameter, MaterialInput] = Field({}, title="Inputs")
    layers: tuple[Layer, ...] = Field((), max_length=MOST_LAYERS, title="Layers, the lowest first")


Matrix = Annotated[tuple[Finite, ...], Field(min_length=12, max_length=12)]


class PartKey(Model):
    """Where a part stands at a moment."""

    time: Finite = Field(title="Time", json_schema_extra={"unit": "s"})
    matrix: Matrix


class CameraKey(Model):
    """Where the camera stands at a moment."""

    time: Finite = Field(title="Time", json_schema_extra={"unit": "s"})
    position: Vector = Field(title="Position", json_schema_extra={"unit": "m"})
    target: Vector = Field(title="Target", json_schema_extra={"unit": "m"})


def _rising(keys: tuple[Any, ...]) -> tuple[Any, ...]:
    times = [key.time for key in keys]
    if any(b <= a for a, b in pairwise(times)):
        raise ValueError(f"the times of keys must rise, not {times}")
    return keys


class MeshPiece(Model):
    """A mesh of the asset, or what is connected in it, by its size; and where it lies in its part."""

    mesh: int = Field(ge=0, lt=1 << 31, title="Mesh number in the asset")
    component: int | None = Field(None, ge=0, lt=1 << 31, title="Piece of the mesh")
    matrix: Matrix = (1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0)


class Part(Placed):
    """One named piece of the asset, or a body made here: its mesh, where it stands, what it is made of.

    A body with a form stands in the scene's own space, whatever the unit of the asset.
    """

    mesh: int = Field(0, ge=0, lt=1 << 31, title="Mesh number in the asset")
    pieces: tuple[MeshPiece, ...] = Field((), max_length=2000, title="Pieces of meshes, in place of the mesh")
    form: Form | None = Field(None, title="Form, in place of the mesh")
    material: Key
    visible: bool = choice(True, "Visible")
    seen_by_camera: bool = choice(True, "Seen by the camera")
    seen_in_reflections: bool = choice(True, "Seen in reflections")
    casts_shadow: bool = choice(True, "Casts shadow")
    receives_shadow: bool = choice(True, "Receives shadow")
    inside_out: bool = choice(False, "Faces turned round")
    subdivision: Literal["none", "catmull_clark", "loop"] = choice(
        "none", "Subdivision", {"none": "None", "catmull_clark": "Catmull–Clark", "loop": "Loop"}
    )
    levels: int = count(2, "Levels", "", (1, 6), (1, 5))
    print_levels: int | None = optional_count("Levels of the print", "", (1, 6), (1, 5), on=3, off="as in the proof")
    edge_pixels: float | None = optional_quantity(
        "Edges at most", "px", (0.25, 1000), (1, 30), 0.5, on=4.0, off="all levels"
    )
    crease_angle: float | None = optional_quantity(
        "Edges sharp from", "°", (1, 180), (10, 120), 1, on=40.0, off="as they came"
    )
    edge_radius: float | None = optional_quantity(
        "Rounded in shading", "m", (1e-6, 10), (0.0001, 0.005), 0.0001, on=0.0005, off="sharp"
    )
    displacement: float = quantity(0.0, "Displacement", "m", (-100, 100), (-0.02, 0.02), 0.0002)
    displacement_middle: float = quantity(0.5, "Value that stays", "", (0, 1), step=0.01)
    displacement_along: Literal["normal", "vector"] = choice(
        "normal", "Displaced along", {"normal": "Normal", "vector": "Vector"}
    )
    displacement_texture: TextureUse | None = None
    displacement_input: MaterialInput | None = Field(None, title="Pattern that displaces, in place of an image")
    strewn: Scatter | None = Field(None, title="Strewn over another part")
    matrix: Matrix = (1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0)
    keys: Annotated[tuple[PartKey, ...], AfterValidator(_rising)] = Field((), title="Motion, in place of the matrix")


class PartSet(Model):
    """A named group of parts. Keys of parts that are gone are kept, in case they come back."""

    name: Name
    parts: tuple[Key, ...] = Field((), title="Parts")


class Asset(Model):
    """The imported thing."""

    file: FileRef
    name: Name
    scale: float = quantity(1.0, "One of its units", "m", (1e-6, 1e6), (0.001, 1000), 0.001, scale="logarithmic")
    up: Axis = choice("+y", "Axis that is up", {"+x": "X", "-x": "−X", "+y": "Y", "-y": "−Y", "+z": "Z", "-z": "−Z"})
    clip: Name | None = Field(None, title="Clip, of several the first")


class FollowedFocus(Model):
    """What the focus follows: a point of a part [m], in the part's own space."""

    part: Key
    point: Vector = Field(title="Point of the part", json_schema_extra={"unit": "m"})


class Camera(Model):
    """A still camera: 36 mm wide sensor unless said otherwise, +Y up."""

    position: Vector = place((0.6, 0.4, 0.9), "Position")
    target: Vector = place((0, 0.15, 0), "Target")
    roll: float = quantity(0.0, "Roll", "°", (-360, 360), (-45, 45), 0.5)
    projection: Literal["perspective", "orthographic"] = choice(
        "perspective", "Projection", {"perspective": "Perspective", "orthographic": "Orthographic"}
    )
    focal_length: float = quantity(70.0, "Focal length", "mm", (4, 2000), (18, 200), 1)
    sensor_width: float = quantity(36.0, "Sensor width", "mm", (1, 200), (10, 60), 0.1)
    f_number: float | None = optional_quantity("Aperture", "f/", (0.1, 128), (0.7, 22), 0.1, on=2.8, off="all sharp")
    focus_distance: float = quantity(1.0, "Focus distance", "m", (0.001, 1e6), (0.05, 5), 0.01)
    focus_on: FollowedFocus | None = Field(None, title="Followed by the focus, in place of the distance")
    close_up: float | None = optional_quantity("Close-up lens", "dpt", (0.1, 100), (0.5, 20), 0.5, on=4.0, off="none")
    exposure_time: float | None = optional_quantity(
        "Shutter", "s", (1e-6, 3600), (1 / 4000, 30), 0.001, on=1.0, off="exposure by EV", fraction=True
    )
    iso: float = quantity(100.0, "ISO", "", (1, 1e6), (50, 6400), 50, scale="logarithmic")
    blades: int | None = optional_count("Aperture blades", "", (3, 24), (3, 12), on=7, off="round")
    blade_rotation: float = quantity(0.0, "Turn of the blades", "°", (-360, 360), (-90, 90), 1)
    blade_roundness: float = quantity(0.0, "Roundness of the blades", "", (0, 1), step=0.01)
    cats_eye: float = quantity(0.0, "Cat's eyes", "", (0, 1), step=0.01)
    squeeze: float = quantity(1.0, "Squeeze", "×", (1, 3), (1, 2), 0.01, scale="linear")
    focus_tilt: float = quantity(0.0, "Plane of focus tilted", "°", (-85, 85), (-60, 60), 0.5)
    focus_swing: float = quantity(0.0, "Plane of focus swung", "°", (-85, 85), (-60, 60), 0.5)
    shift_x: float = quantity(0.0, "Shift sideways", "mm", (-200, 200), (-15, 15), 0.1)
    shift_y: float = quantity(0.0, "Shift up", "mm", (-200, 200), (-15, 15), 0.1)
    distortion: float = quantity(0.0, "Distortion", "", (-0.3, 0.3), (-0.1, 0.1), 0.005)
    keys: Annotated[tuple[CameraKey, ...], AfterValidator(_rising)] = Field(
        (), title="Motion, in place of the position"
    )


class Shutter(Model):
    """Which moment a frame shows, and when its shutter opens and closes, counted from it; equal times freeze all."""

    time: float = quantity(0.0, "Moment", "s", (-1e6, 1e6), (0, 10), 0.01)
    opens: float = quantity(0.0, "Opens", "s", (-1000, 1000), (-0.05, 0), 0.001)
    closes: float = quantity(0.0, "Closes", "s", (-1000, 1000), (0, 0.05), 0.001)

    @model_validator(mode="after")
    def _in_order(self) -> "Shutter":
        if self.closes < self.opens:
            raise ValueError(f"the shutter closes at {self.closes} s, before it opens at {self.opens} s")
        return self


class Rendering(Model):
    """How paths are followed; proof and print share it."""

    caustics: Literal["exact", "filtered"] = choice("exact", "Caustics", {"exact": "Exact", "filtered": "Filtered"})
    caustic_roughness: float = quantity(0.25, "Roughness that filters caustics", "", (0.05, 1), step=0.01)
    sample_limit: float | None = optional_quantity(
        "Brightest sample", "cd/m²", (0.001, 1e9), (1, 1000), 1, on=100.0, off="no limit"
    )


class Fader(Model):
    """How much of the light of one light group the finished picture has; no ray is traced for it."""

    stops: float = quantity(0.0, "Level", "stops", (-20, 20), (-4, 4), 0.1)
    tint: LightColor = color((1, 1, 1), "Tint")
    enabled: bool = choice(True, "On")


class Conditions(Toned):
    """A named state of all lighting, with the exposure and the white that go with it."""

    name: Name
    environment: Environment
    sky: Sky
    lights: dict[Key, Light]
    light_order: tuple[Key, ...] = ()
    haze: Haze
    backdrop: Backdrop
    ground: Ground


class Shot(Model):
    """A camera that is kept, with the size of its frame; and a look and conditions of its own, if wanted."""

    name: Name
    camera: Camera
    width: int | None = Field(None, ge=16, le=16384, title="Width of its frame")
    height: int | None = Field(None, ge=16, le=16384, title="Height of its frame")
    look: Look | None = Field(None, title="Look of its own")
    conditions: Key | None = Field(None, title="Conditions of its own")
    locked: bool = choice(False, "Locked")


class Scene(Model):
    """Everything a user can set."""

    schema_version: Literal[10] = 10
    asset: Asset | None = None
    parts: dict[Key, Part] = Field(default_factory=dict)
    part_groups: dict[Key, PartGroup] = Field(default_factory=dict)
    part_sets: dict[Key, PartSet] = Field(default_factory=dict)
    materials: dict[Key, Material] = Field(default_factory=dict)
    decals: dict[Key, Decal] = Field(default_factory=dict)
    brand_colors: dict[Key, BrandColor] = Field(default_factory=dict, max_length=MOST_BRAND_COLORS)
    environment: Environment = Environment()
    sky: Sky = Sky()
    lights: dict[Key, Light] = Field(default_factory=dict)
    light_order: tuple[Key, ...] = Field((), title="Order of the lights in lists; others follow")
    balance: dict[Name, Fader] = Field(default_factory=dict)
    conditions: dict[Key, Conditions] = Field(default_factory=dict)
    haze: Haze = Haze()
    backdrop: Backdrop = Backdrop()
    ground: Ground = Ground()
    camera: Camera = Camera()
    shots: dict[Key, Shot] = Field(default_factory=dict)
    shot_order: tuple[Key, ...] = Field((), title="Order of the shots in lists; others follow")
    layout: FileRef | None = Field(None, title="Drawing of a layout, laid over the picture to match it; of no print")
    variant_groups: dict[Key, VariantGroup] = Field(default_factory=dict)
    editions: dict[Key, Edition] = Field(default_factory=dict)
    edition_order: tuple[Key, ...] = Field((), title="Order of the editions in lists; others follow")
    exclusions: tuple[Exclusion, ...] = Field((), max_length=200, title="Variants that do not go together")
    shutter: Shutter = Shutter()
    motion: Motion = Motion()
    rendering: Rendering = Rendering()
    look: Look = Look()
    proof: Proof = Proof()
    print: PrintSettings = PrintSettings()

    def plain(self) -> dict[str, Any]:
        """The document as JSON data."""
        return self.model_dump(mode="json")
