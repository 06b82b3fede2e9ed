"""Many prints at once: editions by shots by light by sizes, as a table before, and as rows of the queue after.

In: a person, a project, what is chosen. Out: the table; an order with its prints. Called by the HTTP interface. What
was printed already, and would come out the same, is taken and not printed again.
"""

import statistics
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace

from django.db import transaction
from django.db.models import Prefetch, QuerySet
from django.utils import timezone

from lantern.scene.document import Scene
from lantern.scene.editing import Document
from lantern.scene.naming import TEMPLATE, named
from lantern.scene.orders import Combination, OrderError, combinations, digest_of, shown_under, sized
from lantern.scene.variants import VariantError
from server.errors import Missing, Refused
from server.prints import tasks
from server.prints.actions import discard_held
from server.prints.memory import film_problem
from server.prints.models import Order, Print
from server.projects.policy import Person, held_project, project_for, visible_projects

MOST_ROWS = 400
LEARNS_FROM = 10
"""Prints of a project by which the time of the next is foreseen."""
BYTES_A_PIXEL = 30
"""Of PNG and EXR together, before a print has shown how many it is."""


@dataclass(frozen=True)
class Choice:
    """What an order is of. No size is that of the document."""

    editions: Sequence[str] = ()
    shots: Sequence[str] = ()
    conditions: Sequence[str] = ()
    sizes: Sequence[tuple[int, int]] = ()
    template: str = TEMPLATE


@dataclass(frozen=True)
class Row:
    """One picture of an order, before it is made."""

    number: int
    name: str
    names: tuple[str, str, str]
    """Of edition, shot and light, empty where there is nothing to tell."""
    width: int
    height: int
    problem: str = ""
    """Why it cannot be made."""
    seconds: float | None = None
    bytes: int = 0
    same: int | None = None
    """The print that has it already."""
    scene: Scene | None = field(default=None, repr=False)
    digest: str = ""


def planned(person: Person, project_id: int, choice: Choice) -> list[Row]:
    """The table of an order. Raises Missing, and Refused for too many rows or a name that cannot be."""
    project = project_for(person, project_id)
    document = Document.read(project.scene)
    scene = document.scene
    if not scene.parts:
        raise Refused("There is nothing to print: the project has no asset.")
    wanted = list(combinations(choice.editions, choice.shots, choice.conditions))
    sizes = list(dict.fromkeys(choice.sizes)) or [None]
    if len(wanted) * len(sizes) > MOST_ROWS:
        raise Refused(f"These are {len(wanted) * len(sizes):,} pictures, and {MOST_ROWS} are the most: choose fewer.")
    stills = Print.objects.filter(project=project, form=Print.STILL, state=Print.State.DONE)
    pace = _pace(stills)
    found = dict(stills.exclude(digest="").order_by("pk").values_list("digest", "pk"))
    rows = []
    for one in wanted:
        for size in sizes:
            row = _row(len(rows), document, one, size, project.name, choice.template)
            if row.scene is not None:
                pixels = row.width * row.height * row.scene.print.samples
                seconds = None if pace is None else pace * pixels
                row = replace(row, seconds=seconds, same=found.get(row.digest))
            rows.append(row)
    return rows


def _row(
    number: int, document: Document, one: Combination, size: tuple[int, int] | None, project: str, template: str
) -> Row:
    scene = document.scene
    try:
        seen = shown_under(document, one)
    except (OrderError, VariantError) as error:
        width, height = size or (scene.print.width, scene.print.height)
        names = _names(scene, one)
        return Row(number, _named(template, number, project, names, width, height), names, width, height, str(error))
    if size is not None:
        seen = sized(seen, *size)
    width, height, names = seen.print.width, seen.print.height, one.names(scene)
    name = _named(template, number, project, names, width, height)
    row = Row(number, name, names, width, height, film_problem(seen), bytes=width * height * BYTES_A_PIXEL, scene=seen)
    return replace(row, digest=digest_of(seen))


def _names(scene: Scene, one: Combination) -> tuple[str, str, str]:
    try:
        return one.names(scene)
    except KeyError:
        return "", "", ""


def _named(template: str, number: int, project: str, names: tuple[str, str, str], width: int, height: int) -> str:
    """Raises Refused as `named` raises OrderError."""
    try:
        return named(template, number, project, names, width, height)
    except OrderError as error:
        raise Refused(str(error)) from error


def _pace(stills: QuerySet[Print]) -> float | None:
    """Seconds a sample of a pixel of the last prints of a project; None before there is one."""
    paces = []
    for scene, spent in stills.filter(seconds_spent__gt=0).values_list("scene", "seconds_spent")[:LEARNS_FROM]:
        settings = scene["print"]
        paces.append(spent / (settings["width"] * settings["height"] * settings["samples"]))
    return statistics.median(paces) if paces else None


def order_for(person: Person, number: int) -> Order:
    """One order of a person's projects. Raises Missing."""
    found = Order.objects.filter(pk=number, project__in=visible_projects(person)).first()
    if found is None:
        raise Missing(f"There is no order {number} for you.")
    return found


def orders_of(person: Person, project_id: int) -> QuerySet[Order]:
    """Those of a project, newest first, without the documents of their prints. Raises Missing."""
    prints = Prefetch("prints", Print.objects.defer("scene"))
    return project_for(person, project_id).orders.prefetch_related(prints)


@dataclass(frozen=True)
class CreateOrder:
    """Queue what an order is of, but for the rows that are left out. Raises Missing and Refused."""

    person: Person
    project_id: int
    name: str
    choice: Choice
    left_out: frozenset[int] = frozenset()

    def execute(self) -> Order:
        rows = [row for row in planned(self.person, self.project_id, self.choice) if row.number not in self.left_out]
        if wrong := next((row for row in rows if row.problem), None):
            raise Refused(f"{wrong.name}: {wrong.problem}")
        if not rows:
            raise Refused("Nothing of this order is left to print.")
        if len({row.name for row in rows}) < len(rows):
            raise Refused("Two pictures would have one name: put {place}, or what tells them apart, into the name.")
        with transaction.atomic():
            project = held_project(self.person, self.project_id, "name")
            name = " ".join(self.name.split())[:80] or "Order"
            order = Order.objects.create(project=project, author=self.person, name=name)
            for row in rows:
                self._take(order, row)
        return order

    def _take(self, order: Order, row: Row) -> None:
        assert row.scene is not None
        if row.same is not None:
            order.prints.add(row.same)
            return
        created = Print.objects.create(
            project_id=order.project_id,
            author=self.person,
            scene=row.scene.model_dump(mode="json"),
            name=row.name,
            digest=row.digest,
        )
        order.prints.add(created)
        tasks.queue_print(created.pk, created.worked_by)


@dataclass(frozen=True)
class StopOrder:
    """Stop what of an order is not made yet, but what another order wants too. Raises Missing."""

    person: Person
    number: int

    def execute(self) -> Order:
        order = order_for(self.person, self.number)
        for item in _open_ones(order):
            discard_held(item)
            item.state, item.ended, item.seconds_left = Print.State.CANCELED, timezone.now(), None
            item.save(update_fields=("state", "ended", "seconds_left"))
        return order


@dataclass(frozen=True)
class ResumeOrder:
    """Queue again what of an order was stopped, is held or has failed. Raises Missing."""

    person: Person
    number: int

    def execute(self) -> Order:
        order = order_for(self.person, self.number)
        again = order.prints.filter(state__in=(Print.State.CANCELED, Print.State.FAILED, Print.State.HELD)).defer(
            "scene"
        )
        with transaction.atomic():
            for item in again.order_by("pk"):
                item.state, item.attempts, item.error, item.ended = Print.State.QUEUED, 0, "", None
                item.queued = timezone.now()
                item.save(update_fields=("state", "attempts", "error", "ended", "queued"))
                tasks.queue_print(item.pk, item.worked_by, item.priority)
        return order


@dataclass(frozen=True)
class RemoveOrder:
    """Remove an order; what it has not made is stopped, what is made stays among the prints. Raises Missing."""

    person: Person
    number: int

    def execute(self) -> None:
        order = order_for(self.person, self.number)
        StopOrder(self.person, self.number).execute()
        order.delete()


def _open_ones(order: Order) -> Iterator[Print]:
    for item in order.prints.exclude(state__in=Print.ENDED).defer("scene"):
        if item.orders.count() == 1:
            yield item
