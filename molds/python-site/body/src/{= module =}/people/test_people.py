"""Signing in and out."""

import pytest
from django.test import Client

from ..conftest import PASSWORD
from .models import Person


def sign_in(visitor: Client, password: str, then: str = "") -> int:
    answer = visitor.post(
        "/sign-in/", {"username": "pat", "password": password, "next": then}, follow=False
    )
    return answer.status_code


@pytest.mark.django_db
def test_people_sign_in_and_out(person: Person, visitor: Client) -> None:
    assert sign_in(visitor, "wrong") == 200
    assert "Sign in" in visitor.get("/").content.decode()
    assert sign_in(visitor, PASSWORD) == 302
    assert "Sign out" in visitor.get("/").content.decode()
    assert visitor.get("/sign-out/").status_code == 405
    assert visitor.post("/sign-out/").status_code == 302
    assert "Sign out" not in visitor.get("/").content.decode()


@pytest.mark.django_db
def test_guessing_is_slowed_down(person: Person, visitor: Client) -> None:
    statuses = [sign_in(visitor, f"wrong {number}") for number in range(6)]
    assert statuses[:4] == [200] * 4
    assert statuses[-1] == 429
    assert sign_in(visitor, PASSWORD) == 429


@pytest.mark.django_db
def test_signing_in_leads_to_no_other_site(person: Person, visitor: Client) -> None:
    answer = visitor.post(
        "/sign-in/?next=https://example.com/",
        {"username": "pat", "password": PASSWORD, "next": "https://example.com/"},
    )
    assert answer.headers["Location"] == "/"


@pytest.mark.django_db
def test_posts_from_other_sites_are_refused(person: Person) -> None:
    careful = Client(enforce_csrf_checks=True)
    assert sign_in(careful, PASSWORD) == 403


@pytest.mark.django_db
def test_people_change_their_password(member: Client) -> None:
    new = "eleven gulls at the pier"
    short = {"old_password": PASSWORD, "new_password1": "short", "new_password2": "short"}
    assert member.post("/password/", short).status_code == 200
    good = {"old_password": PASSWORD, "new_password1": new, "new_password2": new}
    assert member.post("/password/", good).status_code == 302
    assert Person.objects.get().check_password(new)


@pytest.mark.django_db
def test_the_admin_is_for_those_who_keep_the_site(member: Client, keeper: Client) -> None:
    assert member.get("/admin/").status_code == 302
    assert keeper.get("/admin/people/person/").status_code == 200
