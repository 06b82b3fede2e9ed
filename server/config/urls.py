"""URLs: the API; the front end is served by ServeStatic from its build."""

from django.urls import path

from server.config.api import api

urlpatterns = [path("api/v1/", api.urls)]
