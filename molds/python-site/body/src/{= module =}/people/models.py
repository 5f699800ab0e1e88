"""The accounts; what a person has besides a name and a password goes here."""

from django.contrib.auth.models import AbstractUser


class Person(AbstractUser):
    """Somebody with an account."""
