"""What whoever runs the server can see of it."""

import json
import logging
import os
import subprocess
import sys

import pytest
from django.db import connection

from server.observing import health

pytestmark = pytest.mark.django_db(transaction=True)


def workers(*ages):
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM procrastinate_workers")
        for age in ages:
            cursor.execute(
                "INSERT INTO procrastinate_workers (last_heartbeat) VALUES (now() - %s * interval '1 s')", [age]
            )


def ready(client):
    answer = client.get("/health/ready")
    return answer.status_code, {name.partition("(")[0]: said for name, said in answer.json().items()}


def test_a_server_that_can_work_says_so(client):
    assert client.get("/health/live").json() == {"status": "alive"}
    workers(1, 2)
    status, said = ready(client)
    assert status == 200 and set(said) == {"Database", "Storage", "Workers", "Room"} and set(said.values()) == {"OK"}


def test_a_dead_worker_is_a_warning_and_a_full_disk_is_an_end(client, monkeypatch):
    workers(1, 90)
    status, said = ready(client)
    assert status == 200 and "1 of 2 workers" in said["Workers"]
    monkeypatch.setattr(health, "LEAST_ROOM", 1 << 60)
    status, said = ready(client)
    assert status == 503 and "MB are free" in said["Room"]


def test_a_storage_that_takes_nothing_is_an_end(client, settings, tmp_path):
    (tmp_path / "a file").write_text("")
    settings.STORAGES = settings.STORAGES | {
        "default": {
            "BACKEND": "server.runtime.file_storage.DurableStorage",
            "OPTIONS": {"location": tmp_path / "a file"},
        }
    }
    status, said = ready(client)
    assert status == 503 and said["Storage"] != "OK"


def test_metrics_are_for_who_has_their_token(client, people, settings):
    client.force_login(people["superuser"])
    assert client.get("/metrics").status_code == 401
    assert client.get("/metrics", headers={"Authorization": "Bearer wrong"}).status_code == 401
    client.get("/api/v1/projects")
    text = client.get("/metrics", headers={"Authorization": f"Bearer {settings.METRICS_TOKEN}"}).content.decode()
    for line in (
        "lantern_projects_open 0.0",
        'lantern_prints{state="queued"} 0.0',
        "lantern_edits_committed_total",
        'django_http_responses_total_by_status_total{status="401"}',
    ):
        assert line in text


def test_each_request_is_one_line_without_what_is_secret(client, people, caplog):
    client.force_login(people["owner"])
    with caplog.at_level(logging.INFO, "server.requests"):
        logging.getLogger("server.requests").addHandler(caplog.handler)
        try:
            answer = client.get("/api/v1/projects?limit=1&secret=x")
        finally:
            logging.getLogger("server.requests").removeHandler(caplog.handler)
    (record,) = [r for r in caplog.records if r.name == "server.requests"]
    assert (record.method, record.path, record.status) == ("GET", "/api/v1/projects", 200)
    assert record.person == people["owner"].pk and record.milliseconds > 0
    assert record.request == answer["X-Request-ID"] and "secret" not in str(record.__dict__)


@pytest.mark.parametrize("where", ["files", "stderr"])
def test_the_log_is_json_and_security_is_apart(tmp_path, where):
    program = (
        "import logging, logging.config, sys, pathlib;"
        "from server.runtime.logs import logging_settings;"
        "logging.config.dictConfig(logging_settings(pathlib.Path(sys.argv[1])));"
        "logging.getLogger('server.requests').info('request', extra={'path': '/x', 'status': 200});"
        "logging.getLogger('server.security').warning('refused for %r', 'ada');"
        "logging.getLogger('other').info('not said')"
    )
    variables = {"LANTERN_PROCESS": "web", "LANTERN_LOG": where}
    done = subprocess.run(
        [sys.executable, "-c", program, str(tmp_path)],
        env=os.environ | variables,
        capture_output=True,
        text=True,
        check=True,
    )
    if where == "files":
        web, security = ((tmp_path / name).read_text().splitlines() for name in ("web.log", "security.log"))
        assert "refused for 'ada'" in done.stderr and "request" not in done.stderr, "a person reads what matters"
    else:
        web = security = done.stderr.splitlines()
        assert not list(tmp_path.iterdir())
    records = [json.loads(line) for line in web]
    assert {r["message"] for r in records} == {"request", "refused for 'ada'"}
    assert next(r for r in records if r["message"] == "request") | {"time": 0} == {
        "time": 0, "level": "INFO", "logger": "server.requests", "message": "request", "path": "/x", "status": 200,
    }  # fmt: skip
    assert any(json.loads(line)["logger"] == "server.security" for line in security)
