"""Orders over HTTP."""

import asyncio
from collections.abc import AsyncIterator, Iterator
from datetime import datetime
from pathlib import Path
from typing import Annotated

from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse, StreamingHttpResponse
from django.utils import timezone
from ninja import Router, Schema, Status
from ninja.pagination import paginate
from pydantic import Field

from server.prints import archive
from server.prints.api import PrintEntry
from server.prints.glimpses import cell_of
from server.prints.models import Order, Print
from server.prints.orders import (
    TEMPLATE,
    Choice,
    CreateOrder,
    RemoveOrder,
    ResumeOrder,
    Row,
    StopOrder,
    order_for,
    orders_of,
    planned,
)
from server.takes.sheet import contact_sheet

router = Router(tags=["orders"])
MOST_ON_A_SHEET = 600
"""Prints on one contact sheet."""


Side = Annotated[int, Field(ge=16, le=16384)]


class OrderChoice(Schema):
    editions: list[str] = Field(default_factory=list, max_length=400)
    shots: list[str] = Field(default_factory=list, max_length=400)
    conditions: list[str] = Field(default_factory=list, max_length=400)
    sizes: list[tuple[Side, Side]] = Field(default_factory=list, max_length=20)
    """Width and height [px], 16 to 16384 each; none is the size of the project."""
    template: str = Field(TEMPLATE, max_length=200)
    """Name of the files: {place}, {project}, {edition}, {shot}, {light}, {width}, {height}."""

    def choice(self) -> Choice:
        """As the action takes it."""
        return Choice(self.editions, self.shots, self.conditions, self.sizes, self.template)


class NewOrder(OrderChoice):
    name: str = Field("", max_length=80)
    left_out: list[int] = Field(default_factory=list, max_length=400)
    """Numbers of rows that are not wanted."""


class OrderRow(Schema):
    number: int
    name: str
    edition: str
    shot: str
    light: str
    width: int
    height: int
    problem: str
    seconds: float | None
    """Foreseen, by what the last prints of the project took."""
    bytes: int
    same: int | None
    """The print that has it already."""

    @classmethod
    def of(cls, row: Row) -> "OrderRow":
        edition, shot, light = row.names
        return cls(
            number=row.number, name=row.name, edition=edition, shot=shot, light=light, width=row.width,
            height=row.height, problem=row.problem, seconds=row.seconds, bytes=row.bytes, same=row.same,
        )  # fmt: skip


class OrderEntry(Schema):
    id: int
    name: str
    created: datetime
    prints: list[int]
    done: int
    failed: int
    open: int
    """Waiting or being made."""

    @staticmethod
    def resolve_prints(order: Order) -> list[int]:
        return sorted(item.pk for item in order.prints.all())

    @staticmethod
    def resolve_done(order: Order) -> int:
        return sum(item.state == Print.State.DONE for item in order.prints.all())

    @staticmethod
    def resolve_failed(order: Order) -> int:
        return sum(item.state == Print.State.FAILED for item in order.prints.all())

    @staticmethod
    def resolve_open(order: Order) -> int:
        return sum(item.state not in Print.ENDED for item in order.prints.all())


@router.post("projects/{project_id}/orders/plan", response=list[OrderRow])
def plan_order(request: HttpRequest, project_id: int, wanted: OrderChoice) -> list[OrderRow]:
    """What an order would make, row by row; nothing is queued."""
    return [OrderRow.of(row) for row in planned(request.user, project_id, wanted.choice())]


@router.get("projects/{project_id}/orders", response=list[OrderEntry])
@paginate
def list_orders(request: HttpRequest, project_id: int) -> QuerySet[Order]:
    """The orders of a project, newest first."""
    return orders_of(request.user, project_id)


@router.post("projects/{project_id}/orders", response=OrderEntry)
def create_order(request: HttpRequest, project_id: int, new: NewOrder) -> Order:
    """Queue many prints at once; what was printed already and would come out the same is taken."""
    left_out = frozenset(new.left_out)
    return CreateOrder(request.user, project_id, new.name, new.choice(), left_out).execute()


@router.post("orders/{order_id}/stop", response=OrderEntry)
def stop_order(request: HttpRequest, order_id: int) -> Order:
    """Stop what of it is not made yet."""
    return StopOrder(request.user, order_id).execute()


@router.post("orders/{order_id}/resume", response=OrderEntry)
def resume_order(request: HttpRequest, order_id: int) -> Order:
    """Queue again what of it was stopped or has failed."""
    return ResumeOrder(request.user, order_id).execute()


@router.delete("orders/{order_id}", response={204: None})
def remove_order(request: HttpRequest, order_id: int) -> Status[None]:
    """Remove an order; its prints stay."""
    RemoveOrder(request.user, order_id).execute()
    return Status(204, None)


@router.get("orders/{order_id}/prints", response=list[PrintEntry])
@paginate
def order_prints(request: HttpRequest, order_id: int) -> QuerySet[Print]:
    """The prints of an order, in the order of its table."""
    return order_for(request.user, order_id).prints.defer("glimpse").order_by("pk")


@router.get("orders/{order_id}/sheet")
def order_sheet(request: HttpRequest, order_id: int) -> HttpResponse:
    """A contact sheet of what of an order is made, PDF; of its small pictures, so that no large one is opened."""
    order = order_for(request.user, order_id)
    made = order.prints.filter(state=Print.State.DONE, glimpse__isnull=False).order_by("pk")[:MOST_ON_A_SHEET]
    cells = [cell_of(item) for item in made]
    headers = {"Content-Disposition": f'attachment; filename="order-{order.pk}.pdf"'}
    body = contact_sheet(f"{order.project.name}: {order.name}", "prints", cells, timezone.localtime())
    return HttpResponse(body, content_type="application/pdf", headers=headers)


@router.get("orders/{order_id}/file")
def order_file(request: HttpRequest, order_id: int) -> StreamingHttpResponse:
    """All files of an order that are made, as one zip."""
    order = order_for(request.user, order_id)
    members = archive.members_of(order)
    headers = {"Content-Disposition": f'attachment; filename="order-{order.pk}.zip"'}
    return StreamingHttpResponse(_sent(members), content_type="application/zip", headers=headers)


async def _sent(members: list[tuple[str, Path]]) -> AsyncIterator[bytes]:
    pieces: Iterator[bytes] = archive.zipped(members)
    while (piece := await asyncio.to_thread(next, pieces, None)) is not None:
        yield piece
