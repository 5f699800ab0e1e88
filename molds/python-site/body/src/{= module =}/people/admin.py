"""The accounts in the admin."""

from django.contrib import admin
from django.contrib.auth.admin import UserAdmin

from .models import Person

admin.site.register(Person, UserAdmin)
