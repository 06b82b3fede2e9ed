"""What messages are made of: the base model, names, numbers within bounds, patches."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

from lantern.scene.editing import MOST_OPERATIONS

MOST_NAMED = 200_000
"""Parts that one message may name."""
LARGEST_NUMBER = 2**53
"""Whole numbers beyond it are not whole in a browser."""


class Message(BaseModel):
    """A message: unknown fields are refused, values are immutable once read."""

    model_config = ConfigDict(extra="forbid", frozen=True, json_schema_serialization_defaults_required=True)


class NotMade(Message):
    """Why what a question asks for cannot be had."""

    type: Literal["not_made"] = "not_made"
    asked: str
    made: None = None
    problem: str


Number = Annotated[int, Field(ge=0, le=LARGEST_NUMBER, strict=True)]
Request = Annotated[str, StringConstraints(min_length=1, max_length=64, pattern=r"^[\x20-\x7e]+$")]
"""A name that no other window gives."""
Label = Annotated[str, StringConstraints(max_length=200, pattern=r"^[^\x00]*$")]
PartKey = Annotated[str, StringConstraints(max_length=80)]
Parts = Annotated[tuple[PartKey, ...], Field(max_length=MOST_NAMED)]
Patch = Annotated[list[dict[str, Any]], Field(max_length=MOST_OPERATIONS)]
"""RFC 6902 with add, replace, remove and test; whether it fits is said by who lays it on a document."""
Share = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
Place = Annotated[float, Field(ge=-10, le=10, allow_inf_nan=False)]
"""A share of a picture's width or height, that may lie outside."""
