"""What is in a package: a zip of `project.json`, `cover.jpg` and the files that the project names, by their digests.

`project.json` holds the document as it is stored and, if wanted, its steps of undo; `docs/api.md` says more.
"""

from typing import Any

from pydantic import BaseModel, ConfigDict, Field

from lantern.scene.findings import Finding
from lantern.scene.patching import Patch

FORMAT = "velvet-lantern-project"
VERSION = 1
INDEX, COVER, FILES = "project.json", "cover.jpg", "files/"
SUFFIX = ".project.zip"


class Step(BaseModel):
    """One step of undo."""

    model_config = ConfigDict(extra="forbid")

    number: int = Field(ge=1, le=1 << 31)
    patch: Patch
    inverse: Patch
    label: str = Field(max_length=200)


class Index(BaseModel):
    """`project.json`."""

    model_config = ConfigDict(extra="forbid")

    format: str = FORMAT
    version: int = VERSION
    name: str = Field(min_length=1, max_length=200)
    scene: dict[str, Any]
    problems: list[str] = []
    report: list[Finding] = []
    bounds: list[list[float]] | None = None
    revision: int = Field(1, ge=1, le=1 << 31)
    cursor: int = Field(0, ge=0, le=1 << 31)
    steps: list[Step] = []
