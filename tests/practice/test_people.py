"""A practice of one's own: set up once, people by one-time links, what each may do, the trail of what was done."""

import datetime as dt
import json
from typing import Any

import pytest
from django.apps import apps
from django.core.management import call_command
from django.core.management.base import CommandError
from django.test import Client
from django.utils import timezone

from practice.accounts.models import AuditEntry, PasswordLink, Practice, User
from practice.accounts.people import is_set_up
from tests.practice.conftest import PASSWORD, Caller

pytestmark = pytest.mark.django_db
NEW = "a long enough pass phrase"
SET_UP: dict[str, Any] = {
    "name": "Skerry Lane Dental", "zone": "Europe/Oslo", "place": "eu", "chairs": ["left", "right"],
    "full_name": "Ragna Vestergaard-Obi", "username": "ragna", "password": NEW,
}  # fmt: skip


def send(client: Client, path: str, body: dict[str, Any]) -> tuple[int, dict[str, Any]]:
    """Send as a page does that has a token of its own."""
    client.get("/api/session")
    token = client.cookies["csrftoken"].value
    response = client.post(
        f"/api/{path}", json.dumps(body), content_type="application/json", headers={"X-CSRFToken": token}
    )
    return response.status_code, response.json() if response.content else {}


@pytest.fixture
def empty(db: None) -> Client:
    """A server that nobody has set up: all rows of the demo practice stand aside until the test is over."""
    for model in apps.get_models(include_auto_created=True):
        model._base_manager.all()._raw_delete("default")
    assert not is_set_up()
    return Client(enforce_csrf_checks=True)


class TestSetUp:
    def test_an_empty_server_is_set_up_once_and_its_owner_signed_in(self, empty: Client) -> None:
        assert empty.get("/api/session").json()["wants_set_up"]
        User.objects.filter(username="ragna").delete()
        status, session = send(empty, "set-up", SET_UP)
        assert status == 201
        assert session["user"]["is_owner"]
        assert session["user"]["role"] == "dentist"
        assert session["user"]["chairs"] == ["left", "right"]
        again = empty.get("/api/session").json()
        assert again["user"]["practice"] == "Skerry Lane Dental"
        assert not again["wants_set_up"]
        status, refused = send(Client(enforce_csrf_checks=True), "set-up", {**SET_UP, "username": "other"})
        assert (status, refused["code"]) == (409, "set_up")
        assert AuditEntry.objects.get(action="accounts.set_up").who.username == "ragna"

    @pytest.mark.parametrize(
        ("changed", "path"),
        [
            ({"name": " "}, "name"),
            ({"zone": "Mars/Olympus"}, "zone"),
            ({"place": "moon"}, "place"),
            ({"chairs": []}, "chairs"),
            ({"chairs": ["one", "one"]}, "chairs"),
            ({"full_name": ""}, "full_name"),
            ({"username": "R Agna"}, "username"),
            ({"password": "short"}, "password"),
        ],
    )
    def test_each_field_says_what_is_allowed_and_no_password_is_repeated(
        self, empty: Client, changed: dict[str, Any], path: str
    ) -> None:
        status, refused = send(empty, "set-up", {**SET_UP, **changed})
        assert status == 422
        assert [problem["path"] for problem in refused["problems"]] == [path]
        assert "short" not in refused["problems"][0]["got"]
        assert not is_set_up()

    def test_a_server_without_a_screen_is_set_up_by_a_command(
        self, empty: Client, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
    ) -> None:
        words = ("set_up", "Skerry Lane Dental", "Ragna Vestergaard-Obi", "ragna", "--chairs", "left, right")
        monkeypatch.setenv("MALLET_PASSWORD", "short")
        with pytest.raises(CommandError, match="password"):
            call_command(*words)
        monkeypatch.setenv("MALLET_PASSWORD", NEW)
        call_command(*words)
        assert "signs in as ragna" in capsys.readouterr().out
        with pytest.raises(CommandError, match="has a practice already"):
            call_command(*words)

    def test_a_page_of_somebody_else_sets_nothing_up(self, empty: Client) -> None:
        body = json.dumps(SET_UP)
        assert empty.post("/api/set-up", body, content_type="application/json").status_code == 403


def test_demo_sign_ins_are_not_told_beside_a_real_practice(demo: Practice) -> None:
    assert Client().get("/api/session").json()["demo_accounts"]
    Practice.objects.create(name="Skerry Lane Dental")
    assert Client().get("/api/session").json()["demo_accounts"] == []


def added(call: Caller, **changes: Any) -> dict[str, Any]:
    body = {"full_name": "Bo Lindqvist-Mensah", "username": "bo", "role": "assistant", **changes}
    status, person = call("post", "people", body)
    assert status == 201
    return person


def secret_of(call: Caller, person: dict[str, Any]) -> str:
    status, link = call("post", f"people/{person['id']}/link")
    assert status == 201
    return str(link["path"]).rpartition("/")[2]


class TestLinks:
    def test_a_link_sets_a_password_once(self, call: Caller) -> None:
        person = added(call)
        assert not person["has_password"]
        secret = secret_of(call, person)
        assert secret not in json.dumps(list(PasswordLink.objects.values_list("token_sha256", flat=True)))
        client = Client(enforce_csrf_checks=True)
        assert client.get(f"/api/links/{secret}").json() == {
            "full_name": "Bo Lindqvist-Mensah",
            "username": "bo",
        }
        status, session = send(client, f"links/{secret}", {"password": NEW})
        assert (status, session["user"]["username"]) == (200, "bo")
        assert client.get("/api/session").json()["user"]["role"] == "assistant"
        status, refused = send(Client(enforce_csrf_checks=True), f"links/{secret}", {"password": NEW + "2"})
        assert (status, refused["code"]) == (409, "link")
        assert User.objects.get(username="bo").check_password(NEW)

    def test_a_late_a_guessed_and_an_older_one_serve_nobody(self, call: Caller) -> None:
        person = added(call)
        older = secret_of(call, person)
        secret = secret_of(call, person)
        for tried in (older, "guessed", secret[:-1]):
            status, refused = send(Client(enforce_csrf_checks=True), f"links/{tried}", {"password": NEW})
            assert (status, refused["code"]) == (409, "link")
        PasswordLink.objects.update(expires_at=timezone.now() - dt.timedelta(seconds=1))
        assert Client().get(f"/api/links/{secret}").status_code == 409
        assert not User.objects.get(username="bo").has_usable_password()

    def test_too_short_a_password_leaves_the_link_good(self, call: Caller) -> None:
        secret = secret_of(call, added(call))
        client = Client(enforce_csrf_checks=True)
        status, refused = send(client, f"links/{secret}", {"password": "abc"})
        assert (status, refused["problems"][0]["path"]) == (422, "password")
        assert send(client, f"links/{secret}", {"password": NEW})[0] == 200


class TestPeople:
    def test_who_is_deactivated_is_out_at_once_and_keeps_the_name(
        self, call: Caller, assistant: User
    ) -> None:
        theirs = Caller(assistant)
        assert theirs("get", "today")[0] == 200
        status, person = call("patch", f"people/{assistant.pk}", {"is_active": False})
        assert (status, person["is_active"]) == (200, False)
        assert theirs("get", "today")[0] == 401
        body = {"username": "tomas", "password": PASSWORD}
        assert send(Client(enforce_csrf_checks=True), "session", body)[0] == 401
        assert call("post", f"people/{assistant.pk}/link")[1]["code"] == "deactivated"
        assert "Tomas Verhallen" in json.dumps(call("get", "people")[1])
        assert call("patch", f"people/{assistant.pk}", {"is_active": True})[0] == 200
        assert Caller(assistant)("get", "today")[0] == 200

    def test_a_changed_password_ends_all_other_sessions(self, assistant: User) -> None:
        here, there = Caller(assistant), Caller(assistant)
        assert here("post", "own/password", {"old": "wrong", "password": NEW})[1]["code"] == "password"
        assert here("post", "own/password", {"old": PASSWORD, "password": "tomas"})[0] == 422
        assert here("post", "own/password", {"old": PASSWORD, "password": NEW})[0] == 204
        assert here("get", "today")[0] == 200
        assert there("get", "today")[0] == 401

    def test_a_practice_keeps_an_owner(self, call: Caller, dentist: User, assistant: User) -> None:
        for changes in ({"is_owner": False}, {"is_active": False}):
            assert call("patch", f"people/{dentist.pk}", changes)[1]["code"] == "last_owner"
        assert call("patch", f"people/{assistant.pk}", {"is_owner": True})[0] == 200
        assert call("patch", f"people/{dentist.pk}", {"is_owner": False})[0] == 200
        assert call("get", "people")[0] == 403
        assert Caller(assistant)("get", "people")[0] == 200

    def test_owning_lets_nobody_sign_who_does_not_treat(self, call: Caller, assistant: User) -> None:
        call("patch", f"people/{assistant.pk}", {"is_owner": True})
        assistant.refresh_from_db()
        assert not assistant.may_pass_holds
        assert Caller(assistant)("post", "rules", {})[0] == 403

    @pytest.mark.parametrize(
        ("changed", "path"),
        [({"full_name": " "}, "full_name"), ({"role": "king"}, "role"), ({"username": "ines"}, "username")],
    )
    def test_what_is_wrong_with_a_new_person_is_told(
        self, call: Caller, changed: dict[str, Any], path: str
    ) -> None:
        body = {"full_name": "Bo", "username": "bo", "role": "assistant", **changed}
        status, refused = call("post", "people", body)
        assert (status, refused["problems"][0]["path"]) == (422, path)

    def test_everybody_sets_notation_and_sound_of_their_own(self, assistant: User) -> None:
        theirs = Caller(assistant)
        status, session = theirs("patch", "own", {"notation": "number", "hears": True})
        assert (status, session["user"]["notation"], session["user"]["hears"]) == (200, "number", True)
        status, refused = theirs("patch", "own", {"notation": "roman"})
        assert (status, refused["problems"][0]["path"]) == (422, "notation")


class TestPractice:
    def test_name_place_and_chairs_change_and_are_in_the_trail(self, call: Caller, demo: Practice) -> None:
        told = {"name": " Gannet Rock ", "place": "eu", "chairs": ["chair 1", "chair 2", "window"]}
        status, practice = call("patch", "practice", told)
        assert (status, practice["name"], practice["place"]) == (200, "Gannet Rock", "eu")
        session = call("get", "session")[1]["user"]
        assert (session["practice"], session["chairs"]) == ("Gannet Rock", told["chairs"])
        entry = AuditEntry.objects.filter(action="accounts.practice.changed").get()
        assert entry.details["before"]["name"] == demo.name

    @pytest.mark.parametrize(
        ("told", "path", "allowed"),
        [
            ({"name": "  "}, "name", "1 to 120 characters"),
            ({"place": "mars"}, "place", "one of eu, us, elsewhere"),
            ({"chairs": []}, "chairs", "1 to 20 names"),
            ({"chairs": ["a", "a"]}, "chairs", "each once"),
            ({"chairs": ["chair 1"]}, "chairs", "a list with chair 2; move its visits first to leave it out"),
        ],
    )
    def test_what_cannot_be_is_told_and_nothing_changes(
        self, call: Caller, demo: Practice, told: dict[str, Any], path: str, allowed: str
    ) -> None:
        before = call("get", "practice")[1]
        status, refused = call("patch", "practice", told)
        assert (status, refused["problems"][0]["path"]) == (422, path)
        assert allowed in refused["problems"][0]["allowed"]
        assert call("get", "practice")[1] == before


class TestTrail:
    def test_an_owner_reads_who_did_what_and_takes_it_along(self, call: Caller, dentist: User) -> None:
        person = added(call)
        call("patch", f"people/{person['id']}", {"role": "trainee"})
        status, told = call("get", "audit?action=accounts.person.changed")
        assert status == 200
        assert told["count"] == 1
        (row,) = told["rows"]
        assert (row["who"], row["details"]["role"]) == (dentist.full_name, "trainee")
        assert "accounts.person.added" in told["actions"]
        assert call("get", "audit?who=Nobody")[1]["count"] == 0
        today = dentist.practice.today()
        tomorrow = today + dt.timedelta(days=1)
        assert call("get", f"audit?since={tomorrow}")[1]["count"] == 0
        assert call("get", f"audit?until={today}&page=99")[1]["page"] >= 1
        text = call.client.get("/api/audit-file?action=accounts.person.changed").content.decode()
        assert text.splitlines()[0] == "at,who,action,subject,details"
        assert "trainee" in text
