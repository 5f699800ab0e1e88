"""The notices in the admin."""

from django.contrib import admin

from .models import Notice


@admin.register(Notice)
class NoticeAdmin(admin.ModelAdmin[Notice]):
    list_display = ["heading", "written_by", "written_at"]
    list_select_related = ["written_by"]
    list_filter = ["written_at"]
    search_fields = ["heading", "text"]
    readonly_fields = ["written_at"]
