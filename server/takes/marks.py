"""What is drawn on a take: in shares of its picture, so that it fits at every size.

In: JSON of the window. Out: typed marks. Used by the actions, the HTTP interface and the contact sheet.
"""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

MOST_MARKS = 100
Share = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
Point = tuple[Share, Share]
"""From the left and from the top of the picture."""


class Mark(BaseModel):
    """An arrow from one point to another, a ring around the box of two, or words at the first."""

    model_config = ConfigDict(extra="forbid")

    kind: Literal["arrow", "ring", "words"]
    start: Point
    end: Point
    words: Annotated[str, Field(max_length=200)] = ""
