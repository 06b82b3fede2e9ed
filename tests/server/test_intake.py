"""Uploads of assets, maps and profiles: good and damaged ones, cancelled and interrupted ones."""

import asyncio
import json
import resource
import subprocess
import sys
import threading
import time
from pathlib import Path

import numpy as np
import OpenImageIO as oiio
import pytest
from django.core.files.storage import storages
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connections

from demo.profiles import write_profile
from lantern.picture.files import MOST_CHANNELS, ImageError, read_hdr
from server.config import limits
from server.config.asgi import application
from server.intake import working
from server.intake.actions import MOST_RUNNING
from server.intake.models import Upload
from server.library.models import EnvironmentItem, ProfileItem
from server.projects.models import Project, StoredFile
from server.runtime.durable import written
from tests.core import usd_files
from tests.core.gltf_files import damaged_files, glb
from tests.core.mesh_files import FILES
from tests.core.odd_asset import odd_glb
from tests.server.test_viewport import signed_in_cookie

pytestmark = pytest.mark.django_db(transaction=True)


def bring(client, name, content, kind="asset"):
    """(status, state) of an upload after the worker has been at it."""
    answer = client.post(f"/api/v1/intake/{kind}", {"file": SimpleUploadedFile(name, content)})
    if answer.status_code != 200:
        return answer.status_code, answer.json()
    number = answer.json()["id"]
    working.work_on(number)
    return 200, client.get(f"/api/v1/uploads/{number}").json()


def nothing_waits():
    """Whether no file of an upload is left."""
    return not any(Path(storages["uploads"].location).rglob("*"))


def map_file(folder, channels=3, size=(32, 16), change=None):
    pixels = np.ones((size[1], size[0], channels), np.float32)
    if change:
        change(pixels)
    spec = oiio.ImageSpec(*size, channels, oiio.FLOAT)
    spec.channelnames = ("R", "G", "B", *(f"more{i}" for i in range(channels - 3)))[:channels]
    output = oiio.ImageOutput.create(str(folder / "map.exr"))
    output.open(str(folder / "map.exr"), spec)
    output.write_image(pixels)
    output.close()
    return folder / "map.exr"


def test_an_uploaded_asset_becomes_a_framed_project(client, people):
    client.force_login(people["owner"])
    _, state = bring(client, "square.glb", glb())
    assert state["state"] == "done" and state["share"] == 1
    project = Project.objects.get(pk=state["result"])
    assert project.owner == people["owner"] and project.name == "square"
    scene = project.document()
    assert scene.ground.height == 2 and scene.camera.target == (2, 3, 3)
    assert StoredFile.objects.get(sha256=scene.asset.file.sha256).file.size == len(glb())
    assert nothing_waits(), "what was sent is not kept twice"


@pytest.mark.parametrize(
    "damage", ["truncated", "index out of range", "nan position", "outside reference", "cyclic nodes", "no triangles"]
)
def test_a_damaged_asset_leaves_nothing_behind(client, people, damage):
    name, content, words = damaged_files()[damage]
    client.force_login(people["owner"])
    _, state = bring(client, name, content)
    assert state["state"] == "failed" and state["error"].startswith(name) and words in state["error"]
    assert Project.objects.count() == 0 and StoredFile.objects.count() == 0
    assert nothing_waits()


def test_an_asset_over_the_limit_is_refused_at_once(client, people, settings):
    settings.ASSET_SIZE_LIMIT = 100
    client.force_login(people["owner"])
    status, answer = bring(client, "big.glb", glb())
    assert status == 422 and "big.glb" in answer["detail"] and "limit" in answer["detail"]
    assert Upload.objects.count() == 0


def test_a_map_with_impossible_values_is_cleaned_and_says_so(client, people, tmp_path):
    def spoil(pixels):
        pixels[3, 4, 0], pixels[5, 6, 1], pixels[7, 8, 2] = np.nan, np.inf, -3

    client.force_login(people["owner"])
    _, state = bring(client, "odd.exr", map_file(tmp_path, change=spoil).read_bytes(), "environment")
    (entry,) = client.get("/api/v1/environments").json()["items"]
    assert entry["id"] == state["result"] and entry["width"] == 32
    assert len(entry["problems"]) == 3 and "not a number" in entry["problems"][0]
    thumbnail = client.get(f"/api/v1/environments/{entry['id']}/thumbnail")
    assert thumbnail.content[:3] == b"\xff\xd8\xff"
    client.force_login(people["stranger"])
    assert client.get("/api/v1/environments").json()["items"] == []
    assert client.get(f"/api/v1/environments/{entry['id']}/thumbnail").status_code == 404
    assert client.get(f"/api/v1/uploads/{state['id']}").status_code == 404


def test_a_map_that_is_none_is_refused(client, people):
    client.force_login(people["owner"])
    _, state = bring(client, "photo.hdr", b"\xff\xd8\xff not light", "environment")
    assert state["state"] == "failed" and state["error"].startswith("photo.hdr")
    assert EnvironmentItem.objects.count() == 0


def test_a_profile_is_read_and_listed(client, people, tmp_path):
    client.force_login(people["owner"])
    path = tmp_path / "own.ies"
    write_profile("batwing", path)
    _, state = bring(client, "my_lamp.ies", path.read_bytes(), "profile")
    item = ProfileItem.objects.get(pk=state["result"])
    assert item.name == "my lamp" and item.lumens > 0 and item.owner == people["owner"]
    _, state = bring(client, "no.ies", b"not a profile", "profile")
    assert state["state"] == "failed" and "no.ies" in state["error"]


def test_channels_beyond_the_colours_are_not_decoded(tmp_path):
    """Eight channels of a wide map took three times the memory of its colours; hundreds are refused by the header."""
    wide = map_file(tmp_path, channels=8, size=(4096, 512))
    program = (
        "import resource, sys; from pathlib import Path; from lantern.picture.files import read_hdr\n"
        "before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss\n"
        "pixels = read_hdr(Path(sys.argv[1]))\n"
        "print(pixels.shape, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before)"
    )
    found = subprocess.run([sys.executable, "-c", program, str(wide)], capture_output=True, text=True, check=True)
    shape, _, grown = found.stdout.strip().rpartition(" ")
    assert shape == "(512, 4096, 3)"
    assert int(grown) < 2.5 * 4096 * 512 * 3 * 4 / 1024, "KiB, for the pixels and the decoder"
    with pytest.raises(ImageError, match=rf"has 80 channels; the limit is {MOST_CHANNELS}"):
        read_hdr(map_file(tmp_path, channels=80))


def test_a_cancelled_upload_ends_within_a_second_and_leaves_nothing(client, people, monkeypatch):
    client.force_login(people["owner"])
    number = client.post("/api/v1/intake/asset", {"file": SimpleUploadedFile("square.glb", glb())}).json()["id"]
    # A reader that would go on for a minute: the real one, held up before it begins.
    slow = [sys.executable, "-c", "import time; time.sleep(60)"]
    real = subprocess.Popen
    reads = threading.Event()

    def begin(command, **more):
        reader = real(slow, **more)
        reads.set()
        return reader

    monkeypatch.setattr(working.subprocess, "Popen", begin)

    def read():
        working.work_on(number)
        connections.close_all()

    work = threading.Thread(target=read)
    work.start()
    assert reads.wait(60)
    begun = time.monotonic()
    assert client.post(f"/api/v1/uploads/{number}/cancel").json()["state"] == "canceled"
    work.join(20)
    assert not work.is_alive()
    print(f"ended {time.monotonic() - begun:.2f} s after it was cancelled")
    assert Upload.objects.get().state == "canceled" and nothing_waits()
    assert client.post(f"/api/v1/uploads/{number}/cancel").status_code == 422


def test_an_upload_whose_worker_died_is_read_again_and_given_up_after_three(client, people, monkeypatch):
    client.force_login(people["owner"])
    number = client.post("/api/v1/intake/asset", {"file": SimpleUploadedFile("square.glb", glb())}).json()["id"]

    class Killed(BaseException):
        """Stands for a signal: nothing in the worker catches it."""

    def die(upload):
        raise Killed

    with monkeypatch.context() as patching:
        patching.setattr(working, "_read_apart", die)
        for _ in range(working.MOST_ATTEMPTS - 1):
            with pytest.raises(Killed):
                working.work_on(number)
    assert Upload.objects.get().state == "running" and not nothing_waits()
    working.work_on(number)
    assert Upload.objects.get().state == "done", "the third time it was let be"

    number = client.post("/api/v1/intake/asset", {"file": SimpleUploadedFile("again.glb", glb())}).json()["id"]
    Upload.objects.filter(pk=number).update(attempts=working.MOST_ATTEMPTS)
    working.work_on(number)
    assert "3 times" in Upload.objects.get(pk=number).error


def test_one_person_cannot_fill_the_queue(client, people):
    client.force_login(people["owner"])
    for _ in range(MOST_RUNNING):
        Upload.objects.create(owner=people["owner"], kind="asset", file_name="x.glb")
    status, answer = bring(client, "one-more.glb", glb())
    assert status == 422 and "20 files of yours" in answer["detail"]


def test_a_full_disk_is_said_and_nothing_is_half_written(client, people, tmp_path, monkeypatch):
    """The system itself refuses to write more: a limit on the size of files stands for the disk's end."""
    client.force_login(people["owner"])
    number = client.post("/api/v1/intake/asset", {"file": SimpleUploadedFile("square.glb", glb())}).json()["id"]
    before = resource.getrlimit(resource.RLIMIT_FSIZE)
    real = working._read_apart

    def read_and_fill(upload):
        found = real(upload)
        resource.setrlimit(resource.RLIMIT_FSIZE, (64, before[1]))
        return found

    monkeypatch.setattr(working, "_read_apart", read_and_fill)
    try:
        working.work_on(number)
    finally:
        resource.setrlimit(resource.RLIMIT_FSIZE, before)
    state = Upload.objects.get(pk=number)
    assert state.state == "failed" and "cannot be stored" in state.error and "make room" in state.error
    assert StoredFile.objects.count() == 0 and Project.objects.count() == 0
    assert [p for p in tmp_path.rglob("*") if p.is_file()] == []


def test_a_file_is_whole_or_not_there(tmp_path):
    def breaking():
        yield b"half"
        raise OSError(28, "No space left on device")

    with pytest.raises(OSError, match="No space"):
        written(tmp_path / "file", breaking())
    assert list(tmp_path.iterdir()) == []
    written(tmp_path / "file", [b"wh", b"ole"])
    assert (tmp_path / "file").read_bytes() == b"whole"


# Bodies that are too large


async def post(path, body, cookie=b"", announced=None, piece=64 << 10):
    """(status, JSON, bytes that were taken) of a POST to the real application."""
    headers = [(b"host", b"localhost"), (b"content-type", b"application/octet-stream"), (b"cookie", cookie)]
    if announced is not None:
        headers.append((b"content-length", str(announced).encode()))
    scope = {
        "type": "http", "method": "POST", "path": path, "raw_path": path.encode(), "query_string": b"", "root_path": "",
        "headers": headers, "http_version": "1.1", "scheme": "http", "server": ("localhost", 80), "client": ("h", 1),
    }  # fmt: skip
    taken, answer = 0, []

    async def receive():
        nonlocal taken
        if body == taken > 0:
            await asyncio.Event().wait()  # nothing more comes, and the line stays open
        part = bytes(min(piece, body - taken))
        taken += len(part)
        return {"type": "http.request", "body": part, "more_body": taken < body}

    async def send(message):
        answer.append(message)

    await application(scope, receive, send)
    text = b"".join(m.get("body", b"") for m in answer)
    return answer[0]["status"], json.loads(text), taken


@pytest.mark.parametrize("announced", [300 << 20, None], ids=["announced", "in pieces"])
async def test_a_stranger_cannot_fill_the_disk(announced):
    status, answer, taken = await post("/api/v1/intake/asset", 300 << 20, announced=announced)
    assert status == 413 and "too large" in answer["detail"]
    assert taken <= limits.SMALL_BODY + (64 << 10)


async def test_whoever_is_signed_in_may_send_as_much_as_a_file_of_the_kind_has(people, settings):
    settings.PACKAGE_SIZE_LIMIT, settings.PROFILE_SIZE_LIMIT = 3 << 20, 1 << 20
    cookie = await signed_in_cookie(people["owner"])
    for path, most in (("/api/v1/intake/asset", 3 << 20), ("/api/v1/intake/profile", 1 << 20)):
        status, _, taken = await post(path, 50 << 20, cookie)
        assert status == 413 and most < taken < most + (1 << 20)
        status, _, taken = await post(path, most, cookie)
        assert status != 413 and taken == most
    status, _, taken = await post("/api/v1/session", 50 << 20, cookie)
    assert status == 413 and taken < 1 << 20, "no file is expected there"
    assert (await post("/api/v1/intake/asset", 50 << 20, b"sessionid=made-up"))[2] < 1 << 20


@pytest.mark.parametrize("name", ["text.stl", "binary.stl", "binary_little_endian.ply"])
def test_meshes_of_other_programs_become_projects_that_say_what_was_assumed(client, people, name):
    client.force_login(people["owner"])
    status, state = bring(client, name, FILES[name])
    assert status == 200 and state["state"] == "done", state
    project = client.get(f"/api/v1/projects/{state['result']}").json()
    (part,) = project["scene"]["parts"].values()
    assert part["name"] == name.split(".")[0]
    assert any("unit" in said for said in project["problems"])
    low, high = Project.objects.get().bounds
    size = 1e-3 if name.endswith("stl") else 1.0
    assert np.subtract(high, low) == pytest.approx([size] * 3), "as large as the file says"


def test_what_is_odd_about_an_asset_is_kept_with_its_project_and_its_copies(client, people):
    client.force_login(people["owner"])
    _, state = bring(client, "odd.glb", odd_glb())
    report = client.get(f"/api/v1/projects/{state['result']}").json()["report"]
    found = {finding["kind"]: finding for finding in report}
    assert found["size"]["unit"] == 0.01 and found["inside-out"]["parts"] == ["mesh-0425"]
    assert found["open"]["count"] == 4 and set(found) >= {"twin-meshes", "twin-materials"}
    copy = client.post(f"/api/v1/projects/{state['result']}/copy").json()
    assert client.get(f"/api/v1/projects/{copy['id']}").json()["report"] == report


@pytest.mark.parametrize("name", ["square.obj", "set.usda"])
def test_assets_of_other_formats_become_projects(client, people, tmp_path, name):
    client.force_login(people["owner"])
    stage = usd_files.still(tmp_path / "set.usda")
    stage.GetRootLayer().Save()
    (tmp_path / "square.obj").write_text("v 0 0 0\nv 1 0 0\nv 1 1 0\nusemtl Oak\nf 1 2 3\n")
    _, state = bring(client, name, (tmp_path / name).read_bytes())
    assert state["state"] == "done", state
    scene = client.get(f"/api/v1/projects/{state['result']}").json()["scene"]
    if name == "set.usda":
        assert scene["lights"]["lamp"]["amount"] == 48 and scene["camera"]["position"] == pytest.approx([0, 0.5, 3])
    else:
        assert [part["material"] for part in scene["parts"].values()] == ["oak"]
