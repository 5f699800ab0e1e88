"""The table in the admin."""

import pytest
from django.test import Client
from django.urls import reverse

from .models import {= table.pascal =}


@pytest.mark.django_db
def test_it_is_kept_in_the_admin(keeper: Client, member: Client) -> None:
    rows = reverse("admin:{= table =}_{= table.pascal.lower =}_changelist")
    new = reverse("admin:{= table =}_{= table.pascal.lower =}_add")
    assert keeper.post(new, {"name": "The first one", "remarks": ""}).status_code == 302
    assert {= table.pascal =}.objects.get().name == "The first one"
    assert "The first one" in keeper.get(f"{rows}?q=first").content.decode()
    assert member.get(rows).status_code == 302
