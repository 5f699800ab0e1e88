"""The table of notices."""

from django.conf import settings
from django.db import models
from django.urls import reverse


class Notice(models.Model):
    heading = models.CharField(max_length=120)
    text = models.TextField(max_length=10_000)
    written_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="notices"
    )
    written_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-written_at", "-id"]

    def __str__(self) -> str:
        return self.heading

    def get_absolute_url(self) -> str:
        return reverse("notices:one", args=[self.pk])
