"""Accounts by invitation."""

from datetime import timedelta

import pytest
from django.contrib.auth import get_user_model
from django.test import Client
from django.utils import timezone

from server.accounts.models import Invitation
from server.idempotency.models import KeptAnswer

pytestmark = pytest.mark.django_db


@pytest.fixture
def invited(client, people):
    """The token of an invitation."""
    client.force_login(people["superuser"])
    address, key = "/api/v1/invitations", {"Idempotency-Key": "as the browser does"}
    note = {"note": "Mara, textures"}
    return client.post(address, note, content_type="application/json", headers=key).json()["token"]


def register(token, username="mara", password="turned-brass-9"):
    fields = {"token": token, "username": username, "password": password}
    visitor = Client()
    return visitor, visitor.post("/api/v1/session/invited", fields, content_type="application/json")


def test_somebody_who_was_invited_makes_an_account_and_is_in(client, invited, caplog):
    assert [i["note"] for i in client.get("/api/v1/invitations").json()["items"]] == ["Mara, textures"]
    visitor, answer = register(invited)
    assert answer.status_code == 200 and answer.json()["username"] == "mara" and not answer.json()["may_invite"]
    assert visitor.get("/api/v1/projects").json()["count"] == 0
    account = get_user_model().objects.get(username="mara")
    assert account.check_password("turned-brass-9") and not account.is_superuser and not account.is_staff
    assert client.get("/api/v1/invitations").json()["items"] == []
    assert "'mara' registered with invitation" in caplog.text and invited not in caplog.text
    again = Client().post(
        "/api/v1/session", {"username": "mara", "password": "turned-brass-9"}, content_type="application/json"
    )
    assert again.status_code == 200


def test_the_token_is_kept_nowhere(invited):
    """Neither with the invitation nor among the answers that are kept for requests that come again."""
    assert Invitation.objects.count() == 1 and invited not in str(list(Invitation.objects.values()))
    assert not KeptAnswer.objects.exists()


@pytest.mark.parametrize("why", ["used", "withdrawn", "too old", "made up", "empty"])
def test_an_invitation_is_good_once_and_for_a_while(client, invited, why):
    token = {"made up": "x" * 43, "empty": ""}.get(why, invited)
    if why == "used":
        register(token)
    elif why == "withdrawn":
        assert client.delete(f"/api/v1/invitations/{Invitation.objects.get().pk}").status_code == 204
    elif why == "too old":
        Invitation.objects.update(expires=timezone.now() - timedelta(seconds=1))
    _, answer = register(token, "other")
    assert answer.status_code == 422 and "ask for another one" in answer.json()["detail"]
    assert not get_user_model().objects.filter(username="other").exists()


@pytest.mark.parametrize(
    ("username", "password", "words"),
    [
        ("mara", "short", "too short"),
        ("mara", "password123", "too common"),
        ("turned-brass", "turned-brass-9", "too similar"),
        ("ada", "turned-brass-9", "already exists"),
        ("ADA", "turned-brass-9", "already exists"),
        ("demo", "turned-brass-9", "can not be used"),
        ("a b", "turned-brass-9", "valid username"),
        ("", "turned-brass-9", "required"),
        ("m" * 151, "turned-brass-9", "150"),
    ],
)
def test_what_is_wrong_is_said_and_the_invitation_stays_good(invited, username, password, words):
    _, answer = register(invited, username, password)
    assert answer.status_code == 422 and words in answer.json()["detail"], answer.json()
    assert register(invited)[1].status_code == 200


def test_there_is_no_other_way_to_register(client):
    for path in ("/accounts/signup/", "/signup", "/api/v1/accounts"):
        assert client.post(path, {"username": "x", "password1": "turned-brass-9"}).status_code == 404
