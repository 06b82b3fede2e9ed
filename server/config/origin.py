"""WebSockets only from pages of this very server: scheme, host and port of the Origin header (RFC 6454) are compared.

Hosts alone do not do: another server on the same machine has the same host.
"""

from typing import Any
from urllib.parse import urlsplit

from django.conf import settings
from django.http.request import validate_host


class SameOrigin:
    """An ASGI application that refuses sockets that pages of other servers open."""

    def __init__(self, application: Any) -> None:
        self._application = application

    async def __call__(self, scope: dict[str, Any], receive: Any, send: Any) -> None:
        headers = dict(scope["headers"])
        host = headers.get(b"host", b"").decode("latin-1")
        if is_same(headers.get(b"origin", b"").decode("latin-1"), host):
            await self._application(scope, receive, send)
        else:
            await send({"type": "websocket.close", "code": 4403})


def is_same(origin: str, host: str) -> bool:
    """Whether an Origin is that of the server that was asked for as `host`, which must be one of ours."""
    try:
        parts = urlsplit(origin)
        name = host.rpartition(":")[0] if host.rpartition(":")[2].isdigit() else host
        asked = urlsplit(f"//{host}")
        scheme = "https" if settings.BEHIND_TLS else "http"
        usual = 443 if settings.BEHIND_TLS else 80
        same = (parts.hostname, parts.port or usual) == (asked.hostname, asked.port or usual)
    except ValueError:
        return False
    return parts.scheme == scheme and same and validate_host(name.lower(), settings.ALLOWED_HOSTS)
