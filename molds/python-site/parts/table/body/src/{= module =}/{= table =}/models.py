"""The table."""

from django.db import models


class {= table.pascal =}(models.Model):
    name = models.CharField(max_length=120, unique=True)
    remarks = models.TextField(max_length=10_000, blank=True)
    changed_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["name"]
        verbose_name = {= table.sentence.lower.python =}
        verbose_name_plural = {= plural.python =}

    def __str__(self) -> str:
        return self.name
