"""The table in the admin."""

from django.contrib import admin

from .models import {= table.pascal =}


@admin.register({= table.pascal =})
class {= table.pascal =}Admin(admin.ModelAdmin[{= table.pascal =}]):
    list_display = ["name", "changed_at"]
    search_fields = ["name", "remarks"]
    readonly_fields = ["changed_at"]
