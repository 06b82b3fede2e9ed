"""One line of the log for each request over HTTP.

In: requests and answers. Out: a record of the logger `server.requests`, whose fields are method, path, status,
milliseconds, person and request; the answer carries the last as `X-Request-ID`. What stands behind "?" is not logged.
"""

import logging
import secrets
import time
from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

log = logging.getLogger("server.requests")
HEADER = "X-Request-ID"


class RequestLog:
    """Django middleware; the outermost, so that nothing is missed."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        begun = time.perf_counter()
        name = secrets.token_hex(8)
        answer = self._get_response(request)
        answer[HEADER] = name
        user = getattr(request, "user", None)
        fields = {
            "method": request.method,
            "path": request.path,
            "status": answer.status_code,
            "milliseconds": round(1000 * (time.perf_counter() - begun), 1),
            "person": user.pk if user is not None and user.is_authenticated else None,
            "request": name,
        }
        log.info("request", extra=fields)
        return answer
