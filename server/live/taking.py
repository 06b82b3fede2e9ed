"""Keeping a take: the host's picture and the document of that moment become one row.

In: what a window wants kept, the document as it was when that was asked, the host's answer. Out: a message to the
window. Called by `session`.
"""

import base64
import logging

from server.errors import Missing, Refused
from server.live.database import in_database
from server.live.seats import View
from server.live.snapshot import Snapshot
from server.projects.policy import Person
from server.protocol.browser import RefusedMessage
from server.protocol.takes import StillFound, Take, TakeKept
from server.takes.actions import KeepTake, Still

log = logging.getLogger(__name__)
NO_PICTURE = "There is no picture to keep yet: wait for the first one."


async def kept_take(view: View, wanted: Take, person: Person, now: Snapshot, found: StillFound) -> None:
    """Store it, and say so; a window whose camera is its own keeps that as the document's."""
    if found.png is None:
        view.post(RefusedMessage(message=NO_PICTURE, request=wanted.request))
        return
    still = Still(base64.b64decode(found.png), found.samples, found.noise)
    scene = found.scene or now.scene
    if found.camera:
        scene = {**scene, "camera": found.camera}
    keeping = KeepTake(person, now.project_id, scene, now.revision, still, wanted.request, wanted.note, wanted.reason)
    try:
        take = await in_database(now.project_id, keeping.execute)
    except (Refused, Missing) as error:
        view.post(RefusedMessage(message=str(error), request=wanted.request))
        return
    log.info("take %s of project %s kept by %s", take.pk, now.project_id, person)
    view.post(TakeKept(asked=wanted.request, take=take.pk))
