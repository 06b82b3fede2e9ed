"""The pieces of a print that several workers make: cut, taken, handed in.

In: a print, the worker that this is. Out: rows of `Piece` and `Lease`, and files in the storage of prints. Called by
`together`. A piece is taken by a lease, and handed in by who still has it: a worker that was believed dead has lost its
leases, and what it brings afterwards is thrown away.
"""

import logging
import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from django.core.files.storage import storages
from django.db import transaction
from django.db.models import QuerySet, Sum
from django.db.models.functions import Now

from lantern.sharing.handing import Holder, OpenPiece, next_piece
from server.prints.models import Lease, Piece, Print
from server.runtime.patience import patiently
from server.runtime.stores import put, remove
from server.workers.here import SILENCE
from server.workers.models import Worker

log = logging.getLogger(__name__)
USUAL_SPEED = 5e6
"""Rays a second of a worker that has not measured its own yet."""


@dataclass(frozen=True)
class Taken:
    """A piece, and the lease by which this worker makes it."""

    piece: Piece
    lease: int

    @property
    def file_name(self) -> str:
        """Where its result goes: nobody else's goes there."""
        suffix = "npz" if self.piece.frame is None else "png"
        return f"{self.piece.print_id}/pieces/{self.piece.pk}-{self.lease}.{suffix}"


def base_name(item: Print) -> str:
    """Name in storage of the film that the pieces of a frame go on from."""
    return f"{item.pk}/pieces/base.npz"


def cut(item: Print, wanted: Sequence[Piece], base: Path | None = None) -> None:
    """Write down the pieces of a print, and keep the film that they go on from."""
    if base is not None:
        put(storages["prints"], base, base_name(item))
    # Should the database go away just then, they may be there already.
    patiently(lambda: item.pieces.exists() or Piece.objects.bulk_create(wanted))


def base_is_gone(item: Print) -> bool:
    """Whether a frame was cut, and what its pieces go on from has been lost."""
    regions = patiently(item.pieces.filter(frame=None).exists)
    return regions and not storages["prints"].exists(base_name(item))


def take(item: Print, worker: Worker) -> Taken | None:
    """A piece for a worker, None when there is none that it would be done with sooner than who has it."""
    with transaction.atomic():
        open_ones = list(Piece.objects.select_for_update().filter(print=item, file="").order_by("pk"))
        Lease.objects.filter(piece__in=open_ones, worker__seen__lt=Now() - SILENCE).delete()
        held: dict[int, list[Holder]] = {}
        for lease in Lease.objects.filter(piece__in=open_ones).select_related("worker"):
            if lease.worker_id == worker.pk:
                lease.delete()  # it was given up there
                continue
            holder = Holder(lease.since.timestamp(), lease.worker.speed or USUAL_SPEED)
            held.setdefault(lease.piece_id, []).append(holder)
        now = Worker.objects.filter(pk=worker.pk).values_list(Now(), flat=True)[0]  # one clock for all machines
        seen = [OpenPiece(piece.pk, piece.cost, tuple(held.get(piece.pk, ()))) for piece in open_ones]
        number = next_piece(seen, now.timestamp(), worker.speed or USUAL_SPEED)
        if number is None:
            return None
        lease = Lease.objects.create(piece_id=number, worker=worker, since=now)
        return Taken(next(piece for piece in open_ones if piece.pk == number), lease.pk)


def hand_in(taken: Taken, path: Path) -> bool:
    """Bring what was made of a piece; False, and it is thrown away, when another was quicker or the lease is lost."""
    put(storages["prints"], path, taken.file_name)
    if patiently(lambda: _counts(taken)):
        return True
    log.info("piece %s of print %s was not waited for", taken.piece.pk, taken.piece.print_id)
    remove(storages["prints"], taken.file_name)
    return False


def _counts(taken: Taken) -> bool:
    """Whether what was stored for a piece is what counts; it may be asked twice."""
    with transaction.atomic():
        piece = Piece.objects.select_for_update().filter(pk=taken.piece.pk).first()
        if piece is None or piece.file:
            return piece is not None and piece.file == taken.file_name
        if not Lease.objects.filter(pk=taken.lease).exists():
            return False
        piece.file = taken.file_name
        piece.save(update_fields=["file"])
        piece.leases.all().delete()
        return True


def give_back(taken: Taken) -> None:
    """Let others take a piece that was not made."""
    patiently(Lease.objects.filter(pk=taken.lease).delete)


def cost_left(item: Print) -> tuple[float, float]:
    """(cost of the pieces that are not done, of all)."""

    def sum_of(some: QuerySet[Piece]) -> float:
        return float(some.aggregate(Sum("cost"))["cost__sum"] or 0.0)

    return patiently(lambda: (sum_of(item.pieces.filter(file="")), sum_of(item.pieces.all())))


def discard_pieces(item: Print) -> None:
    """Remove the pieces of a print, and what was made of them."""
    names = patiently(lambda: list(item.pieces.values_list("file", flat=True)))
    if not names:
        return
    for name in (*filter(None, names), base_name(item)):
        remove(storages["prints"], name)
    patiently(item.pieces.all().delete)


def partial(item: Print) -> Path:
    """A new file on this machine for what is on its way to storage."""
    item.folder.mkdir(parents=True, exist_ok=True)
    return item.folder / f"partial-{uuid.uuid4().hex}"
