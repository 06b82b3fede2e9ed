"""Rigs of the shelf: those that are built in, a person's own, and what must not be kept."""

import pytest

from lantern.scene.lights import PointLight
from lantern.scene.rigs import Rig
from lantern.scene.surroundings import Environment
from lantern.shelf.rigs import RIGS
from server.errors import Missing, Refused
from server.library import rigs
from server.library.rigs import KeepRig, TakeOffRig, shelf_of

pytestmark = pytest.mark.django_db


def test_own_rigs_come_first_as_they_were_kept_and_are_nobody_elses(people):
    rig = Rig(name="Mine", lights={"light-1": PointLight(name="P", amount=7)}, environment=Environment(intensity=2))
    KeepRig(people["owner"], rig).execute()
    first, *others = shelf_of(people["owner"])
    assert (first.name, first.built_in) == ("Mine", False)
    assert first.rig.lights == rig.lights and first.rig.environment == rig.environment
    assert [one.key for one in others] == list(RIGS) and all(one.built_in for one in others)
    assert [one.key for one in shelf_of(people["stranger"])] == list(RIGS)


def test_a_rig_is_taken_off_by_its_owner_alone(people):
    key = KeepRig(people["owner"], Rig(name="Mine")).execute().key
    for person, wanted in (("stranger", key), ("owner", "own-x"), ("owner", "three-lamps")):
        with pytest.raises(Missing):
            TakeOffRig(people[person], wanted).execute()
    TakeOffRig(people["owner"], key).execute()
    assert all(one.built_in for one in shelf_of(people["owner"]))


def test_there_is_a_most_and_it_is_said(people, monkeypatch):
    monkeypatch.setattr(rigs, "MOST_RIGS", 1)
    KeepRig(people["owner"], Rig(name="One")).execute()
    with pytest.raises(Refused, match="1 rigs of yours"):
        KeepRig(people["owner"], Rig(name="Two")).execute()
