"""What all tests share: people who are signed in{= if database == "postgres" =}, and whether there is a database{= end =}."""

# {= if database == "postgres" =}
import os

# {= end =}
import pytest
from django.test import Client

from .people.models import Person

PASSWORD = "nine boats and a buoy"
# {= if database == "postgres" =}


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Skips what needs a database where TEST_DATABASE_URL names none."""
    if not os.environ.get("TEST_DATABASE_URL"):
        no_database = pytest.mark.skip(reason="TEST_DATABASE_URL names no database for the tests")
        for item in items:
            if item.get_closest_marker("django_db"):
                item.add_marker(no_database)
# {= end =}


@pytest.fixture
def person(db: None) -> Person:
    return Person.objects.create_user("pat", password=PASSWORD)


@pytest.fixture
def visitor() -> Client:
    """Somebody who is not signed in."""
    return Client(enforce_csrf_checks=False)


@pytest.fixture
def member(person: Person) -> Client:
    """Somebody who is signed in."""
    client = Client()
    client.force_login(person, "django.contrib.auth.backends.ModelBackend")
    return client


@pytest.fixture
def keeper(db: None) -> Client:
    """Somebody who may do everything in the admin."""
    client = Client()
    keeper = Person.objects.create_superuser("kim", password=PASSWORD)
    client.force_login(keeper, "django.contrib.auth.backends.ModelBackend")
    return client
