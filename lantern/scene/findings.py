"""What was found about an asset when it was brought in; kept beside the document."""

from typing import Any

from lantern.scene.model import Key, Model

Patch = list[dict[str, Any]]


class Finding(Model):
    """One item of the import report. `unit` [m] is what one of the file's units may be, if its size is unusual."""

    kind: str
    text: str
    hint: str = ""
    count: int = 0
    parts: tuple[Key, ...] = ()
    repair: list[dict[str, Any]] | None = None
    repair_label: str = ""
    unit: float | None = None
