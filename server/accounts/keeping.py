"""Sessions are kept at the end of each request, also when the database goes away just then.

In: answers that are made. Out: those answers, with the session kept. Called by Django, as its middleware.
"""

from django.contrib.sessions.exceptions import SessionInterrupted
from django.contrib.sessions.middleware import SessionMiddleware
from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse


class KeptSessions(SessionMiddleware):
    """As the package's own, which takes a database that is away for somebody who has signed out meanwhile (400)."""

    def process_response(self, request: HttpRequest, response: HttpResponse) -> HttpResponse:
        """The answer. Raises the database's error where what is lost is more than the time of this request."""
        changed = request.session.modified
        try:
            return super().process_response(request, response)
        except SessionInterrupted as interrupted:
            lost = interrupted.__context__.__context__ if interrupted.__context__ else None
            if not isinstance(lost, (OperationalError, InterfaceError)):
                raise
            if changed:
                raise lost from interrupted
            return response
