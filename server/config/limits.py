"""How large a request may be, said before a byte of it is kept: ASGI middleware around Django.

Django spools a body to the disk before any view, and so any check of who sends it, runs. Here a body is counted as it
comes: beyond a small one only somebody who is signed in may send anything, and only to where files are taken in.
"""

import re
from http.cookies import SimpleCookie
from typing import Any

from asgiref.sync import sync_to_async
from django.conf import settings

from server.problems import CONTENT_TYPE, problem

SMALL_BODY = 256 << 10
"""Bytes of a request that carries no file."""
ENVELOPE = 64 << 10
"""Bytes of a form around its file."""
_INTAKE = re.compile(r"/api/v1/intake/(?P<kind>asset|environment|profile|image|material|look)/?$")


class TooLarge(Exception):
    """A body has more bytes than its request may have."""


class BodyLimits:
    """An ASGI application that refuses bodies that are too large, and hands everything else on."""

    def __init__(self, application: Any) -> None:
        self._application = application

    async def __call__(self, scope: dict[str, Any], receive: Any, send: Any) -> None:
        if scope["type"] != "http" or scope["method"] in ("GET", "HEAD", "OPTIONS"):
            await self._application(scope, receive, send)
            return
        limit = await _limit(scope)
        announced = dict(scope["headers"]).get(b"content-length", b"0")
        if not announced.isdigit() or int(announced[:18]) > limit:
            await _refuse(send, limit)
            return
        seen, has_answered = 0, False

        async def counted() -> dict[str, Any]:
            nonlocal seen
            message: dict[str, Any] = await receive()
            seen += len(message.get("body", b""))
            if seen > limit:
                raise TooLarge
            return message

        async def watched(message: dict[str, Any]) -> None:
            nonlocal has_answered
            has_answered = True
            await send(message)

        try:
            await self._application(scope, counted, watched)
        except TooLarge:
            if not has_answered:
                await _refuse(send, limit)


async def _limit(scope: dict[str, Any]) -> int:
    intake = _INTAKE.match(scope["path"])
    if intake and await sync_to_async(_is_signed_in)(scope):
        kind = "PACKAGE" if intake["kind"] == "asset" else intake["kind"].upper()
        return int(getattr(settings, f"{kind}_SIZE_LIMIT")) + ENVELOPE
    return SMALL_BODY


def _is_signed_in(scope: dict[str, Any]) -> bool:
    """Whether the request carries the cookie of a session that somebody has."""
    from django.contrib.auth import SESSION_KEY
    from django.contrib.sessions.backends.db import SessionStore

    cookie = SimpleCookie(dict(scope["headers"]).get(b"cookie", b"").decode("latin-1")).get(
        settings.SESSION_COOKIE_NAME
    )
    return cookie is not None and SESSION_KEY in SessionStore(session_key=cookie.value)


async def _refuse(send: Any, limit: int) -> None:
    body = problem(413, f"This request is too large: at most {limit / 1e6:.1f} MB are taken here.")
    headers = [(b"content-type", CONTENT_TYPE.encode()), (b"connection", b"close")]
    await send({"type": "http.response.start", "status": 413, "headers": headers})
    await send({"type": "http.response.body", "body": body})
