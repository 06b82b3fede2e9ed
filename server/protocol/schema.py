"""JSON Schema of the messages, from which the front end's types are generated. Called by `export_types`."""

from typing import Any

from pydantic import TypeAdapter

from server.protocol.browser import FromBrowser, ToBrowser
from server.protocol.showings import FromVisitor, ToVisitor

UNIONS = (
    ("FromBrowser", FromBrowser, "validation"),
    ("ToBrowser", ToBrowser, "serialization"),
    ("FromVisitor", FromVisitor, "validation"),
    ("ToVisitor", ToVisitor, "serialization"),
)
REFERENCES = "#/components/schemas/{model}"


def message_schemas() -> dict[str, Any]:
    """Schemas by name, as components of an OpenAPI document, the UNIONS among them."""
    found: dict[str, Any] = {}
    for name, union, mode in UNIONS:
        schema = TypeAdapter[Any](union).json_schema(mode=mode, ref_template=REFERENCES)
        found |= schema.pop("$defs")
        found[name] = schema
    return found
