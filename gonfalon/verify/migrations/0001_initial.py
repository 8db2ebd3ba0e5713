"""Expectations. An installation that kept them under this app's earlier name, `standin`, keeps what it has."""

import gonfalon.clock
import gonfalon.ids
from django.db import migrations, models

BEFORE, NOW = "standin_expectation", "verify_expectation"


def make_or_take_over(apps, editor):
    """Make the table, or rename the one an installation has under the earlier name."""
    tables = editor.connection.introspection.table_names()
    if BEFORE in tables:
        editor.alter_db_table(None, BEFORE, NOW)
        with editor.connection.cursor() as cursor:
            cursor.execute("DELETE FROM django_migrations WHERE app = 'standin'")
    elif NOW not in tables:
        editor.create_model(apps.get_model("verify", "Expectation"))


class Migration(migrations.Migration):
    initial = True

    dependencies = []

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.CreateModel(
                    name="Expectation",
                    fields=[
                        (
                            "id",
                            gonfalon.ids.IdField(
                                db_collation="utf8mb4_nopad_bin",
                                default=gonfalon.clock.new_id,
                                editable=False,
                                max_length=120,
                                primary_key=True,
                                serialize=False,
                            ),
                        ),
                        ("question", models.JSONField()),
                        ("expect", models.CharField(choices=[("allow", "allow"), ("deny", "deny")], max_length=5)),
                        ("reason", models.CharField(blank=True, max_length=20)),
                        ("note", models.CharField(blank=True, max_length=200)),
                        (
                            "recorded_by",
                            gonfalon.ids.IdField(db_collation="utf8mb4_nopad_bin", max_length=120, null=True),
                        ),
                        ("recorded_at", models.DateTimeField(default=gonfalon.clock.now)),
                    ],
                    options={"ordering": ["recorded_at", "id"]},
                ),
            ],
        ),
        migrations.RunPython(make_or_take_over, migrations.RunPython.noop, atomic=False),
    ]
