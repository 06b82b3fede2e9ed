"""What all parts of the document are made of: the base model, keys, names, files by content."""

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

Key = Annotated[str, StringConstraints(pattern=r"^[a-z0-9_-]{1,80}$")]
Name = Annotated[str, StringConstraints(min_length=1, max_length=200, pattern=r"^[^\x00]+$")]
"""Without the one character that a database does not keep."""
Digest = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]


class Model(BaseModel):
    """A part of the document: unknown fields are refused, values are immutable once read."""

    model_config = ConfigDict(extra="forbid", frozen=True, json_schema_serialization_defaults_required=True)


class FileRef(Model):
    """A file by content."""

    sha256: Digest
    name: Name = Field(title="File name")
