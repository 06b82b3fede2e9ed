"""Uploads of assets and maps: what becomes of good and of damaged ones."""

import time

import numpy as np
import OpenImageIO as oiio
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from server.library.models import EnvironmentItem
from server.projects.models import Project, StoredFile
from tests.core.gltf_files import damaged_files, glb

pytestmark = pytest.mark.django_db(transaction=True)


def bring(client, name, content):
    answer = client.post("/api/imports", {"file": SimpleUploadedFile(name, content)})
    if answer.status_code != 200:
        return answer.status_code, answer.json()
    state = answer.json()
    for _ in range(300):
        if state["state"] != "running":
            break
        time.sleep(0.1)
        state = client.get(f"/api/imports/{state['id']}").json()
    return 200, state


def test_an_uploaded_asset_becomes_a_framed_project(client, people):
    client.force_login(people["owner"])
    _, state = bring(client, "square.glb", glb())
    assert state["state"] == "done" and state["share"] == 1
    project = Project.objects.get(pk=state["project_id"])
    assert project.owner == people["owner"] and project.name == "square"
    scene = project.document()
    assert scene.ground.height == 2 and scene.camera.target == (2, 3, 3)
    assert StoredFile.objects.get(sha256=scene.asset.file.sha256).file.size == len(glb())


@pytest.mark.parametrize(
    "damage", ["truncated", "index out of range", "nan position", "outside reference", "cyclic nodes", "no triangles"]
)
def test_a_damaged_asset_leaves_nothing_behind(client, people, damage):
    name, content, words = damaged_files()[damage]
    client.force_login(people["owner"])
    _, state = bring(client, name, content)
    assert state["state"] == "failed" and state["error"].startswith(name) and words in state["error"]
    assert Project.objects.count() == 0 and StoredFile.objects.count() == 0


def test_an_asset_over_the_limit_is_refused_at_once(client, people, settings):
    settings.ASSET_SIZE_LIMIT = 100
    client.force_login(people["owner"])
    status, answer = bring(client, "big.glb", glb())
    assert status == 422 and "big.glb" in answer["detail"] and "limit" in answer["detail"]


def test_a_map_with_impossible_values_is_cleaned_and_says_so(client, people, tmp_path):
    pixels = np.ones((16, 32, 3), np.float32)
    pixels[3, 4, 0], pixels[5, 6, 1], pixels[7, 8, 2] = np.nan, np.inf, -3
    output = oiio.ImageOutput.create(str(tmp_path / "odd.exr"))
    output.open(str(tmp_path / "odd.exr"), oiio.ImageSpec(32, 16, 3, oiio.FLOAT))
    output.write_image(pixels)
    output.close()
    client.force_login(people["owner"])
    answer = client.post(
        "/api/environments", {"file": SimpleUploadedFile("odd.exr", (tmp_path / "odd.exr").read_bytes())}
    )
    assert answer.status_code == 200
    assert len(answer.json()["problems"]) == 3 and "not a number" in answer.json()["problems"][0]
    thumbnail = client.get(f"/api/environments/{answer.json()['id']}/thumbnail")
    assert thumbnail.content[:3] == b"\xff\xd8\xff"
    client.force_login(people["stranger"])
    assert client.get("/api/environments").json() == []
    assert client.get(f"/api/environments/{answer.json()['id']}/thumbnail").status_code == 404


def test_a_map_that_is_none_is_refused(client, people):
    client.force_login(people["owner"])
    answer = client.post("/api/environments", {"file": SimpleUploadedFile("photo.hdr", b"\xff\xd8\xff not light")})
    assert answer.status_code == 422 and answer.json()["detail"].startswith("photo.hdr")
    assert EnvironmentItem.objects.count() == 0
