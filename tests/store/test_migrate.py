import psycopg
import pytest

from almanaque.host import postgres
from almanaque.host.postgres import Addresses, Cluster
from almanaque.store import errors, migrate
from almanaque.store.db import Database


def test_a_second_run_changes_nothing(empty: Addresses) -> None:
    assert migrate.run(empty.owner, app_role=postgres.APP) == []


def test_every_file_has_a_reason_on_top_and_is_numbered_without_a_gap() -> None:
    files = migrate.known()
    assert [m.number for m in files] == list(range(1, len(files) + 1))
    assert all(m.text.startswith("-- ") for m in files)


def test_a_database_that_lacks_a_step_is_refused_until_it_is_migrated(empty: Addresses) -> None:
    with psycopg.connect(empty.owner) as connection:
        connection.execute("DELETE FROM schema_migration WHERE number = 3")
        with pytest.raises(errors.SchemaMismatch, match=r"lacks 1 step.*0003_queue.sql.*almanaque migrate"):
            migrate.refuse_other_schema(connection)


def test_a_newer_database_is_refused_in_words(empty: Addresses) -> None:
    with psycopg.connect(empty.owner) as connection:
        connection.execute("INSERT INTO schema_migration VALUES (99, '0099_later.sql', 'x', now())")
        connection.commit()
        with pytest.raises(errors.SchemaMismatch, match="newer than this version"):
            migrate.refuse_other_schema(connection)
    with pytest.raises(errors.SchemaMismatch, match="newer"):
        migrate.run(empty.owner, app_role=postgres.APP)
    database = Database(empty.app, max_size=1)
    database.open()
    with pytest.raises(errors.SchemaMismatch):
        database.check_ready()
    database.close()


def test_an_edited_step_is_noticed_by_its_checksum(empty: Addresses) -> None:
    with psycopg.connect(empty.owner) as connection:
        connection.execute("UPDATE schema_migration SET checksum = 'edited' WHERE number = 2")
        with pytest.raises(errors.SchemaMismatch, match="Step 2 .*differs"):
            migrate.refuse_other_schema(connection)


def test_a_step_that_fails_leaves_nothing_behind(
    cluster: Cluster, empty: Addresses, monkeypatch: pytest.MonkeyPatch
) -> None:
    broken = migrate.Migration(len(migrate.known()) + 1, "0099_broken.sql", "CREATE TABLE half (a int); SELECT 1/0;")
    monkeypatch.setattr(migrate, "pending", lambda _: [broken])
    with pytest.raises(psycopg.errors.DivisionByZero):
        migrate.run(empty.owner, app_role=postgres.APP)
    with psycopg.connect(empty.owner) as connection:
        assert connection.execute("SELECT to_regclass('public.half')").fetchone() == (None,)
        assert broken.number not in migrate.applied(connection)


def test_the_owner_cannot_be_the_applications_role(empty: Addresses) -> None:
    with pytest.raises(errors.UnsafeRole, match="Use two roles"):
        migrate.run(empty.owner, app_role=postgres.OWNER)
