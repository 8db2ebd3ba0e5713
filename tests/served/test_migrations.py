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
        ["verify", "0003_rehearsals"],
        ["verify", "0004_groups_of_expectations"],
        ["verify", "0005_reports"],
        ["verify", "0006_walk_lists"],
    ]


def test_its_tables_are_those_of_a_new_installation_and_a_second_run_changes_nothing(migrated, harbour):
    assert migrated.sql(COLUMNS.format(migrated.name)) == harbour.sql(COLUMNS.format(harbour.name))
    assert "No migrations to apply" in migrated.manage("migrate")
    assert "No changes detected" in migrated.manage("makemigrations", "--check", "--dry-run")


def test_whoever_opened_the_desk_opens_every_section_of_it():
    database = Database("before_sections")
    database.manage("migrate", "access", "0016_what_spent_keys_called", "-v0")
    database.sql(
        "INSERT INTO access_role"
        " (`key`, name, description, baseline, colour, pattern, position, facets, version, shipped)"
        " VALUES ('crew', 'Crew', '', '', 'azure', 'plain', 1, '{}', 1, '{\"desk.open\": \"yes\"}');"
        " INSERT INTO access_answer (role_id, capability, says) VALUES ('crew', 'desk.open', 'yes'),"
        " ('crew', 'topics.open', 'withheld'), ('everyone', 'desk.open', 'barred');"
        " INSERT INTO accounts_group (`key`, name, version) VALUES ('crews', 'Crews', 1);"
        " INSERT INTO access_directgrant (id, group_id, capability, says, scope, given_at)"
        " VALUES ('given', 'crews', 'desk.open', 'yes', '{\"sites\": [\"quay\"]}', '2026-11-03 09:00')"
    )
    database.manage("migrate", "-v0")
    opened = "capability LIKE '%.open' AND capability NOT IN ('desk.open', 'locks.open') ORDER BY capability"
    said = database.sql(f"SELECT capability, says FROM access_answer WHERE role_id = 'crew' AND {opened}")
    assert said == [
        ["accounts.open", "yes"],
        ["content.open", "yes"],
        ["discussion.open", "yes"],
        ["settings.open", "yes"],
        ["topics.open", "withheld"],
    ]
    everyone = database.sql(f"SELECT says FROM access_answer WHERE role_id = 'everyone' AND {opened}")
    assert everyone == [["barred"]] * 5
    direct = database.sql(f"SELECT capability, group_id, scope FROM access_directgrant WHERE {opened}")
    assert [(row[0], row[1], row[2]) for row in direct] == [
        (f"{section}.open", "crews", '{"sites": ["quay"]}')
        for section in ("accounts", "content", "discussion", "settings", "topics")
    ]
