"""Messages between a browser window and the web side, unions told apart by `type`; described in `docs/protocol.md`."""

import json
from typing import Annotated, Any, Literal

from pydantic import Field, TypeAdapter, ValidationError, WithJsonSchema

from lantern.scene.arranging import Operation
from lantern.scene.document import Camera
from lantern.scene.fields import Vector
from lantern.scene.inputs import Parameter, SourceKind
from lantern.scene.layers import MOST_LAYERS, LayerInput
from lantern.scene.model import Key
from server.errors import Refused
from server.protocol.panes import PaneNumber, PaneState
from server.protocol.parts import Label, Message, Number, Parts, Patch, Place, Request

LARGEST_MESSAGE = 2 << 20
"""Characters of a message from a browser."""

# From the browser


class PaneMessage(PaneState):
    type: Literal["pane"]


class ClosePane(Message):
    type: Literal["close_pane"]
    pane: PaneNumber


class Run(Message):
    type: Literal["run"]
    running: bool


class Shown(Message):
    type: Literal["shown"]


class Preview(Message):
    type: Literal["preview"]
    patch: Patch
    serial: Number


class Edit(Message):
    type: Literal["edit"]
    patch: Annotated[Patch, Field(min_length=1)]
    label: Label = ""
    request: Request
    base: Number | None = None


class UndoMessage(Message):
    type: Literal["undo"]
    request: Request


class RedoMessage(Message):
    type: Literal["redo"]
    request: Request


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


class Wardrobe(Message):
    """Asks for the patch that gives parts materials of their own, or removes those that nothing wears."""

    type: Literal["wardrobe"]
    pane: PaneNumber
    how: Literal["own", "unworn"]
    parts: Parts
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
    | Wardrobe
    | Possible
    | TextureQuestion
)
FromBrowser = Annotated[
    PaneMessage | ClosePane | Run | Shown | Preview | Edit | UndoMessage | RedoMessage | Question,
    Field(discriminator="type"),
]
_FROM_BROWSER: TypeAdapter[FromBrowser] = TypeAdapter(FromBrowser)


class Unreadable(Refused):
    """A message is not one of the protocol; `request` is the name of what was asked, where it had one."""

    def __init__(self, message: str, request: str | None) -> None:
        super().__init__(message)
        self.request = request


def read_message(text: str) -> FromBrowser:
    """A message of a browser. Raises Unreadable with the field that is wrong, whatever the text is."""
    if len(text) > LARGEST_MESSAGE:
        raise Unreadable(f"A message has at most {LARGEST_MESSAGE} characters, not {len(text)}.", None)
    try:
        return _FROM_BROWSER.validate_json(text)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        path = "/".join(str(step) for step in first["loc"]) or "message"
        raise Unreadable(f"{path}: {first['msg']} (got {first['input']!r:.80})", _request_of(text)) from error


def _request_of(text: str) -> str | None:
    try:
        request = json.loads(text).get("request")
    except (ValueError, AttributeError, RecursionError):
        return None
    return request[:64] if isinstance(request, str) else None


# To the browser

SceneData = Annotated[dict[str, Any], WithJsonSchema({"type": "object", "title": "Scene"})]
"""A document as JSON data: it was read before it was stored."""


class DocumentMessage(Message):
    type: Literal["document"] = "document"
    revision: int
    scene: SceneData
    can_undo: bool
    can_redo: bool


class Edited(Message):
    """The document has changed from the revision before this one by a patch."""

    type: Literal["edited"] = "edited"
    revision: int
    patch: Patch
    can_undo: bool
    can_redo: bool


class Committed(Message):
    type: Literal["committed"] = "committed"
    request: str
    revision: int


class RefusedMessage(Message):
    type: Literal["refused"] = "refused"
    message: str
    request: str | None = None


HostStateName = Literal["starting", "waiting", "ready", "resting", "restarting", "failed"]


class HostState(Message):
    type: Literal["host"] = "host"
    state: HostStateName


class Running(Message):
    type: Literal["running"] = "running"
    running: bool


class Status(Message):
    """How far the proof of a pane is."""

    type: Literal["status"] = "status"
    pane: int
    samples: int
    wanted: int
    settled: bool
    running: bool
    rests: bool
    """It makes room for a print while nobody touches it."""
    width: int
    height: int
    noise: float | None
    seconds: float
    seconds_left: float
    rays_per_second: float
    dropped_samples: int
    limited_samples: int
    memory_mib: int


class Scale(Message):
    type: Literal["scale"] = "scale"
    pane: int
    ticks: list[tuple[float, str]]


class Opened(Message):
    """What the document holds; `compiled` counts what the compiler did. Clips and cameras are those of the file."""

    type: Literal["opened"] = "opened"
    parts: int
    triangles: int
    unique_triangles: int
    moves: bool
    clips: list[str]
    cameras: list[str]
    compiled: dict[str, int]


class Problems(Message):
    type: Literal["problems"] = "problems"
    problems: list[str]


class ErrorMessage(Message):
    type: Literal["error"] = "error"
    message: str


class Swatch(Message):
    type: Literal["swatch"] = "swatch"
    material: str
    picture: str


class Found(Message):
    """What lies under a point of the picture; `part` is null for the ground."""

    part: str | None
    position: tuple[float, float, float]
    normal: tuple[float, float, float]
    depth: float


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
    Picked | PartsFound | ValuesFound | Fitted | BoundsFound | DensityFound | DoubtsFound | EntryMade | TexturePicture
)
ToBrowser = (
    DocumentMessage
    | Edited
    | Committed
    | RefusedMessage
    | HostState
    | Running
    | Status
    | Scale
    | Opened
    | Problems
    | ErrorMessage
    | Swatch
    | Answer
)
