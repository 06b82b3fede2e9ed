"""The header `Idempotency-Key` (IETF draft draft-ietf-httpapi-idempotency-key-header, sections 2 and 2.6).

In: a POST of somebody who is signed in, with a key that they have made. Out: its answer; sent again within a day, the
same answer, and nothing is done. Request and answer are one transaction: whatever breaks in the middle leaves neither,
and of two requests that come at once the second waits for the first.
"""

import hashlib
from collections.abc import Callable
from datetime import timedelta

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from server.idempotency.models import KeptAnswer
from server.problems import CONTENT_TYPE, problem

HEADER = "Idempotency-Key"
LONGEST_KEY = 64
KEPT = timedelta(days=1)
"""How long an answer is kept: far longer than anybody goes on asking."""


class IdempotencyKeys:
    """Django middleware; it stands behind the one that knows who is signed in."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        key = request.headers.get(HEADER)
        if request.method != "POST" or key is None or not request.user.is_authenticated:
            return self._get_response(request)
        if not 1 <= len(key) <= LONGEST_KEY or not key.isascii() or not key.isprintable():
            return _refusal(400, f"{HEADER}: 1 to {LONGEST_KEY} printable characters are needed, not {len(key)}.")
        KeptAnswer.objects.filter(person=request.user, created__lt=timezone.now() - KEPT).delete()
        with transaction.atomic():
            fingerprint = _fingerprint(request)
            kept, is_new = KeptAnswer.objects.get_or_create(
                person=request.user, key=key, defaults={"fingerprint": fingerprint}
            )
            if not is_new:
                return _again(kept, fingerprint)
            answer = self._get_response(request)
            if answer.status_code >= 300 or answer.streaming:
                # Nothing was done; once the reason is gone it may be asked again.
                transaction.set_rollback(True)
                return answer
            if "no-store" in answer.get("Cache-Control", ""):
                # It holds a secret (RFC 9111, section 5.2.2.5): better done twice than kept.
                kept.delete()
                return answer
            kept.status, kept.content_type = answer.status_code, answer.get("Content-Type", "")
            kept.body = answer.content
            kept.save(update_fields=("status", "content_type", "body"))
        return answer


def _fingerprint(request: HttpRequest) -> str:
    """What is asked; of a file that is sent, its size stands for its content."""
    is_form = request.content_type == "multipart/form-data"
    what = request.headers.get("Content-Length", "").encode() if is_form else request.body
    return hashlib.sha256(f"{request.method} {request.get_full_path()}\n".encode() + what).hexdigest()


def _again(kept: KeptAnswer, fingerprint: str) -> HttpResponse:
    if kept.fingerprint != fingerprint:
        return _refusal(422, f"This {HEADER} was used for another request: make a new one for each.")
    return HttpResponse(bytes(kept.body), status=kept.status, content_type=kept.content_type)


def _refusal(status: int, detail: str) -> HttpResponse:
    return HttpResponse(problem(status, detail), status=status, content_type=CONTENT_TYPE)
