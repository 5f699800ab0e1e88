"""The first form of the table."""

from django.db import migrations, models


class Migration(migrations.Migration):
    initial = True

    dependencies = []

    operations = [
        migrations.CreateModel(
            name="{= table.pascal =}",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("name", models.CharField(max_length=120, unique=True)),
                ("remarks", models.TextField(blank=True, max_length=10_000)),
                ("changed_at", models.DateTimeField(auto_now=True)),
            ],
            options={
                "verbose_name": {= table.sentence.lower.python =},
                "verbose_name_plural": {= plural.python =},
                "ordering": ["name"],
            },
        ),
    ]
