"""Doors: names that look alike, wrong passwords by address and by account, and passwords that were forgotten."""

import re

import pytest
from django.core import mail
from django.core.management import CommandError, call_command
from django.test import Client
from django.urls import reverse

from rapzel.accounts.models import DoorTry, User
from rapzel.accounts.names import look_of

PASSWORD, NEW = "a long enough one", "seven moths at dusk"


def _sign_up(name: str, password: str = NEW) -> str:
    sent = {"username": name, "password1": password, "password2": password}
    answer = Client().post(reverse("accounts:sign_up"), sent)
    return answer.content.decode() if answer.status_code == 422 else ""


# --- names and passwords ---


@pytest.mark.parametrize(
    "name",
    ["owner", "Owner", "0wner", "оwner", "ownеr", "ｏｗｎｅｒ", "οwner", "OWNER"],
)
def test_a_name_that_looks_like_a_taken_one_is_refused(owner, name: str) -> None:
    """Capitals, digits, Cyrillic, wide and Greek letters."""
    said = _sign_up(name)
    assert "looks like this one is taken" in said or "already exists" in said
    assert User.objects.count() == 1


@pytest.mark.parametrize("name", ["owners", "own", "jürgen", "søren", "光", "οδός"])
def test_other_names_are_taken_in_any_script(owner, name: str) -> None:
    assert _sign_up(name) == ""
    assert User.objects.filter(username=name).exists()


def test_names_are_stored_in_one_form(db) -> None:
    assert _sign_up("ﬁeld") == ""
    assert User.objects.get().username == "field"


def test_looks_of_names() -> None:
    assert look_of("paypal") == look_of("раураl") == look_of("PayPa1")
    assert look_of("jürgen") != look_of("jurgen")


@pytest.mark.parametrize(
    ("password", "says"),
    [("48213097562", "entirely numeric"), ("newcomer1", "too similar to the username")],
)
def test_passwords_of_digits_or_like_the_name_are_refused(
    db, password: str, says: str
) -> None:
    assert says in _sign_up("newcomer", password)


# --- wrong passwords ---


def _log_in(name: str, password: str, **meta: str) -> int:
    client = Client()
    return client.post(
        reverse("accounts:login"), {"username": name, "password": password}, **meta
    ).status_code


def test_many_names_from_one_address_close_it(owner, settings) -> None:
    settings.DOOR_TRIES = {"password": {"address": 6, "account": 5}}
    for number in range(6):
        assert _log_in(f"name{number}", "wrong") == 200
    assert _log_in("owner", PASSWORD) == 429, (
        "whichever name is tried, from there it is closed"
    )
    assert _log_in("owner", PASSWORD, REMOTE_ADDR="192.0.2.7") == 302


def test_the_address_is_the_one_that_ones_own_proxy_saw(owner, settings) -> None:
    settings.DOOR_TRIES = {"password": {"address": 3, "account": 5}}
    settings.TRUSTED_PROXIES = 1
    for number in range(3):
        _log_in(
            f"name{number}", "wrong", HTTP_X_FORWARDED_FOR=f"10.0.0.{number}, 192.0.2.9"
        )
    made_up = "203.0.113.5, 192.0.2.9"
    assert _log_in("owner", PASSWORD, HTTP_X_FORWARDED_FOR=made_up) == 429
    assert _log_in("owner", PASSWORD, HTTP_X_FORWARDED_FOR="192.0.2.10") == 302


@pytest.mark.parametrize("door", ["password", "farewell", "letters"])
def test_a_session_that_was_left_open_does_not_let_one_guess(
    visitor, owner, door: str
) -> None:
    url = reverse(f"accounts:{door}")
    wrong = {
        "old_password": "wrong",
        "new_password1": NEW,
        "new_password2": NEW,
        "password": "wrong",
    }
    for _ in range(5):
        assert visitor.post(url, wrong).status_code in (200, 422)
    right = {**wrong, "old_password": PASSWORD, "password": PASSWORD}
    assert visitor.post(url, right).status_code == 429
    assert User.objects.filter(pk=owner.pk).exists()
    assert visitor.get(reverse("workbench:shoots")).status_code == 200, (
        "the work itself stays open"
    )


def test_a_new_password_that_is_refused_is_no_wrong_one(visitor) -> None:
    sent = {
        "old_password": PASSWORD,
        "new_password1": "12345678901",
        "new_password2": "12345678901",
    }
    for _ in range(7):
        assert (
            "entirely numeric"
            in visitor.post(reverse("accounts:password"), sent).content.decode()
        )
    assert not DoorTry.objects.exists()


# --- forgotten ---


def _set_anew(path: str, password: str = NEW) -> str:
    """Follows a link, sets a password; the page's words."""
    client = Client()
    shown = client.get(path, follow=True)
    if "does not open any more" in shown.content.decode():
        return "closed"
    sent = {"new_password1": password, "new_password2": password}
    return client.post(shown.redirect_chain[-1][0], sent, follow=True).content.decode()


def test_a_link_from_the_command_sets_a_password_once(owner, capsys) -> None:
    call_command("password_link", "owner", site="https://rapzel.example/")
    link = capsys.readouterr().out.strip()
    assert link.startswith("https://rapzel.example/account/anew/")
    path = link.removeprefix("https://rapzel.example")
    assert "The password is changed" in _set_anew(path)
    assert _log_in("owner", NEW) == 302
    assert _set_anew(path) == "closed"


def test_no_link_for_nobody_or_for_an_account_of_one_click(owner) -> None:
    with pytest.raises(CommandError, match="no account “nobody”"):
        call_command("password_link", "nobody")
    owner.set_unusable_password()
    owner.save()
    with pytest.raises(CommandError, match="has no password"):
        call_command("password_link", "owner")


def test_a_letter_sets_a_password_where_an_address_is_kept(visitor, owner) -> None:
    visitor.post(
        reverse("accounts:letters"),
        {"email": "me@rapzel.example", "password": PASSWORD},
    )
    said = [
        Client()
        .post(reverse("accounts:forgotten"), {"email": email}, follow=True)
        .content.decode()
        for email in ("me@rapzel.example", "nobody@rapzel.example")
    ]
    assert all("If an account has this address" in words for words in said)
    (letter,) = mail.outbox
    assert "“owner”" in letter.body
    link = re.search(r"http://testserver(/account/anew/\S+)", letter.body)
    assert link
    assert "The password is changed" in _set_anew(link[1])


def test_letters_are_few_and_there_are_none_without_a_server(
    client, db, settings
) -> None:
    for _ in range(5):
        assert (
            client.post(
                reverse("accounts:forgotten"), {"email": "a@b.example"}
            ).status_code
            == 302
        )
    assert (
        client.post(reverse("accounts:forgotten"), {"email": "a@b.example"}).status_code
        == 429
    )
    settings.LETTERS = False
    assert client.get(reverse("accounts:forgotten")).status_code == 404
    assert (
        "can make you a link" in client.get(reverse("accounts:login")).content.decode()
    )
