"""Looks of the shelf, and looks that come and go as files."""

import json

import pytest
from asgiref.sync import async_to_sync

from lantern.picture.look.files import written_whole
from lantern.scene.document import Scene
from lantern.scene.look import Look
from lantern.scene.looks import NamedLook
from lantern.shelf.looks import LOOKS
from server.errors import Missing, Refused
from server.library import looks
from server.library.looks import KeepLook, TakeOffLook, shelf_of
from server.projects.actions import ApplyEdit
from server.projects.models import StoredFile
from tests.core.test_look import CUBE_3D
from tests.server.test_bucket import gathered
from tests.server.test_intake import bring

pytestmark = pytest.mark.django_db(transaction=True)
MINE = Look.model_validate({"contrast": {"enabled": True, "contrast": 1.3}, "decision": {"slope": (1.1, 1, 0.9)}})


def test_own_looks_come_first_as_they_were_kept_and_are_nobody_elses(people):
    KeepLook(people["owner"], NamedLook(name="Mine", look=MINE)).execute()
    first, *others = shelf_of(people["owner"])
    assert (first.name, first.built_in, first.look) == ("Mine", False, MINE)
    assert [one.key for one in others] == list(LOOKS) and all(one.built_in for one in others)
    assert [one.key for one in shelf_of(people["stranger"])] == list(LOOKS)


def test_a_look_is_taken_off_by_its_owner_alone(people):
    key = KeepLook(people["owner"], NamedLook(name="Mine", look=MINE)).execute().key
    for person, wanted in (("stranger", key), ("owner", "own-x"), ("owner", "clean")):
        with pytest.raises(Missing):
            TakeOffLook(people[person], wanted).execute()
    TakeOffLook(people["owner"], key).execute()
    assert all(one.built_in for one in shelf_of(people["owner"]))


def test_there_is_a_most_and_it_is_said(people, monkeypatch):
    monkeypatch.setattr(looks, "MOST_LOOKS", 1)
    KeepLook(people["owner"], NamedLook(name="One", look=MINE)).execute()
    with pytest.raises(Refused, match="1 looks of yours"):
        KeepLook(people["owner"], NamedLook(name="Two", look=MINE)).execute()


def test_tables_decisions_and_whole_looks_come_in_as_looks_of_the_shelf(client, people):
    client.force_login(people["owner"])
    decision = """<ColorCorrection id="a"><SOPNode><Slope>1.2 1 0.8</Slope><Offset>0.01 0 0</Offset>
        <Power>1 1.1 1</Power></SOPNode><SatNode><Saturation>0.7</Saturation></SatNode></ColorCorrection>"""
    whole = written_whole(NamedLook(name="Whole", look=MINE))
    for name, content in (("swap.cube", CUBE_3D.encode()), ("a.cc", decision.encode()), ("w.json", whole)):
        status, state = bring(client, name, content, "look")
        assert (status, state["state"]) == (200, "done"), state
    found = {one.name: one.look for one in shelf_of(people["owner"]) if not one.built_in}
    assert found["swap"].table.file.name == "swap.cube" and found["swap"].table.enabled
    assert StoredFile.objects.filter(sha256=found["swap"].table.file.sha256, readers=people["owner"]).exists()
    assert found["a"].decision.slope == pytest.approx((1.2, 1, 0.8)) and found["a"].decision.saturation == 0.7
    assert found["w"] == MINE


@pytest.mark.parametrize(
    ("name", "content", "said"),
    [
        ("broken.cube", b"LUT_3D_SIZE 33\n0 0 0\n", "broken.cube"),
        ("no.cc", b"<ColorCorrection", "no.cc"),
        ("no.json", b"{", "is no JSON"),
        ("other.json", b'{"format": "x"}', "is no look"),
        ("late.json", json.dumps({"format": "lantern-look", "schema_version": 99, "look": {}}).encode(), "version"),
        ("none.ocio", b"ocio_profile_version: 2\nsearch_path: luts\nroles: {}\n", "none.ocio"),
        ("picture.gif", b"GIF89a", "is no look"),
        ("press.icc", b"GIF89a", "press.icc: is no ICC profile"),
    ],
)
def test_what_is_no_look_is_said_in_one_line(client, people, name, content, said):
    client.force_login(people["owner"])
    _, state = bring(client, name, content, "look")
    assert state["state"] == "failed" and said in state["error"] and "\n" not in state["error"]
    assert len(shelf_of(people["owner"])) == len(LOOKS)


def test_the_look_of_a_project_goes_out_whole_and_its_grade_as_others_read_it(client, people, project):
    client.force_login(people["owner"])
    patch = [
        {"op": "replace", "path": "/look/contrast", "value": MINE.contrast.model_dump(mode="json")},
        {"op": "replace", "path": "/look/decision/slope", "value": [1.2, 1.0, 0.8]},
        {"op": "replace", "path": "/look/decision/enabled", "value": True},
        {"op": "replace", "path": "/look/exposure", "value": 2.0},
    ]
    ApplyEdit(people["owner"], project.pk, patch, "Look").execute()

    def file(form):
        answer = client.get(f"/api/v1/projects/{project.pk}/look?form={form}")
        assert answer.status_code == 200 and "attachment" in answer["Content-Disposition"]
        return async_to_sync(gathered)(answer.streaming_content)

    whole = json.loads(file("json"))
    assert whole["look"]["contrast"]["contrast"] == 1.3 and whole["look"]["exposure"] == 0.0
    _, state = bring(client, "again.json", json.dumps(whole).encode(), "look")
    assert state["state"] == "done"
    assert b"<Slope>1.2 1 0.8</Slope>" in file("cdl") and b"ACEScct" in file("cdl")
    table = file("cube").decode().splitlines()
    assert "LUT_3D_SIZE 33" in table and len([row for row in table if row[:1].isdigit() or row[:1] == "-"]) == 33**3
    assert client.get(f"/api/v1/projects/{project.pk}/look?form=gif").status_code == 422
    assert Scene.model_validate(project.document().plain()).look.exposure != 9
