"""An installation as it was before an app got its present name migrates and keeps everything."""

from pathlib import Path

import pytest

from tests.served.support import Database

EARLIER = Path(__file__).with_name("earlier.sql")
"""The tables of such an installation, its applied migrations, and the expectations of the harbour."""
COLUMNS = (
    "SELECT table_name, column_name, column_type, is_nullable, collation_name FROM information_schema.columns"
    " WHERE table_schema = '{}' ORDER BY table_name, column_name"
)


@pytest.fixture
def migrated() -> Database:
    database = Database("earlier")
    database.sql(EARLIER.read_text())
    database.manage("migrate", "-v0")
    return database


def test_expectations_are_kept_under_the_new_name(migrated):
    asked = "SELECT id, question, expect, note, recorded_by FROM verify_expectation ORDER BY id"
    kept = migrated.sql(asked)
    assert len(kept) == EARLIER.read_text().count("INSERT INTO `standin_expectation`") == 12
    assert kept[1][1:] == ['{"action": "edit", "node": "p3-sail-loft", "account": "ines"}', "allow", "", "odile"]
    assert migrated.sql("SHOW TABLES LIKE 'standin%'") == []
    assert migrated.sql("SELECT app, name FROM django_migrations WHERE app IN ('standin', 'verify')") == [
        ["verify", "0001_initial"],
        ["verify", "0002_requests"],
    ]


def test_its_tables_are_those_of_a_new_installation_and_a_second_run_changes_nothing(migrated, harbour):
    assert migrated.sql(COLUMNS.format(migrated.name)) == harbour.sql(COLUMNS.format(harbour.name))
    assert "No migrations to apply" in migrated.manage("migrate")
    assert "No changes detected" in migrated.manage("makemigrations", "--check", "--dry-run")
