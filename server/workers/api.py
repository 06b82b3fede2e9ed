"""Workers over HTTP."""

from django.db.models import QuerySet
from django.http import HttpRequest
from ninja import Router, Schema
from ninja.pagination import paginate

from server.workers.here import alive
from server.workers.models import Worker

router = Router(tags=["workers"])


class WorkerEntry(Schema):
    id: int
    name: str
    threads: int
    memory: int
    """Bytes that the film of a print may take there."""
    kinds: str
    """`stills`, `films`, or both with a comma."""
    speed: float
    """Rays a second, of what it did last; 0 before that."""
    print: int | None
    """Number of the print that it is at."""
    helps: bool
    """Whether another worker leads that print."""


@router.get("workers", response=list[WorkerEntry])
@paginate
def list_workers(request: HttpRequest) -> QuerySet[Worker]:
    """The workers that are there."""
    return alive()
