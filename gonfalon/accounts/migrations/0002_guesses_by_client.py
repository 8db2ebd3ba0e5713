"""Guesses are counted by address and client, by client, and by address. What was counted before is at most an hour old."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("accounts", "0001_initial")]

    operations = [
        migrations.DeleteModel(name="Guesses"),
        migrations.CreateModel(
            name="Guesses",
            fields=[
                ("key", models.CharField(max_length=64, primary_key=True, serialize=False)),
                ("count", models.PositiveIntegerField(default=0)),
                ("last_at", models.DateTimeField(db_index=True)),
            ],
        ),
        migrations.CreateModel(
            name="KnownClient",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("client", models.CharField(max_length=60)),
                ("last_at", models.DateTimeField(db_index=True)),
                (
                    "account",
                    models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, to=settings.AUTH_USER_MODEL),
                ),
            ],
            options={
                "constraints": [models.UniqueConstraint(fields=("account", "client"), name="once_a_client")],
            },
        ),
    ]
