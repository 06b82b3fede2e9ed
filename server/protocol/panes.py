"""What a browser says about one of its panes: which picture it wants to see there, and how.

A pane's state is sent whole each time, so that a lost message does no harm and a new render host gets it as it is.
"""

from typing import Annotated, Literal

from pydantic import AfterValidator, Field, model_validator

from lantern.assets.faults import Fault
from lantern.compile.view import Way
from lantern.scene.document import Camera
from lantern.scene.look import EFFECTS, Look
from lantern.scene.model import Key
from server.protocol.parts import Message, Number, PartKey, Share


def _known_effect(name: str) -> str:
    if name not in EFFECTS:
        raise ValueError(f"there is no effect {name!r}; there are {', '.join(EFFECTS)}")
    return name


MOST_PANES = 4
LARGEST_SIDE = 4096
MOST_SELECTED = 200_000
OVERLAY_FIELDS = ("selected", "wire", "focus_plane", "fault")
"""What of a pane's state is drawn over its picture, and may change without a sample being lost."""
LOOK_FIELDS = ("look", "before", "edge", "solo", "marks", "isolines")
"""What of a pane's state changes how its picture is shown, and no sample."""
EffectName = Annotated[str, AfterValidator(_known_effect)]
PaneNumber = Annotated[int, Field(ge=0, lt=MOST_PANES, strict=True)]


class Under(Message):
    """What a pane shows the document under, beside the document as it is; null is what that has on."""

    edition: Key | None = None
    shot: Key | None = None
    conditions: Key | None = None


AS_IT_IS = Under()


class PaneState(Message):
    """One pane of a browser window."""

    pane: PaneNumber
    serial: Number
    width: int = Field(ge=16, le=LARGEST_SIDE)
    """Pixels that the picture may fill."""
    height: int = Field(ge=16, le=LARGEST_SIDE)
    scale: Literal["fit", "1", "1/2", "1/4"] = "fit"
    """Size of the picture: what fits the pane, or a part of the print's."""
    way: Way = Way.PROOF
    wire: bool = False
    """Lines of the mesh over the picture."""
    focus_plane: bool = False
    """What lies in the plane of focus is marked."""
    fault: Fault | None = None
    """What of the import report is drawn over the picture."""
    camera: Camera | None = None
    """A camera of the pane's own; the shot's when there is none."""
    under: Under = AS_IT_IS
    look: Look | None = None
    """A look of the pane's own; that of what it shows when there is none."""
    isolines: bool = False
    """Lines of equal light over a false colour."""
    before: bool = False
    """The picture is shown before its look: exposure, white and display transform alone."""
    edge: Share | None = None
    """Left of this share of the picture it is shown before its look."""
    solo: EffectName | None = None
    """The effect of the look that is shown alone."""
    marks: Literal["none", "clipping", "gamut", "press"] = "none"
    """What is drawn into the picture: where it is clipped, or has colours that the display does not."""
    loupe: tuple[Share, Share, Share, Share] | None = None
    """Left, top, right, bottom of the region that gets all computing, as shares of the picture."""
    selected: tuple[PartKey, ...] = Field((), max_length=MOST_SELECTED)
    """Parts that get an outline."""
    visible: bool = True
    """A pane that nobody sees costs nothing."""

    @model_validator(mode="after")
    def _has_a_loupe_of_some_size(self) -> "PaneState":
        if self.loupe is not None and not (self.loupe[0] < self.loupe[2] and self.loupe[1] < self.loupe[3]):
            raise ValueError(f"loupe: left and top must lie before right and bottom, not {list(self.loupe)}")
        return self
