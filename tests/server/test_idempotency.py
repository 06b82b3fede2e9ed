"""Requests that are sent again with their key, and lists in pages."""

import threading
from concurrent.futures import ThreadPoolExecutor

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connections
from django.test import Client

from lantern.scene.document import Scene
from server.idempotency.models import KeptAnswer
from server.intake.models import Upload
from server.prints.models import Print
from server.projects.actions import CreateProject
from server.projects.models import Project
from tests.core.gltf_files import glb

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def copy(client, people, project):
    client.force_login(people["owner"])

    def ask(key, path=f"/api/v1/projects/{project.pk}/copy", by=client):
        return by.post(path, headers={"Idempotency-Key": key} if key else {})

    return ask


def test_a_request_sent_again_is_done_once_and_answered_alike(copy):
    first, again, other = copy("one"), copy("one"), copy("two")
    assert first.status_code == again.status_code == 200 and first.content == again.content
    assert again["Content-Type"] == first["Content-Type"] and other.json()["id"] != first.json()["id"]
    assert Project.objects.count() == 3
    copy(None)
    assert Project.objects.count() == 4


def test_a_key_is_of_one_person_and_one_request(copy, people, project):
    assert copy("one").status_code == 200
    refused = copy("one", f"/api/v1/projects/{project.pk}/prints")
    assert refused.status_code == 422 and "another request" in refused.json()["detail"]
    assert Print.objects.count() == 0
    superuser = Client()
    superuser.force_login(people["superuser"])
    assert copy("one", by=superuser).status_code == 200 and Project.objects.count() == 3


def test_what_was_refused_may_be_asked_again(copy, project):
    path = f"/api/v1/projects/{project.pk}/prints"
    scene = project.scene
    Project.objects.filter(pk=project.pk).update(scene=Scene().plain())
    assert copy("p", path).status_code == 422 and not KeptAnswer.objects.exists()
    Project.objects.filter(pk=project.pk).update(scene=scene)
    assert copy("p", path).status_code == 200 and copy("p", path).status_code == 200
    assert Print.objects.count() == 1


@pytest.mark.parametrize("key", ["x" * 65, "ä", "a\tb"])
def test_a_key_has_a_form(copy, key):
    assert copy(key).status_code == 400 and Project.objects.count() == 1


def test_two_at_once_are_done_once(copy, people):
    """The second waits for the first: nothing of it is there before its answer is."""
    clients = [Client(), Client(), Client(), Client()]
    for one in clients:
        one.force_login(people["owner"])
    together = threading.Barrier(len(clients))

    def ask(one):
        together.wait()
        try:
            return copy("same", by=one).json()["id"]
        finally:
            connections.close_all()

    with ThreadPoolExecutor(len(clients)) as threads:
        assert len(set(threads.map(ask, clients))) == 1
    assert Project.objects.count() == 2


def test_an_upload_sent_again_is_one_upload(client, people):
    client.force_login(people["owner"])

    def send():
        sent = {"file": SimpleUploadedFile("square.glb", glb())}
        return client.post("/api/v1/intake/asset", sent, headers={"Idempotency-Key": "up"}).json()["id"]

    assert send() == send() and Upload.objects.count() == 1


def test_lists_come_in_pages(client, people):
    client.force_login(people["owner"])
    for number in range(5):
        CreateProject(people["owner"], f"P{number}", Scene()).execute()

    def page(query):
        return client.get(f"/api/v1/projects?{query}")

    assert page("").json()["count"] == 5 and len(page("").json()["items"]) == 5
    first, second = page("limit=3").json(), page("limit=3&offset=3").json()
    assert [p["name"] for p in first["items"] + second["items"]] == ["P4", "P3", "P2", "P1", "P0"]
    assert first["count"] == 5 and page("offset=99").json()["items"] == []
    for query in ("limit=0", "offset=-1", "limit=many", "limit=100000"):
        assert page(query).status_code == 422
