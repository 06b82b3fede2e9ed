"""Settings that come from the environment, in a process of their own: they are read once."""

import json
import os
import subprocess
import sys

import pytest
from django.conf import settings

PROGRAM = """
import json, os
os.environ["DJANGO_SETTINGS_MODULE"] = "server.config.settings"
import django
django.setup()
from django.conf import settings
from django.core.files.storage import storages
from django.db import connection
with connection.cursor() as cursor:
    cursor.execute("SELECT current_database()")
    (database,) = cursor.fetchone()
store = storages["prints"]
print(json.dumps({
    "database": database, "limit": settings.ASSET_SIZE_LIMIT, "idle": settings.SESSION_COOKIE_AGE,
    "storage": type(store).__name__, "place": str(store.location), "secure": settings.SESSION_COOKIE_SECURE,
}))
"""


def started(tmp_path, **variables):
    known = {name: value for name, value in os.environ.items() if not name.startswith("LANTERN_")}
    environment = known | {"LANTERN_DATA": str(tmp_path / "data")} | variables
    return subprocess.run([sys.executable, "-c", PROGRAM], env=environment, capture_output=True, text=True, check=False)


@pytest.fixture
def database():
    there = settings.DATABASES["default"]
    return f"postgresql://{there['USER']}:{there['PASSWORD']}@{there['HOST']}:{there['PORT']}/postgres"


def test_a_database_elsewhere_is_used(tmp_path, database):
    said = json.loads(started(tmp_path, LANTERN_DATABASE=database).stdout)
    assert said == {
        "database": "postgres", "limit": 512 << 20, "idle": 72 * 3600, "secure": False,
        "storage": "DurableStorage", "place": str(tmp_path / "data" / "prints"),
    }  # fmt: skip
    assert not (tmp_path / "data" / "postgres").exists(), "and none is made here"


def test_what_is_said_counts(tmp_path, database):
    variables = {
        "LANTERN_ASSET_LIMIT": "1000",
        "LANTERN_IDLE_HOURS": "0.5",
        "LANTERN_TLS": "1",
        "LANTERN_S3_BUCKET": "b",
    }
    said = json.loads(started(tmp_path, LANTERN_DATABASE=database, **variables).stdout)
    assert (said["limit"], said["idle"], said["secure"]) == (1000, 1800, True)
    assert (said["storage"], said["place"]) == ("S3Storage", "prints")


@pytest.mark.parametrize("address", ["mysql://a:b@c/d", "postgresql://host/name", "postgresql://a:b@c:port/d", ""])
def test_an_address_that_is_none_is_said(tmp_path, address):
    done = started(tmp_path, LANTERN_DATABASE=address)
    assert done.returncode and "DatabaseError: LANTERN_DATABASE is" in done.stderr


def test_nobody_starts_a_database_that_is_elsewhere(tmp_path):
    environment = os.environ | {"LANTERN_DATA": str(tmp_path), "LANTERN_DATABASE": "postgresql://a:b@127.0.0.1:9/c"}
    for what, code in (("start", 1), ("stop", 0)):
        command = [sys.executable, "-m", "server.runtime.postgres", what]
        done = subprocess.run(command, env=environment, capture_output=True, text=True, check=False)
        assert done.returncode == code and ("127.0.0.1:9" in done.stderr) == (what == "start")
    assert not (tmp_path / "postgres").exists()
