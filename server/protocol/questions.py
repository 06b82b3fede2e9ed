"""What a window asks of the render host about what it holds, and the answers.

In: JSON of a question, which names itself. Out: the typed question; an answer that names it. Used by `browser`.
"""

from typing import Annotated, Any, Literal

from pydantic import Field

from lantern.scene.arranging import Operation
from lantern.scene.decals import DecalKind
from lantern.scene.document import Camera
from lantern.scene.fields import Vector
from lantern.scene.inputs import Parameter
from lantern.scene.layers import MOST_LAYERS, LayerInput
from lantern.scene.model import Key
from lantern.scene.sources import SourceKind
from server.protocol.cameras import CameraAnswer, CameraQuestion
from server.protocol.fidelity import FidelityAnswer, FidelityQuestion
from server.protocol.lighting import LightAnswer, LightQuestion
from server.protocol.looks import LookAnswer, LookQuestion
from server.protocol.motion import MotionAnswer, MotionQuestion
from server.protocol.panes import PaneNumber
from server.protocol.parts import Label, Message, NotMade, Parts, Patch, Place, Request
from server.protocol.variants import VariantAnswer, VariantQuestion


class Pick(Message):
    type: Literal["pick"]
    pane: PaneNumber
    x: Place
    y: Place
    request: Request


class Values(Message):
    type: Literal["values"]
    pane: PaneNumber
    x: Place
    y: Place
    request: Request


class Density(Message):
    """Asks how many triangles parts have: as they came, in the proof and in the print."""

    type: Literal["density"]
    pane: PaneNumber
    parts: Parts
    request: Request


class Fit(Message):
    type: Literal["fit"]
    pane: PaneNumber
    parts: Parts | None = None
    direction: Literal["front", "side", "top"] | None = None
    share: Annotated[float, Field(ge=0.05, le=1, allow_inf_nan=False)] | None = None
    """How much of the frame they fill."""
    request: Request


class Bounds(Message):
    """Asks for the box around parts, or around all that are visible."""

    type: Literal["bounds"]
    pane: PaneNumber
    parts: Parts | None = None
    request: Request


class Area(Message):
    """Asks which parts are seen within a rectangle of the picture: its left, top, right and lower edge."""

    type: Literal["area"]
    pane: PaneNumber
    edges: tuple[Place, Place, Place, Place]
    request: Request


class Spot(Message):
    """A point of a surface that was picked, its normal, and its distance from the camera [m]."""

    position: Vector
    normal: Vector
    depth: Annotated[float, Field(ge=0, le=1e7, allow_inf_nan=False)]


class MakeLight(Message):
    """Asks for a new light that suits the asset; the window commits it."""

    type: Literal["make_light"]
    pane: PaneNumber
    kind: Literal["rectangle", "disk", "sphere", "tube", "point", "spot", "directional"]
    over: Spot | None = None
    request: Request


class MakeSet(Message):
    """Asks for a new set of parts; the window commits it."""

    type: Literal["make_set"]
    pane: PaneNumber
    parts: Parts
    request: Request


class Arrange(Message):
    """Asks for the patch that does something with parts as wholes; the window commits it."""

    type: Literal["arrange"]
    pane: PaneNumber
    operation: Operation
    request: Request


class Cut(Message):
    """Asks for the patch that splits parts into their pieces, or merges them into one; the window commits it."""

    type: Literal["cut"]
    pane: PaneNumber
    parts: Parts
    how: Literal["split", "merge"]
    request: Request


class FromFile(Message):
    """Asks for the patch that takes a clip, or a camera, of the asset's file; the window commits it."""

    type: Literal["from_file"]
    pane: PaneNumber
    clip: Label | None = None
    camera: Annotated[int, Field(ge=0, lt=1 << 31, strict=True)] | None = None
    request: Request


class MakeInput(Message):
    """Asks for the patch that gives a parameter of materials an input; the window commits it."""

    type: Literal["make_input"]
    pane: PaneNumber
    materials: Annotated[Parts, Field(min_length=1)]
    parameter: Parameter
    kind: SourceKind
    request: Request


class MakeLayer(Message):
    """Asks for the patch that lays a material over others; the window commits it."""

    type: Literal["make_layer"]
    pane: PaneNumber
    materials: Annotated[Parts, Field(min_length=1)]
    over: Key
    request: Request


class MakeMask(Message):
    """Asks for the patch that gives a layer a mask of a kind, or what breaks that up; the window commits it."""

    type: Literal["make_mask"]
    pane: PaneNumber
    material: Key
    layer: Annotated[int, Field(ge=0, lt=MOST_LAYERS, strict=True)]
    which: LayerInput
    kind: SourceKind
    request: Request


class MakeRelief(Message):
    """Asks for the patch that displaces parts by a pattern; the window commits it."""

    type: Literal["make_relief"]
    pane: PaneNumber
    parts: Annotated[tuple[Key, ...], Field(min_length=1)]
    kind: SourceKind
    request: Request


class Stick(Message):
    """Asks for the patch that puts a decal where the picture is pressed: one that is there, or a new one of a kind."""

    type: Literal["stick"]
    pane: PaneNumber
    x: Place
    y: Place
    decal: Key | None = None
    kind: DecalKind = "text"
    request: Request


class Reflectance(Message):
    """Asks what share of light the surface at a point of the picture sends to the camera."""

    type: Literal["reflectance"]
    pane: PaneNumber
    x: Place
    y: Place
    request: Request


class DecalShape(Message):
    """Asks how high what is on a decal is, for its width."""

    type: Literal["decal_shape"]
    pane: PaneNumber
    decal: Key
    request: Request


class Wardrobe(Message):
    """Asks for the patch that gives parts materials of their own, or removes those that nothing wears."""

    type: Literal["wardrobe"]
    pane: PaneNumber
    how: Literal["own", "unworn"]
    parts: Parts
    request: Request


class Sharp(Message):
    """Asks between which depths a pane shows things sharp, and whether that suits the asset."""

    type: Literal["sharp"]
    pane: PaneNumber
    request: Request


class Possible(Message):
    """Asks what of materials no real thing has."""

    type: Literal["possible"]
    pane: PaneNumber
    materials: Annotated[Parts, Field(min_length=1)]
    request: Request


class TextureQuestion(Message):
    """Asks for a small picture of a texture of the asset, or of one of its channels."""

    type: Literal["texture"]
    pane: PaneNumber
    texture: Annotated[int, Field(ge=0, lt=1 << 31, strict=True)]
    channel: Annotated[int, Field(ge=0, le=3, strict=True)] | None = None
    request: Request


Question = (
    Pick
    | Area
    | Values
    | Fit
    | Bounds
    | Density
    | MakeLight
    | MakeSet
    | Arrange
    | Cut
    | FromFile
    | MakeInput
    | MakeLayer
    | MakeMask
    | MakeRelief
    | Stick
    | DecalShape
    | Reflectance
    | Wardrobe
    | Sharp
    | Possible
    | TextureQuestion
    | LightQuestion
    | LookQuestion
    | CameraQuestion
    | VariantQuestion
    | MotionQuestion
    | FidelityQuestion
)


class Found(Message):
    """What lies under a point of the picture; `part` is null for the ground."""

    part: str | None
    position: tuple[float, float, float]
    normal: tuple[float, float, float]
    depth: float
    focus: float
    """The focus distance that makes it sharp."""


class Picked(Message):
    type: Literal["picked"] = "picked"
    asked: str
    found: Found | None


class ValuesFound(Message):
    type: Literal["values"] = "values"
    asked: str
    values: dict[str, Any] | None


class Fitted(Message):
    type: Literal["fitted"] = "fitted"
    asked: str
    camera: Camera | None


class BoundsFound(Message):
    type: Literal["bounds"] = "bounds"
    asked: str
    box: tuple[tuple[float, float, float], tuple[float, float, float]] | None


class DensityFound(Message):
    """Triangles of parts, and the memory [bytes] that their meshes take in the print."""

    type: Literal["density"] = "density"
    asked: str
    brought: int
    proof: int
    print: int
    bytes: int


class DoubtFound(Message):
    """What of a material no real thing has, and the patch to the nearest that one could have; empty for none."""

    material: str
    field: str
    text: str
    patch: list[dict[str, Any]]


class DoubtsFound(Message):
    type: Literal["doubts"] = "doubts"
    asked: str
    doubts: tuple[DoubtFound, ...]


class FocusDoubtFound(Message):
    """What of focus or depth of field is hardly meant, and the patch that mends it; empty where none does."""

    text: str
    patch: list[dict[str, Any]]


class SharpFound(Message):
    """Depths [m] between which everything is sharp; both null where all is, `far` where it is as far as one sees."""

    type: Literal["sharp"] = "sharp"
    asked: str
    near: float | None = None
    far: float | None = None
    doubts: tuple[FocusDoubtFound, ...] = ()


class Shares(Message):
    """Of the light that a perfect matt white would send: linear Rec. 709, and CIE L*a*b* in D65."""

    linear: tuple[float, float, float]
    lab: tuple[float, float, float]


class ReflectanceFound(Message):
    """In even white light, and in the light that is there; null where there is no part, or no light."""

    type: Literal["reflectance"] = "reflectance"
    asked: str
    even: Shares | None
    here: Shares | None


class ShapeFound(Message):
    """Height over width; null where it cannot be had."""

    type: Literal["shape"] = "shape"
    asked: str
    tall: float | None


class PartsFound(Message):
    type: Literal["parts"] = "parts"
    asked: str
    parts: tuple[str, ...]


class NewEntry(Message):
    """A new entry of the document: its key, what adding it is called, the patch that adds it."""

    key: str
    label: str
    patch: Patch


class EntryMade(Message):
    type: Literal["made"] = "made"
    asked: str
    made: NewEntry | None


class TexturePicture(Message):
    """Address of a picture, null when there is no such texture."""

    type: Literal["texture"] = "texture"
    asked: str
    picture: str | None


Answer = (
    Picked
    | PartsFound
    | ValuesFound
    | Fitted
    | BoundsFound
    | DensityFound
    | DoubtsFound
    | SharpFound
    | ShapeFound
    | ReflectanceFound
    | EntryMade
    | NotMade
    | TexturePicture
    | LightAnswer
    | LookAnswer
    | CameraAnswer
    | VariantAnswer
    | MotionAnswer
    | FidelityAnswer
)
