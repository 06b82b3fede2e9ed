"""URLs: the API and what watches the server; the front end is served by ServeStatic from its build."""

from django.urls import path

from server.config.api import api
from server.observing.health import is_alive, is_ready
from server.observing.metrics import metrics

urlpatterns = [
    path("api/v1/", api.urls),
    path("health/live", is_alive),
    path("health/ready", is_ready),
    path("metrics", metrics),
]
handler500 = "server.config.api.server_error"
