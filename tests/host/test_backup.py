from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path

import psycopg
import pytest

from almanaque.host import backup, postgres
from almanaque.host.errors import HostError
from almanaque.host.keeping import Keeping, name_of
from almanaque.host.postgres import Addresses, Cluster
from almanaque.store.school import upkeep

NOW = datetime(2027, 4, 14, 12, 0, tzinfo=UTC)


def contents(url: str) -> dict[str, list]:
    """Every row of every table, as text."""
    with psycopg.connect(url) as connection:
        tables = connection.execute(
            "SELECT relname FROM pg_class WHERE relnamespace = 'public'::regnamespace AND relkind = 'r'"
        )
        return {
            name: sorted(row[0] for row in connection.execute(f"SELECT t::text FROM {name} t".encode()).fetchall())
            for (name,) in tables.fetchall()
        }


@pytest.fixture
def saved(demo: Addresses, cluster: Cluster, tmp_path: Path) -> Iterator[tuple[Addresses, Path]]:
    file = tmp_path / "garden.backup"
    assert backup.write(demo.owner, file) > 10_000
    yield demo, file
    name = demo.owner.rsplit("/", 1)[1]
    with psycopg.connect(cluster.url("postgres", "postgres"), autocommit=True) as connection:
        for (left,) in connection.execute(
            "SELECT datname FROM pg_database WHERE datname LIKE %s", [f"{name}_%"]
        ).fetchall():
            cluster.drop_database(left)


def test_a_restore_gives_back_every_row_and_keeps_what_it_replaced(saved: tuple[Addresses, Path]) -> None:
    addresses, file = saved
    before = contents(addresses.owner)
    with psycopg.connect(addresses.owner) as owner:
        owner.execute("DELETE FROM use_of_harvest")
        owner.execute("UPDATE bed SET name = 'spoilt'")
    still_connected = psycopg.connect(addresses.app)
    kept = backup.restore(addresses.owner, file, app_role=postgres.APP, now=NOW)
    still_connected.close()
    assert contents(addresses.owner) == before
    assert set(contents(addresses.owner.rsplit("/", 1)[0] + "/" + kept)["use_of_harvest"]) == set()
    with psycopg.connect(addresses.app) as app:
        assert app.execute(
            "SELECT has_table_privilege('bed', 'INSERT'), has_table_privilege('account', 'SELECT')"
        ).fetchone() == (True, False)


def databases(owner_url: str) -> set[str]:
    """This test's databases; other workers make and drop theirs meanwhile."""
    name = owner_url.rsplit("/", 1)[1]
    with psycopg.connect(owner_url) as connection:
        rows = connection.execute("SELECT datname FROM pg_database WHERE starts_with(datname, %s)", [name]).fetchall()
        return {found for (found,) in rows}


@pytest.mark.parametrize("spoil", ["cut", "cut late", "rubbish", "missing"])
def test_a_file_that_is_no_backup_changes_nothing(saved: tuple[Addresses, Path], spoil: str) -> None:
    addresses, file = saved
    before, there = contents(addresses.owner), databases(addresses.owner)
    if spoil == "cut":
        file.write_bytes(file.read_bytes()[:9000])
    elif spoil == "cut late":  # broken off when most of it is in
        body = file.read_bytes()
        file.write_bytes(body[: len(body) * 9 // 10])
    elif spoil == "rubbish":
        file.write_text("not a backup", encoding="utf-8")
    else:
        file.unlink()
    with pytest.raises(HostError):
        backup.restore(addresses.owner, file, app_role=postgres.APP, now=NOW)
    assert contents(addresses.owner) == before
    assert databases(addresses.owner) == there


def test_a_backup_of_another_version_is_not_put_in_place(saved: tuple[Addresses, Path], tmp_path: Path) -> None:
    addresses, _ = saved
    with psycopg.connect(addresses.owner) as owner:
        owner.execute("INSERT INTO schema_migration VALUES (99, '0099_later.sql', 'x', now())")
    newer = tmp_path / "newer.backup"
    backup.write(addresses.owner, newer)
    there = databases(addresses.owner)
    with pytest.raises(HostError, match="read but not put in place.*newer than this version"):
        backup.restore(addresses.owner, newer, app_role=postgres.APP, now=NOW)
    assert databases(addresses.owner) == there


def test_a_backup_without_people_is_not_put_in_place(empty: Addresses, tmp_path: Path) -> None:
    backup.write(empty.owner, tmp_path / "empty.backup")
    with pytest.raises(HostError, match="holds no school"):
        backup.restore(empty.owner, tmp_path / "empty.backup", app_role=postgres.APP, now=NOW)


def test_a_backup_goes_only_where_it_can_and_is_private(demo: Addresses, tmp_path: Path) -> None:
    with pytest.raises(HostError, match="give a file name"):
        backup.write(demo.owner, tmp_path / "no" / "such" / "folder")
    with pytest.raises(HostError, match="give a file name"):
        backup.write(demo.owner, tmp_path)
    backup.write(demo.owner, tmp_path / "b")
    assert (tmp_path / "b").stat().st_mode & 0o077 == 0
    assert [path.name for path in tmp_path.iterdir()] == ["b"]


def test_a_server_that_does_not_answer_is_said(tmp_path: Path) -> None:
    with pytest.raises(HostError, match="did not finish"):
        backup.write("postgresql://a:b@127.0.0.1:9/x", tmp_path / "b")


def test_a_backup_of_an_earlier_version_is_brought_to_this_ones_schema(saved: tuple[Addresses, Path]) -> None:
    """`data/garden-0.1.backup` is the demo as version 0.1 wrote it, its weather cut to seven months."""
    from almanaque.commands import context
    from almanaque.store.db import Database
    from almanaque.store.garden import garden
    from almanaque.store.place import weather
    from tests.database import NORTH

    addresses, _ = saved
    old = Path(__file__).parent / "data/garden-0.1.backup"
    backup.restore(addresses.owner, old, app_role=postgres.APP, now=NOW)
    database = Database(addresses.app, max_size=1)
    database.open()
    database.check_ready()
    with database.school(NORTH) as connection:
        school = context.load(connection)
        assert len(garden.beds(connection)) == 11
        assert [(s.name, s.kind, s.days) for s in weather.sources(connection)] == [
            ("simulated station", "simulated", 212)
        ]
        year = next(y for y in school.years if y.name == "2026–27")
        assert {r.span.name: r.span.kind for r in year.closures} == {
            "Leaf-fall break": "break",
            "Winter break": "break",
            "Staff day": "holiday",
            "Spring break": "break",
            "Valley fair": "holiday",
        }
        assert {g.kind for g in school.groups} == {"class", "club"}
    database.close()


def test_a_backup_restores_into_an_empty_server_row_by_row_with_its_photos(
    demo: Addresses, empty: Addresses, cluster: Cluster, tmp_path: Path
) -> None:
    picture = bytes(range(256)) * 40
    with psycopg.connect(demo.owner) as owner:
        school, bed = owner.execute("SELECT school_id, id FROM bed LIMIT 1").fetchone()
        owner.execute(
            (
                "INSERT INTO photo (school_id, id, bed_id, noted_on, width, height, picture, "
                "small) VALUES (%s, gen_random_uuid(), %s, '2027-04-14', 2, 2, %s, %s)"
            ),
            [school, bed, picture, picture[:9]],
        )
        year = owner.execute(
            "SELECT id, starts FROM school_year WHERE school_id = %s ORDER BY starts LIMIT 1", [school]
        ).fetchone()
        owner.execute(
            (
                "INSERT INTO closed_time (school_id, id, school_year_id, from_day, to_day, "
                "closed_on, closed_at) VALUES (%s, gen_random_uuid(), %s, %s, %s, '2026-01-01', now())"
            ),
            [school, year[0], year[1], year[1].replace(month=12)],
        )
    before = contents(demo.owner)
    file = tmp_path / "whole.backup"
    backup.write(demo.owner, file)
    backup.restore(empty.owner, file, app_role=postgres.APP, now=NOW)
    after = contents(empty.owner)
    assert after.keys() == before.keys()
    for table, rows in before.items():
        assert after[table] == rows, table
    with psycopg.connect(empty.owner) as owner:
        assert (picture,) in owner.execute("SELECT picture FROM photo").fetchall()
        with pytest.raises(psycopg.errors.CheckViolation):
            owner.execute(
                "UPDATE harvest SET note = 'x' WHERE school_id = %s AND picked_on BETWEEN %s AND %s",
                [school, year[1], year[1].replace(month=12)],
            )
    name = empty.owner.rsplit("/", 1)[1]
    with psycopg.connect(cluster.url("postgres", "postgres"), autocommit=True) as connection:
        for (left,) in connection.execute(
            "SELECT datname FROM pg_database WHERE datname LIKE %s", [f"{name}_%"]
        ).fetchall():
            cluster.drop_database(left)


def test_a_backup_into_a_folder_is_read_back_compared_and_noted_and_old_ones_go(
    saved: tuple[Addresses, Path], tmp_path: Path
) -> None:
    addresses, _ = saved
    folder = tmp_path / "backups"
    with pytest.raises(HostError, match="There is no folder"):
        backup.keep(addresses.owner, folder, Keeping(), now=NOW)
    folder.mkdir()
    old, others = folder / name_of(NOW - timedelta(days=2)), folder / "notes.txt"
    for path in (old, others):
        path.write_text("x", encoding="utf-8")
    made = backup.keep(addresses.owner, folder, Keeping(1, 0, 0), now=NOW)
    assert made.dropped == (old,)
    assert {path.name for path in folder.iterdir()} == {name_of(NOW), "notes.txt"}
    assert made.file.stat().st_mode & 0o077 == 0
    with psycopg.connect(addresses.owner) as owner:
        noted = upkeep.last(owner, "backup")
        rows = sum(backup.counts(owner).values()) - 1  # the note itself is younger
    assert noted is not None
    assert (made.rows, noted.detail) == (rows, f"checked by restoring {rows:,} rows")
    assert databases(addresses.owner) == {addresses.owner.rsplit("/", 1)[1]}, "nothing is left of the check"


def test_a_backup_that_does_not_give_back_what_is_there_drops_none(
    saved: tuple[Addresses, Path], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    addresses, _ = saved
    old = tmp_path / name_of(NOW - timedelta(days=2))
    old.write_text("x", encoding="utf-8")
    monkeypatch.setattr(backup, "_read_back", lambda *_: {**full, "public.bed": 0})
    with psycopg.connect(addresses.owner) as owner:
        full = backup.counts(owner)
    with pytest.raises(HostError, match=r"does not give back what is there: public\.bed differ"):
        backup.keep(addresses.owner, tmp_path, Keeping(1, 0, 0), now=NOW)
    assert old.exists()
    with psycopg.connect(addresses.owner) as owner:
        assert upkeep.last(owner, "backup") is None


def test_a_restore_works_where_there_is_no_database_and_what_was_replaced_is_listed_and_dropped(
    saved: tuple[Addresses, Path], cluster: Cluster
) -> None:
    addresses, file = saved
    before = contents(addresses.owner)
    kept = backup.restore(addresses.owner, file, app_role=postgres.APP, now=NOW)
    assert backup.kept_databases(addresses.owner) == [kept]
    for other in (addresses.owner.rsplit("/", 1)[1], "postgres", f"{kept}x"):
        with pytest.raises(HostError, match="no database that a restore has kept"):
            backup.drop_kept(addresses.owner, other)
    backup.drop_kept(addresses.owner, kept)
    assert backup.kept_databases(addresses.owner) == []
    cluster.drop_database(addresses.owner.rsplit("/", 1)[1])
    assert backup.restore(addresses.owner, file, app_role=postgres.APP, now=NOW) == ""
    assert contents(addresses.owner) == before
