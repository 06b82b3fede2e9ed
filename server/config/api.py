"""The REST API: routers of the rooms, and the one place where exceptions become HTTP."""

import sys

from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, ValidationError
from ninja.security import django_auth
from procrastinate.exceptions import ConnectorException

from lantern.assets.errors import AssetError
from lantern.light.profiles import ProfileError
from lantern.picture.files import ImageError
from lantern.scene.reading import SceneError
from server.accounts.api import invitations
from server.accounts.api import router as accounts
from server.errors import Missing, Refused
from server.intake.api import router as intake
from server.library.api import router as library
from server.packages.api import router as packages
from server.prints.api import router as prints
from server.prints.orders_api import router as orders
from server.problems import CONTENT_TYPE, problem
from server.projects.api import router as projects
from server.showings.api import router as showings
from server.showings.visits_api import router as visits
from server.takes.api import router as takes
from server.workers.api import router as workers

api = NinjaAPI(title="Velvet Lantern", version="1", auth=django_auth, docs_url=None, urls_namespace="api")
api.add_router("/session", accounts)
api.add_router("/invitations", invitations)
api.add_router("/", intake)
api.add_router("/", library)
api.add_router("/", projects)
api.add_router("/", packages)
api.add_router("/", prints)
api.add_router("/", orders)
api.add_router("/", workers)
api.add_router("/", takes)
api.add_router("/", showings)
api.add_router("/visits", visits)


def _answer(request: HttpRequest, status: int, message: str) -> HttpResponse:
    return HttpResponse(problem(status, message), status=status, content_type=CONTENT_TYPE)


@api.exception_handler(HttpError)
def refused(request: HttpRequest, error: HttpError) -> HttpResponse:
    """A view says no."""
    return _answer(request, error.status_code, str(error))


@api.exception_handler(AuthenticationError)
def not_signed_in(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
    """Nobody is signed in."""
    return _answer(request, 401, "Sign in first.")


@api.exception_handler(ValidationError)
def unreadable(request: HttpRequest, error: ValidationError) -> HttpResponse:
    """What was sent is not of the form that is expected; the message names the first field that is wrong."""
    first = error.errors[0]
    field = "/".join(str(step) for step in first["loc"][1:]) or "request"
    return _answer(request, 422, f"{field}: {first['msg']}")


@api.exception_handler(AssetError)
@api.exception_handler(ImageError)
@api.exception_handler(ProfileError)
@api.exception_handler(SceneError)
@api.exception_handler(Refused)
def unusable(request: HttpRequest, error: Exception) -> HttpResponse:
    """What was sent cannot be used; the message says why."""
    return _answer(request, 422, str(error))


@api.exception_handler(ConnectorException)
@api.exception_handler(OperationalError)
@api.exception_handler(InterfaceError)
def away(request: HttpRequest, error: Exception) -> HttpResponse:
    """The database does not answer."""
    return _answer(request, 503, "The database does not answer at the moment. Try again in a few seconds.")


def server_error(request: HttpRequest) -> HttpResponse:
    """What Django answers to an exception outside of the API: in its middleware the database may be away as well."""
    if isinstance(sys.exc_info()[1], (OperationalError, InterfaceError, ConnectorException)):
        return away(request, Exception())
    return _answer(request, 500, "Something went wrong here; it has been logged. Try again.")


@api.exception_handler(Missing)
def missing(request: HttpRequest, error: Exception) -> HttpResponse:
    """Not there, or not this person's: the same answer, so that nobody can tell which."""
    return _answer(request, 404, str(error))
