"""The shelf of materials: those that come with the application, and a person's own.

In: who asks. Out: swatches as the browser lays them into a document. Called by the library's routes and its task. What
is kept of a project's material is the material and what lies over it, without images of the asset.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from django.db import transaction

from lantern.compile.checks import texture_uses
from lantern.engine.shelf_pictures import picture_name
from lantern.kernel.cache import cache_root
from lantern.scene.document import SCHEMA_VERSION, Material, Scene
from lantern.scene.inputs import with_texture, with_textures
from lantern.scene.layers import with_inputs
from lantern.scene.reading import read_scene
from lantern.shelf.catalogue import catalogue
from server.errors import Missing, Refused
from server.library.models import FavouriteSwatch, SwatchItem
from server.projects import storage
from server.projects.policy import project_for
from server.projects.storage import Person

OWN = "My own"
MOST_OWN = 500
_LOWEST = "lowest"


@dataclass(frozen=True)
class Shelved:
    """A swatch with the keys that its materials take in a document, the lowest first."""

    key: str
    name: str
    family: str
    words: str
    number: int | None  # of a person's own
    materials: Mapping[str, Material]
    is_favourite: bool = False
    problems: Sequence[str] = ()

    @property
    def picture(self) -> Path:
        """Where its picture lies, when it has been made."""
        lowest, *over = self.materials
        return pictures_folder() / picture_name(self.materials[lowest], {key: self.materials[key] for key in over})


def pictures_folder() -> Path:
    """Pictures of swatches on this machine, made anew where they are missing."""
    return cache_root() / "swatches"


def _keyed(key: str, material: Material, over: Mapping[str, Material]) -> dict[str, Material]:
    """Materials by keys of their own, the layers named by them."""
    layers = [layer.model_copy(update={"material": f"{key}-{layer.material}"}) for layer in material.layers]
    lowest = material.model_copy(update={"layers": tuple(layers)})
    return {key: lowest, **{f"{key}-{name}": each for name, each in over.items()}}


def shelf_of(person: Person) -> Iterator[Shelved]:
    """A person's own swatches, the newest first, then everybody's."""
    liked = set(FavouriteSwatch.objects.filter(owner=person).values_list("key", flat=True))
    for item in SwatchItem.objects.filter(owner=person).order_by("-pk"):
        found = own(item)
        yield replace(found, is_favourite=found.key in liked)
    for each in catalogue().values():
        keyed = _keyed(each.key, each.material, each.over)
        yield Shelved(each.key, each.name, each.family, each.words, None, keyed, each.key in liked)


def own(item: SwatchItem) -> Shelved:
    """A person's own swatch, whatever version of the application it was kept by."""
    scene = read_scene(item.content)
    key = f"own-{item.pk}"
    over = {name: material for name, material in scene.materials.items() if name != _LOWEST}
    keyed = _keyed(key, scene.materials[_LOWEST], over)
    return Shelved(key, item.name, OWN, item.tags, item.pk, keyed, problems=item.problems)


def swatch_for(person: Person, key: str) -> Shelved:
    """One swatch of the shelf. Raises Missing when there is none for this person."""
    found = next((each for each in shelf_of(person) if each.key == key), None)
    if found is None:
        raise Missing(f"There is no swatch {key} for you.")
    return found


@dataclass(frozen=True)
class KeepSwatch:
    """Keep a material of a project on the person's own shelf, to be found by some words."""

    person: Person
    project: int
    material: str
    tags: str

    def execute(self) -> SwatchItem:
        scene = project_for(self.person, self.project).document()
        if self.material not in scene.materials:
            raise Missing(f"There is no material {self.material} in this project.")
        if SwatchItem.objects.filter(owner=self.person).count() >= MOST_OWN:
            raise Refused(f"{MOST_OWN} swatches of yours are on the shelf: take some off first.")
        lowest = _bare(scene.materials[self.material])
        names = dict.fromkeys(layer.material for layer in lowest.layers)
        over = {key: _bare(scene.materials[key]).model_copy(update={"layers": ()}) for key in names}
        content = Scene(materials={_LOWEST: lowest, **over}).model_dump(mode="json", include={"materials"})
        return SwatchItem.objects.create(
            owner=self.person, name=lowest.name, tags=self.tags, content=content | {"schema_version": SCHEMA_VERSION}
        )


def _bare(material: Material) -> Material:
    """A material without images of the asset; those of one's own are kept."""
    none: dict[str, Any] = {name: None for name, use in texture_uses(material) if use.file is None}
    none["inputs"] = with_textures(material.inputs, lambda number: None)
    none["layers"] = with_inputs(material.layers, lambda one: with_texture(one, lambda number: None))
    return material.model_copy(update=none)


@dataclass(frozen=True)
class AddSwatches:
    """Put materials of a file on the person's own shelf; its images, by digest, become files of theirs.

    `materials` are pairs of JSON data: a material, and those that lie over it by their keys.
    """

    person: Person
    materials: Sequence[tuple[dict[str, Any], dict[str, dict[str, Any]]]]
    files: Mapping[str, tuple[Path, str]]
    problems: Sequence[str]

    def execute(self) -> list[SwatchItem]:
        if SwatchItem.objects.filter(owner=self.person).count() + len(self.materials) > MOST_OWN:
            raise Refused(f"{MOST_OWN} swatches of yours are the most on the shelf: take some off first.")
        with transaction.atomic():
            for path, name in self.files.values():
                storage.keep(path, name, self.person)
            return [
                SwatchItem.objects.create(
                    owner=self.person,
                    name=lowest["name"],
                    content={"materials": {_LOWEST: lowest, **over}, "schema_version": SCHEMA_VERSION},
                    problems=list(self.problems),
                )
                for lowest, over in self.materials
            ]


@dataclass(frozen=True)
class TakeOffSwatch:
    """Take a swatch off the person's own shelf; projects keep what they have of it."""

    person: Person
    key: str

    def execute(self) -> None:
        found = swatch_for(self.person, self.key)
        if found.number is None:
            raise Missing(f"There is no swatch {self.key} of yours.")
        FavouriteSwatch.objects.filter(owner=self.person, key=self.key).delete()
        SwatchItem.objects.filter(pk=found.number, owner=self.person).delete()


@dataclass(frozen=True)
class LikeSwatch:
    """Have a swatch at hand among the person's favourites, or not any more."""

    person: Person
    key: str
    is_favourite: bool

    def execute(self) -> None:
        swatch_for(self.person, self.key)
        favourites = FavouriteSwatch.objects
        if self.is_favourite:
            favourites.get_or_create(owner=self.person, key=self.key)
        else:
            favourites.filter(owner=self.person, key=self.key).delete()
