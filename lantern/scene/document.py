"""The models of the scene document, version 1.

Lengths in metres, angles in degrees, colours in linear Rec. 709, light in cd/m², exposure in EV. Meshes,
textures and maps are files named by the SHA-256 of their content; the document only refers to them.
"""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

from lantern.scene.fields import Finite, LightColor, Tint, Vector, choice, color, count, quantity

SCHEMA_VERSION = 1  # `Scene.schema_version` says the same to the type checker
Key = Annotated[str, StringConstraints(pattern=r"^[a-z0-9_-]{1,80}$")]
Name = Annotated[str, StringConstraints(min_length=1, max_length=200)]
Digest = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]


class Model(BaseModel):
    """A part of the document: unknown fields are refused, values are immutable once read."""

    model_config = ConfigDict(extra="forbid", frozen=True, json_schema_serialization_defaults_required=True)


class FileRef(Model):
    """A file by content."""

    sha256: Digest
    name: Name = Field(title="File name")


class TextureUse(Model):
    """A texture inside the asset file and the affine map from mesh UV to it (rows of 2x3)."""

    texture: int = Field(ge=0, title="Texture number in the asset")
    matrix: tuple[Finite, Finite, Finite, Finite, Finite, Finite] = (1, 0, 0, 0, 1, 0)


class Material(Model):
    """A first part of OpenPBR Surface 1.1; names of the parameters are the standard's."""

    name: Name
    base_color: Tint = color((0.8, 0.8, 0.8), "Base colour")
    base_metalness: float = quantity(0.0, "Metalness", "", (0, 1), step=0.01)
    specular_color: Tint = color((1, 1, 1), "Metal edge tint")
    specular_roughness: float = quantity(0.3, "Roughness", "", (0, 1), step=0.01)
    specular_ior: float = quantity(1.5, "Index of refraction", "", (1, 3), (1, 2.5), 0.01)
    transmission_weight: float = quantity(0.0, "Transmission", "", (0, 1), step=0.01)
    transmission_color: Tint = color((1, 1, 1), "Transmission colour")
    transmission_depth: float = quantity(0.0, "Depth of that colour", "m", (0, 1000), (0, 0.2), 0.001)
    coat_weight: float = quantity(0.0, "Coat", "", (0, 1), step=0.01)
    coat_color: Tint = color((1, 1, 1), "Coat colour")
    coat_roughness: float = quantity(0.0, "Coat roughness", "", (0, 1), step=0.01)
    coat_ior: float = quantity(1.6, "Coat index", "", (1, 3), (1, 2.5), 0.01)
    emission_color: LightColor = color((1, 1, 1), "Emission colour")
    emission_luminance: float = quantity(0.0, "Emission", "cd/m²", (0, 1e6), (0, 200), 0.1)
    geometry_thin_walled: bool = choice(False, "Thin-walled")
    normal_scale: float = quantity(1.0, "Normal map strength", "", (0, 10), (0, 2), 0.01)
    base_color_texture: TextureUse | None = None
    metallic_roughness_texture: TextureUse | None = None
    normal_texture: TextureUse | None = None
    emission_texture: TextureUse | None = None
    transmission_texture: TextureUse | None = None


class Part(Model):
    """One named piece of the asset: a mesh, where it stands, what it is made of."""

    name: Name
    mesh: int = Field(ge=0, title="Mesh number in the asset")
    material: Key
    visible: bool = choice(True, "Visible")
    matrix: Annotated[tuple[Finite, ...], Field(min_length=12, max_length=12)] = (1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0)


class Asset(Model):
    """The imported thing."""

    file: FileRef
    name: Name


class Environment(Model):
    """The HDR light all around; without a map it is uniform white of 1 cd/m² times the intensity."""

    map: FileRef | None = None
    rotation: float = quantity(0.0, "Rotation", "°", (-3600, 3600), (-180, 180), 1)
    intensity: float = quantity(1.0, "Intensity", "×", (0, 1e6), (0, 4), 0.01)


class Backdrop(Model):
    """What the camera sees behind the asset; the light does not change with it."""

    kind: Literal["environment", "color"] = choice("color", "Backdrop")
    color: LightColor = color((0.18, 0.18, 0.18), "Backdrop colour")


class Ground(Model):
    """A level plane that catches shadow and reflects light back."""

    enabled: bool = choice(True, "Ground")
    height: float = quantity(0.0, "Height", "m", (-1000, 1000), (-0.5, 0.5), 0.001)
    reflectance: Tint = color((0.4, 0.4, 0.4), "Ground colour")


class Camera(Model):
    """A still camera: 36 mm wide sensor unless said otherwise, +Y up."""

    position: Vector = Field((0.6, 0.4, 0.9), title="Position", json_schema_extra={"unit": "m"})
    target: Vector = Field((0, 0.15, 0), title="Target", json_schema_extra={"unit": "m"})
    focal_length: float = quantity(70.0, "Focal length", "mm", (4, 2000), (18, 200), 1)
    sensor_width: float = quantity(36.0, "Sensor width", "mm", (1, 200), (10, 60), 0.1)
    f_number: float = quantity(0.0, "Aperture (0 is all sharp)", "f/", (0, 128), (0, 22), 0.1)
    focus_distance: float = quantity(1.0, "Focus distance", "m", (0.001, 1e6), (0.05, 5), 0.01)


class Look(Model):
    """From scene-linear light to the picture; changing it traces no ray."""

    exposure: float = quantity(0.0, "Exposure", "EV", (-30, 30), (-6, 6), 0.1)
    view: Literal["filmic", "plain"] = choice("filmic", "Display transform")


class Proof(Model):
    """When the live picture has settled."""

    samples: int = count(256, "Samples", "", (1, 65536), (1, 1024))
    denoise: bool = choice(True, "Denoise")


class PrintSettings(Model):
    """The next final frame; its shape is also the shape of the proof."""

    width: int = count(1920, "Width", "px", (16, 16384), (256, 4096))
    height: int = count(1200, "Height", "px", (16, 16384), (256, 4096))
    samples: int = count(256, "Samples", "", (1, 65536), (1, 1024))
    denoise: bool = choice(True, "Denoise")
    transparent: bool = choice(False, "Transparent background")


class Scene(Model):
    """Everything a user can set."""

    schema_version: Literal[1] = 1
    asset: Asset | None = None
    parts: dict[Key, Part] = {}
    materials: dict[Key, Material] = {}
    environment: Environment = Environment()
    backdrop: Backdrop = Backdrop()
    ground: Ground = Ground()
    camera: Camera = Camera()
    look: Look = Look()
    proof: Proof = Proof()
    print: PrintSettings = PrintSettings()

    def files(self) -> list[FileRef]:
        """Every file that the document needs."""
        found = [self.asset.file if self.asset else None, self.environment.map]
        return [f for f in found if f is not None]

    def plain(self) -> dict[str, Any]:
        """The document as JSON data."""
        return self.model_dump(mode="json")
