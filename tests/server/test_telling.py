"""Another program is told when a print has ended."""

import json
import threading
from http.server import BaseHTTPRequestHandler, HTTPServer

import pytest
from procrastinate.contrib.django.models import ProcrastinateJob

from server.prints import still, working
from server.prints.actions import CancelPrint, QueuePrint
from server.prints.telling import SIGNATURE, signature_of, tell

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def heard(settings):
    """What a listener hears; it answers with `status`."""
    said = []

    class Listener(BaseHTTPRequestHandler):
        status = 204

        def do_POST(self):
            body = self.rfile.read(int(self.headers["Content-Length"]))
            said.append((json.loads(body), self.headers[SIGNATURE] == signature_of(body)))
            self.send_response(self.status)
            self.end_headers()

        def log_message(self, *_):
            pass

    server = HTTPServer(("127.0.0.1", 0), Listener)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    settings.WEBHOOK = f"http://127.0.0.1:{server.server_address[1]}/prints"
    said_and = type("Heard", (), {"said": said, "listener": Listener})
    yield said_and
    server.shutdown()
    server.server_close()


def ended(people, project):
    ProcrastinateJob.objects.all().delete()
    item = QueuePrint(people["owner"], project.pk).execute()
    working.work_on(item.pk)
    return item


def waiting():
    return [job.args["print_id"] for job in ProcrastinateJob.objects.filter(task_name="tell_of_print", status="todo")]


def test_who_waits_hears_once_that_a_print_is_done_and_where_its_files_are(people, project, heard):
    item = ended(people, project)
    assert waiting() == [item.pk]
    tell(item.pk)
    [(said, is_signed)] = heard.said
    item.refresh_from_db()
    assert is_signed
    assert said == {
        "print": item.pk, "name": "Square-001", "project": {"id": project.pk, "name": "Square"}, "state": "done",
        "error": "",
        "ended": item.ended.isoformat(),
        "files": [f"/api/v1/prints/{item.pk}/files/{kind}" for kind in ("png", "exr")],
    }  # fmt: skip


def test_a_failure_is_told_with_its_reason(people, project, heard, monkeypatch):
    def fail(self):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(still.Still, "make", fail)
    item = ended(people, project)
    assert waiting() == [item.pk]
    tell(item.pk)
    assert heard.said[0][0]["state"] == "failed" and "make room" in heard.said[0][0]["error"]
    assert heard.said[0][0]["files"] == []


def test_a_listener_that_refuses_is_asked_again_later(people, project, heard):
    item = ended(people, project)
    heard.listener.status = 503
    with pytest.raises(OSError, match="503"):
        tell(item.pk)


def test_what_somebody_cancels_and_what_nobody_waits_for_is_not_told(people, project, heard, settings):
    ProcrastinateJob.objects.all().delete()
    item = QueuePrint(people["owner"], project.pk).execute()
    tell(item.pk)
    CancelPrint(people["owner"], item.pk).execute()
    working.work_on(item.pk)
    assert waiting() == [] and heard.said == []
    settings.WEBHOOK = ""
    tell(ended(people, project).pk)
    assert heard.said == []
