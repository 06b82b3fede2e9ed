"""Errors over HTTP in one shape: problem details (RFC 9457), with the sentence that a person is shown as `detail`."""

import json
from http import HTTPStatus

CONTENT_TYPE = "application/problem+json"


def problem(status: int, detail: str) -> bytes:
    """The body of an error. Its type is "about:blank": the status says what kind it is, and the detail the rest."""
    title = HTTPStatus(status).phrase
    return json.dumps({"type": "about:blank", "title": title, "status": status, "detail": detail}).encode()
