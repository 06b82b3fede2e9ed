"""The database goes away for a moment while a worker is at a task: nothing may be left in the middle."""

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError, connection

from server.intake import working as intake
from server.intake.models import Upload
from server.prints import working as prints
from server.prints.actions import QueuePrint
from server.prints.models import Print
from tests.core.gltf_files import glb

pytestmark = pytest.mark.django_db(transaction=True)


def away_at(query):
    """A wrapper of queries, as Django's connections take it, whose query of that number finds no database."""
    asked = 0

    def ask(execute, sql, parameters, many, context):
        nonlocal asked
        asked += 1
        if asked == query + 1:
            raise OperationalError("the connection is lost")
        return execute(sql, parameters, many, context)

    return connection.execute_wrapper(ask)


@pytest.mark.parametrize("query", range(5))
def test_an_upload_is_read_whichever_question_found_no_database(query, client, people):
    client.force_login(people["owner"])
    number = client.post("/api/v1/intake/asset", {"file": SimpleUploadedFile("square.glb", glb())}).json()["id"]
    with away_at(query):
        intake.work_on(number)
    assert Upload.objects.get(pk=number).state == Upload.State.DONE


@pytest.mark.parametrize("query", range(24))
def test_a_print_is_made_whichever_question_found_no_database(query, people, project):
    number = QueuePrint(people["owner"], project.pk).execute().pk
    with away_at(query):
        prints.work_on(number)
    made = Print.objects.get(pk=number)
    assert (made.state, made.attempts) == (Print.State.DONE, 1)


def test_a_window_hears_that_the_database_is_away_whichever_question_found_none(client, people, project):
    """503 says to ask again; a 400 would blame the window. What is answered is answered, kept session or not."""
    client.force_login(people["owner"])
    client.raise_request_exception = False
    answers = []
    for query in range(12):
        with away_at(query):
            answers.append(client.get(f"/api/v1/projects/{project.pk}/prints").status_code)
    assert set(answers) == {200, 503}


def test_nobody_is_signed_in_by_a_session_that_could_not_be_kept(client, people):
    client.raise_request_exception = False
    body = {"username": "ada", "password": "lamp-oil"}
    answers = []
    for query in range(30):
        client.logout()
        with away_at(query):
            answer = client.post("/api/v1/session", body, content_type="application/json")
        answers.append(answer.status_code)
        signed_in = client.get("/api/v1/session").json()["username"] == "ada"
        assert signed_in == (answer.status_code == 200), query
    assert set(answers) == {200, 503}
