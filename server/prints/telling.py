"""Telling another program that a print has ended (LANTERN_WEBHOOK): a chat, a pipeline, whatever waits for it.

In: the number of a print. Out: one request. Called by a task, which tries again when nobody answers.
"""

import hashlib
import hmac
import json
import urllib.request

from django.conf import settings

from server.prints.models import Print
from server.runtime.paths import secret

TIMEOUT_SECONDS = 10.0
SIGNATURE = "X-Lantern-Signature"


def signature_of(body: bytes) -> str:
    """HMAC-SHA256 (RFC 2104) of a request's body in hexadecimal, by the secret `webhook` of the data folder."""
    return hmac.new(secret("webhook").encode(), body, hashlib.sha256).hexdigest()


def tell(number: int) -> None:
    """Say how a print has ended. Raises OSError when nobody takes it."""
    item = Print.objects.filter(pk=number, state__in=Print.ENDED).select_related("project").first()
    if not settings.WEBHOOK or item is None or item.ended is None:
        return
    said = {
        "print": item.pk,
        "name": item.name,
        "project": {"id": item.project_id, "name": item.project.name},
        "state": item.state,
        "error": item.error,
        "ended": item.ended.isoformat(),
        "files": [f"/api/v1/prints/{item.pk}/files/{kind}" for kind in item.kinds if item.state == Print.State.DONE],
    }
    body = json.dumps(said).encode()
    headers = {"Content-Type": "application/json", SIGNATURE: signature_of(body)}
    with urllib.request.urlopen(
        urllib.request.Request(settings.WEBHOOK, body, headers), timeout=TIMEOUT_SECONDS
    ) as answer:
        answer.read(1)
