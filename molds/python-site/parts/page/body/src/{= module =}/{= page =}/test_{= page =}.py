"""The page and its form."""

import pytest
from django.test import Client

WORDS = {"heading": "A red umbrella", "text": "On the ferry at six."}


@pytest.mark.django_db
def test_what_is_sent_is_taken(visitor: Client, caplog: pytest.LogCaptureFixture) -> None:
    assert visitor.get("/{= page.kebab =}/").status_code == 200
    with caplog.at_level("INFO"):
        answer = visitor.post("/{= page.kebab =}/", WORDS, follow=True)
    assert "Thank you." in answer.content.decode()
    assert "A red umbrella" in caplog.text


@pytest.mark.django_db
@pytest.mark.parametrize("wrong", [{"heading": ""}, {"heading": "x" * 121}, {"text": "  "}])
def test_what_the_form_refuses_is_shown_again(visitor: Client, wrong: dict[str, str]) -> None:
    answer = visitor.post("/{= page.kebab =}/", WORDS | wrong)
    assert answer.status_code == 200
    assert "errorlist" in answer.content.decode()
