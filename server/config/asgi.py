"""The ASGI application: HTTP by Django, the viewport socket by Channels behind the same session and origin checks."""

import os

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.config.settings")

from django.core.asgi import get_asgi_application

django_application = get_asgi_application()

from channels.auth import AuthMiddlewareStack
from channels.routing import ProtocolTypeRouter, URLRouter
from channels.security.websocket import AllowedHostsOriginValidator
from django.urls import path

from server.viewport.consumer import ViewportConsumer

application = ProtocolTypeRouter(
    {
        "http": django_application,
        "websocket": AllowedHostsOriginValidator(
            AuthMiddlewareStack(URLRouter([path("socket/projects/<int:project_id>", ViewportConsumer.as_asgi())]))
        ),
    }
)
