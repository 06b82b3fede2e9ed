"""What the front end is generated from is current."""

import json
from pathlib import Path

from server.administration.management.commands.export_types import fields_module

API = Path(__file__).resolve().parents[2] / "web" / "src" / "api"


def test_fields_module_is_current():
    assert (API / "fields.gen.ts").read_text() == fields_module(), "run `npm run types` in web/"


def test_schema_mentions_every_path_and_model():
    from server.config.api import api

    schema = api.get_openapi_schema(path_prefix="/api/v1/")
    text = (API / "schema.ts").read_text()
    missing = [p for p in schema["paths"] if json.dumps(p) not in text]
    missing += [m for m in schema["components"]["schemas"] if f" {m}: " not in text]
    assert missing == [], "run `npm run types` in web/"
