"""IES profiles of the library: built-in and personal ones, and files that are none."""

import math

import numpy as np
import pytest

from demo.profiles import PROFILES, write_profile
from lantern.light.profiles import read_profile
from lantern.picture.thumbnails import profile_curve
from server.intake.reading import profile_facts
from server.library.actions import AddProfile
from server.library.models import ProfileItem
from tests.server.test_intake import bring

pytestmark = pytest.mark.django_db(transaction=True)
COSINE = (
    "IESNA:LM-63-2002\nTILT=NONE\n1 -1 1 19 1 1 2 0 0 0\n1 1 0\n"
    + " ".join(str(5 * i) for i in range(19))
    + "\n0\n"
    + " ".join(f"{100 * math.cos(math.radians(5 * i)):.4f}" for i in range(19))
)


def test_a_profile_is_measured_and_only_its_owner_sees_it(client, people, tmp_path):
    write_profile("batwing", tmp_path / "batwing.ies")
    file = tmp_path / "batwing.ies"
    AddProfile(None, file, file.name, "Batwing", profile_facts(file, file.name)).execute()
    client.force_login(people["owner"])
    _, state = bring(client, "cosine_100.ies", COSINE.encode(), "profile")
    item = next(entry for entry in client.get("/api/v1/profiles").json()["items"] if entry["id"] == state["result"])
    assert item["name"] == "cosine 100" and not item["built_in"]
    assert item["lumens"] == pytest.approx(100 * math.pi, rel=2e-3), "∫ 100 cos θ dω"
    assert [entry["name"] for entry in client.get("/api/v1/profiles").json()["items"]] == ["Batwing", "cosine 100"]
    client.force_login(people["stranger"])
    assert [entry["name"] for entry in client.get("/api/v1/profiles").json()["items"]] == ["Batwing"]


@pytest.mark.parametrize("text", ["a drawing", COSINE.replace("NONE", "INCLUDE"), COSINE[:-40]])
def test_a_file_that_is_no_profile_is_refused_by_name(client, people, text):
    client.force_login(people["owner"])
    _, state = bring(client, "odd.ies", text.encode(), "profile")
    assert state["state"] == "failed" and state["error"].startswith("odd.ies")
    assert ProfileItem.objects.count() == 0


def test_the_curve_of_a_cosine_is_a_circle_below_the_lamp():
    x, y = np.array(profile_curve(read_profile(COSINE, "cosine").candela)).T
    lit = y > 0
    assert x[lit] ** 2 + (y[lit] - 0.5) ** 2 == pytest.approx(0.25, abs=0.004)
    assert np.hypot(x, y)[~lit] == pytest.approx(0, abs=1e-6) and lit.sum() > 40


@pytest.mark.parametrize("key", PROFILES)
def test_demo_profiles_are_valid_files(key, tmp_path):
    write_profile(key, tmp_path / "demo.ies")
    profile = read_profile((tmp_path / "demo.ies").read_text(), "demo.ies")
    assert 100 < profile.lumens() < 5000
