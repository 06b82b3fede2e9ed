"""What a browser says about one of its panes: which picture it wants to see there, and how.

A pane's state is sent whole each time, so that a lost message does no harm and a new render host gets it as it is.
"""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from lantern.compile.view import Way
from lantern.scene.document import Camera
from server.projects.errors import Refused

MOST_PANES = 4
LARGEST_SIDE = 4096
MOST_SELECTED = 10_000
Share = Annotated[float, Field(ge=0, le=1)]


class PaneState(BaseModel):
    """One pane of a browser window."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    pane: int = Field(ge=0, lt=MOST_PANES)
    serial: int = Field(ge=0)
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
    camera: Camera | None = None
    """A camera of the pane's own; the shot's when there is none."""
    loupe: tuple[Share, Share, Share, Share] | None = None
    """Left, top, right, bottom of the region that gets all computing, as shares of the picture."""
    selected: tuple[str, ...] = Field((), max_length=MOST_SELECTED)
    """Parts that get an outline."""
    visible: bool = True
    """A pane that nobody sees costs nothing."""


def read_pane(message: dict[str, Any]) -> PaneState:
    """The state of a pane from a message. Raises Refused with the name of the field that is wrong."""
    try:
        state = PaneState.model_validate({k: v for k, v in message.items() if k not in ("type", "request")})
    except ValidationError as error:
        first = error.errors()[0]
        path = "/".join(str(step) for step in first["loc"]) or "pane"
        raise Refused(f"{path}: {first['msg']} (got {first['input']!r:.80})") from error
    if state.loupe is not None and not (state.loupe[0] < state.loupe[2] and state.loupe[1] < state.loupe[3]):
        raise Refused(f"loupe: left and top must lie before right and bottom, not {list(state.loupe)}")
    return state
