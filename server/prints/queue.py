"""The order in which prints that wait are made: those of a higher priority first, then those that came first.

In: prints. Out: their places; priorities that give them other places. Called by the HTTP interface and by `actions`.

A job whose priority is not that of its print is left behind by a change of places, and does nothing: there is another.
"""

from collections.abc import Sequence

from django.db.models import Case, Count, IntegerField, OuterRef, Q, QuerySet, Subquery, Value, When
from django.db.models.functions import Coalesce
from django.utils import timezone

from server.prints import tasks
from server.prints.models import Print

IN_ORDER = ("-priority", "queued", "pk")


def with_places(prints: QuerySet[Print]) -> QuerySet[Print]:
    """Prints with `place`: as which of all that wait each is made, from 1; None for those that do not."""
    alike = Q(priority=OuterRef("priority"))
    before = (
        Q(priority__gt=OuterRef("priority"))
        | alike & Q(queued__lt=OuterRef("queued"))
        | alike & Q(queued=OuterRef("queued"), pk__lt=OuterRef("pk"))
    )
    counted = Print.objects.filter(before, state=Print.State.QUEUED).order_by().values("state")
    ahead = Coalesce(Subquery(counted.annotate(many=Count("pk")).values("many")), Value(0))
    place = Case(When(state=Print.State.QUEUED, then=ahead + 1), default=None, output_field=IntegerField(null=True))
    return prints.annotate(place=place)


def lock_waiting() -> list[Print]:
    """All prints that wait, in their order, so that nobody changes it before this transaction ends."""
    waiting = Print.objects.select_for_update().filter(state=Print.State.QUEUED).order_by(*IN_ORDER)
    return list(waiting.only("pk", "priority", "queued", "form", "project_id"))


def put_in_order(before: Sequence[Print], wanted: Sequence[Print]) -> None:
    """Give those of `before` whose places are to be others' the order of `wanted`; all others keep their places."""
    moved = iter(wanted)
    keys = {item.pk for item in wanted}
    after = [next(moved) if item.pk in keys else item for item in before]
    last: Print | None = None
    for item in reversed(after):
        if last is not None and not _comes_before(item, last):
            item.priority, item.queued = last.priority + 1, timezone.now()
            item.save(update_fields=("priority", "queued"))
            tasks.queue_print(item.pk, item.worked_by, item.priority)
        last = item


def _comes_before(item: Print, other: Print) -> bool:
    return (-item.priority, item.queued, item.pk) < (-other.priority, other.queued, other.pk)
