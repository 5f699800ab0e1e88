"""The board of notices."""

import pytest
from django.test import Client

from ..people.models import Person
from .models import Notice

WORDS = {"heading": "New timetable", "text": "The first boat leaves at <six>."}


@pytest.mark.django_db
def test_a_member_writes_and_everybody_reads(member: Client, visitor: Client) -> None:
    answer = member.post("/notices/new/", WORDS)
    notice = Notice.objects.get()
    assert (answer.status_code, answer.headers["Location"]) == (302, notice.get_absolute_url())
    assert notice.written_by.username == "pat"
    page = visitor.get(notice.get_absolute_url()).content.decode()
    assert "&lt;six&gt;" in page
    assert "<six>" not in page
    assert "New timetable" in visitor.get("/").content.decode()


@pytest.mark.django_db
@pytest.mark.parametrize("what", ["notices/new/", "notices/1/change/", "notices/1/remove/"])
def test_visitors_are_asked_to_sign_in(visitor: Client, what: str) -> None:
    answer = visitor.post(f"/{what}", WORDS)
    assert answer.headers["Location"] == f"/sign-in/?next=/{what}"
    assert not Notice.objects.exists()


@pytest.mark.django_db
@pytest.mark.parametrize("wrong", [{"heading": ""}, {"heading": "x" * 121}, {"text": "  "}])
def test_what_the_form_refuses_is_not_kept(member: Client, wrong: dict[str, str]) -> None:
    answer = member.post("/notices/new/", WORDS | wrong)
    assert answer.status_code == 200
    assert "errorlist" in answer.content.decode()
    assert not Notice.objects.exists()


@pytest.mark.django_db
def test_only_the_writer_changes_and_removes(
    person: Person, member: Client, keeper: Client, visitor: Client
) -> None:
    notice = Notice.objects.create(**WORDS, written_by=person)
    stranger = Client()
    stranger.force_login(
        Person.objects.create_user("sam"), "django.contrib.auth.backends.ModelBackend"
    )
    for what in ("change", "remove"):
        assert stranger.post(f"{notice.get_absolute_url()}{what}/", WORDS).status_code == 403
    member.post(f"{notice.get_absolute_url()}change/", WORDS | {"heading": "Newer timetable"})
    assert "Newer timetable" in visitor.get("/").content.decode()
    assert keeper.get(f"{notice.get_absolute_url()}remove/").status_code == 200
    assert keeper.post(f"{notice.get_absolute_url()}remove/").status_code == 302
    assert visitor.get(notice.get_absolute_url()).status_code == 404


@pytest.mark.django_db
def test_many_notices_come_page_by_page(person: Person, visitor: Client) -> None:
    Notice.objects.bulk_create(
        Notice(heading=f"Notice {number:02}", text="-", written_by=person) for number in range(25)
    )
    first, second = (visitor.get(f"/?page={page}").content.decode() for page in (1, 2))
    assert "Notice 24" in first
    assert "Notice 04" not in first
    assert "Notice 04" in second
    assert visitor.get("/?page=nothing").status_code == 200


@pytest.mark.django_db
def test_the_admin_shows_them(person: Person, keeper: Client) -> None:
    Notice.objects.create(**WORDS, written_by=person)
    assert "New timetable" in keeper.get("/admin/notices/notice/?q=boat").content.decode()
