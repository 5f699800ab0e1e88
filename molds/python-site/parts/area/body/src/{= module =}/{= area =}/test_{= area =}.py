"""Who sees the area."""

import pytest
from django.test import Client


@pytest.mark.django_db
def test_only_members_see_it(visitor: Client, member: Client) -> None:
    answer = visitor.get("/{= area.kebab =}/")
    assert answer.headers["Location"] == "/sign-in/?next=/{= area.kebab =}/"
    page = member.get("/{= area.kebab =}/")
    assert "Welcome, pat." in page.content.decode()
    assert member.post("/{= area.kebab =}/").status_code == 405
