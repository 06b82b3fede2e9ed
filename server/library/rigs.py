"""Rigs of the shelf: those of the core, and a person's own.

In: a person, a rig. Out: entries of the shelf. Called by the HTTP interface. What is kept is a document of light alone,
so that it is brought forward as documents are.
"""

from dataclasses import dataclass

from lantern.scene.document import Scene
from lantern.scene.look import Look
from lantern.scene.reading import read_scene
from lantern.scene.rigs import Rig
from lantern.shelf.rigs import RIGS
from server.errors import Missing, Refused
from server.library.models import RigItem
from server.projects.policy import Person

MOST_RIGS = 500
"""Of one person."""


@dataclass(frozen=True)
class ShelvedRig:
    """A rig as the shelf shows it."""

    key: str
    name: str
    built_in: bool
    rig: Rig


def shelf_of(person: Person) -> list[ShelvedRig]:
    """The person's own rigs, then those of the core."""
    own = [ShelvedRig(f"own-{item.pk}", item.name, False, _rig(item)) for item in RigItem.objects.filter(owner=person)]
    return own + [ShelvedRig(key, (rig := make()).name, True, rig) for key, make in RIGS.items()]


def _rig(item: RigItem) -> Rig:
    scene = read_scene(item.content)
    return Rig(
        name=item.name,
        lights=scene.lights,
        environment=scene.environment,
        backdrop=scene.backdrop,
        ground=scene.ground,
        exposure=scene.look.exposure,
    )


@dataclass(frozen=True)
class KeepRig:
    """Keep a rig on the person's own shelf. Raises Refused when there are too many."""

    person: Person
    rig: Rig

    def execute(self) -> ShelvedRig:
        if RigItem.objects.filter(owner=self.person).count() >= MOST_RIGS:
            raise Refused(f"There are {MOST_RIGS} rigs of yours already: take one off the shelf first.")
        rig = self.rig
        parts = {"environment": rig.environment, "backdrop": rig.backdrop, "ground": rig.ground}
        told = {name: part for name, part in parts.items() if part is not None}
        look = {} if rig.exposure is None else {"look": Look(exposure=rig.exposure)}
        content = Scene().model_copy(update={"lights": rig.lights, **told, **look}).plain()
        item = RigItem.objects.create(owner=self.person, name=rig.name, content=content)
        return ShelvedRig(f"own-{item.pk}", item.name, False, rig)


@dataclass(frozen=True)
class TakeOffRig:
    """Take a rig off the person's own shelf. Raises Missing."""

    person: Person
    key: str

    def execute(self) -> None:
        number = self.key.removeprefix("own-")
        gone = RigItem.objects.filter(owner=self.person, pk=number).delete()[0] if number.isdecimal() else 0
        if not gone:
            raise Missing(f"There is no rig {self.key} of yours.")
