"""The ASGI application: HTTP by Django, the viewport socket by Channels behind the same session and origin checks."""

import asyncio
import os
from typing import Any

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.config.settings")

from django.core.asgi import get_asgi_application

django_application = get_asgi_application()

from asgiref.typing import ASGIReceiveCallable, ASGISendCallable
from channels.auth import AuthMiddlewareStack
from channels.routing import ProtocolTypeRouter, URLRouter
from django.urls import path

from server.config.limits import BodyLimits
from server.config.origin import SameOrigin
from server.live.consumer import ViewportConsumer
from server.live.hosts import hosts
from server.live.sessions import sessions
from server.showings.consumer import ShowingConsumer


async def live(scope: dict[str, Any], receive: ASGIReceiveCallable, send: ASGISendCallable) -> None:
    """Have render hosts at hand as long as the server runs (ASGI lifespan protocol 2.0)."""
    await receive()
    hosts.prepare()
    watching = asyncio.create_task(sessions.watch())
    await send({"type": "lifespan.startup.complete"})
    await receive()
    watching.cancel()
    hosts.close()
    await send({"type": "lifespan.shutdown.complete"})


application = ProtocolTypeRouter(
    {
        "lifespan": live,
        "http": BodyLimits(django_application),
        "websocket": SameOrigin(
            AuthMiddlewareStack(
                URLRouter(
                    [
                        path("socket/projects/<int:project_id>", ViewportConsumer.as_asgi()),
                        path("socket/showings/<int:showing_id>", ShowingConsumer.as_asgi()),
                    ]
                )
            )
        ),
    }
)
