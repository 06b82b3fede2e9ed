"""The whole life of a project with its files in a bucket (S3) instead of a folder; the bucket is simulated."""

import io
import time
import zipfile

import boto3
import pytest
from asgiref.sync import async_to_sync
from django.core.files.storage import storages
from moto import mock_aws

from server.administration.backup import back_up
from server.administration.collecting import collect_files
from server.administration.restore import restore
from server.intake.models import Upload
from server.packages.contents import FILES
from server.prints import working
from server.prints.actions import DeletePrint, QueuePrint
from server.prints.models import Print
from server.projects.keeping import DeleteProject
from server.projects.models import Project, StoredFile
from server.runtime import stores
from tests.core.gltf_files import glb
from tests.server.test_intake import bring

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def bucket(settings, monkeypatch, tmp_path):
    """All storages in one bucket, as LANTERN_S3_BUCKET makes them."""
    for name, value in (
        ("AWS_ACCESS_KEY_ID", "x"),
        ("AWS_SECRET_ACCESS_KEY", "y"),
        ("AWS_DEFAULT_REGION", "us-east-1"),
    ):
        monkeypatch.setenv(name, value)
    with mock_aws():
        client = boto3.client("s3")
        client.create_bucket(Bucket="lantern")
        settings.DATA = tmp_path
        settings.STORAGES = settings.STORAGES | {
            alias: {
                "BACKEND": "storages.backends.s3.S3Storage",
                "OPTIONS": {"bucket_name": "lantern", "location": place, "file_overwrite": True},
            }
            for alias, place in (("default", "files"), ("prints", "prints"), ("uploads", "uploads"))
        }
        yield lambda: sorted(o["Key"] for o in client.list_objects_v2(Bucket="lantern").get("Contents", []))


def test_a_project_lives_in_a_bucket(client, people, bucket, tmp_path):
    owner = people["owner"]
    client.force_login(owner)
    _, state = bring(client, "square.glb", glb())
    assert state["state"] == "done", state["error"]
    digest = StoredFile.objects.get().sha256
    assert bucket() == [f"files/{digest[:2]}/{digest}"], "and nothing of the upload"
    project = Project.objects.get(pk=state["result"])
    project.scene["print"] |= {"width": 32, "height": 20, "samples": 4}
    project.save()

    item = QueuePrint(owner, project.pk).execute()
    working.work_on(item.pk)
    item.refresh_from_db()
    assert item.state == Print.State.DONE, item.error
    names = [f"prints/{item.pk}/print-{item.pk}.{kind}" for kind in ("exr", "png")]
    assert bucket()[1:] == names and not item.folder.exists(), "nothing stays on this machine"
    sent = client.get(f"/api/v1/prints/{item.pk}/files/png")
    assert async_to_sync(gathered)(sent.streaming_content)[:4] == b"\x89PNG"

    packed = client.get(f"/api/v1/projects/{project.pk}/package")
    with zipfile.ZipFile(io.BytesIO(async_to_sync(gathered)(packed.streaming_content))) as package:
        assert package.read(f"{FILES}{digest}") == glb()

    back_up(tmp_path / "all.zip")
    before = bucket()
    DeletePrint(owner, item.pk).execute()
    DeleteProject(owner, project.pk).execute()
    StoredFile.objects.update(created="2020-01-01T00:00Z")
    Upload.objects.all().delete()
    assert collect_files() >= 1 and bucket() == []
    restore(tmp_path / "all.zip")
    assert bucket() == before and Project.objects.get(pk=project.pk).name == "square"


async def gathered(pieces):
    return b"".join([piece async for piece in pieces])


def test_what_was_fetched_is_kept_as_long_as_somebody_asks(client, people, bucket, settings, monkeypatch):
    client.force_login(people["owner"])
    bring(client, "square.glb", glb())
    stored = StoredFile.objects.get()
    path = stores.local_path(stored.file.storage, stored.file.name)
    assert path.read_bytes() == glb() and path.is_relative_to(settings.FETCHED_FOLDER)
    storages["default"].bucket.meta.client.delete_object(Bucket="lantern", Key=f"files/{stored.file.name}")
    assert stores.local_path(stored.file.storage, stored.file.name) == path, "it is not fetched twice"
    assert stores.forget_unused() == 0
    now = time.time()
    monkeypatch.setattr(stores.time, "time", lambda: now + stores.UNUSED_SECONDS + 60)
    assert stores.forget_unused() == 1 and not path.exists()
