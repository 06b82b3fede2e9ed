"""People, projects and files in folders of the test's own."""

import pytest
from django.contrib.auth import get_user_model
from django.db import connections

from lantern.engine import filling
from lantern.scene.document import Asset, Scene
from server.projects import storage
from server.projects.actions import CreateProject
from tests.core.gltf_files import glb


@pytest.fixture(autouse=True, scope="session")
def _no_connection_is_kept():
    """A test database is dropped at the end, and the server's threads outlive it."""
    connections.settings["default"]["CONN_MAX_AGE"] = 0


@pytest.fixture(autouse=True)
def _own_settings(settings, tmp_path):
    """Folders of the test's own; a password hash that is not slow on purpose."""
    durable = "server.runtime.file_storage.DurableStorage"
    settings.STORAGES = settings.STORAGES | {
        alias: {"BACKEND": durable, "OPTIONS": {"location": tmp_path / folder}}
        for alias, folder in (("default", "files"), ("prints", "prints"), ("uploads", "uploads"))
    }
    settings.FILMS_FOLDER = tmp_path / "prints"
    settings.READING_FOLDER, settings.FETCHED_FOLDER = tmp_path / "reading", tmp_path / "fetched"
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]


@pytest.fixture(autouse=True)
def _every_sample(monkeypatch):
    """Prints ask after every sample whether to go on: tests stop them there."""
    monkeypatch.setattr(filling, "PASS_SECONDS", 0.0)


@pytest.fixture
def people(db):
    users = get_user_model().objects
    return {
        "owner": users.create_user("ada", password="lamp-oil"),
        "stranger": users.create_user("bo", password="lamp-oil"),
        "superuser": users.create_superuser("cy", password="lamp-oil"),
    }


@pytest.fixture
def project(people, tmp_path):
    """A project of the owner: one square under even light, a small print."""
    from lantern.assets.reading import import_asset

    path = tmp_path / "square.glb"
    path.write_bytes(glb())
    asset = import_asset(path)
    scene = Scene(
        asset=Asset(file=storage.keep(path, "square.glb", people["owner"]), name="Square"),
        parts=asset.parts,
        materials=asset.materials,
    )
    camera = scene.camera.model_copy(update={"position": (2, 3, 12), "target": (2, 3, 3)})
    printed = scene.print.model_copy(update={"width": 48, "height": 32, "samples": 12})
    proof = scene.proof.model_copy(update={"samples": 8})
    scene = scene.model_copy(update={"camera": camera, "print": printed, "proof": proof})
    return CreateProject(people["owner"], "Square", scene).execute()


@pytest.fixture
def sent():
    """What panes have sent."""
    return []


@pytest.fixture
def shown(sent):
    """A pane that has settled."""
    from tests.server.panes import opened

    view, engine = opened(sent, samples=4, denoise=False)
    while not view.settled:
        view.step(True, lambda *_: None)
    yield view, engine
    engine.close()


@pytest.fixture
def awaited(sent):
    """A pane whose first picture of the whole frame is with the denoiser, and what the denoiser was given."""
    from tests.server.panes import opened

    view, engine = opened(sent, samples=64, denoise=True)
    given = []
    while not given:
        assert view.has_work(True)
        view.step(True, lambda _, *job: given.append(job))
    yield view, engine, given
    engine.close()
