from datetime import date
from uuid import uuid4

import psycopg
import pytest

from almanaque.core.school.school_year import Span
from almanaque.core.words import Phrase, sentences
from almanaque.host.postgres import Addresses
from almanaque.store import errors
from almanaque.store.constraints import FALLBACK, sentence_for
from almanaque.store.db import Database
from almanaque.store.garden import changes, garden
from almanaque.store.journal import journal_entries
from almanaque.store.school import school
from tests.database import NORTH, bed_id


def test_every_named_constraint_has_a_sentence_and_every_sentence_a_constraint(demo: Addresses) -> None:
    with psycopg.connect(demo.owner) as connection:
        names = {
            name
            for (name,) in connection.execute(
                """SELECT conname FROM pg_constraint WHERE connamespace = 'public'::regnamespace AND contype IN ('c', 'x', 'u')
                   UNION SELECT indexrelid::regclass::text FROM pg_index i JOIN pg_class c ON c.oid = i.indrelid
                   WHERE i.indisunique AND NOT i.indisprimary AND c.relnamespace = 'public'::regnamespace
                     AND NOT EXISTS (SELECT FROM pg_constraint k WHERE k.conindid = i.indexrelid)
                   UNION SELECT tgname FROM pg_trigger WHERE tgfoid = 'keep_closed_years'::regproc"""
            ).fetchall()
        }
    known = {
        code.removeprefix("constraints."): said for code, said in sentences().items() if code.startswith("constraints.")
    }
    assert {*names, "other"} == set(known)
    assert all(sentence.endswith(".") for sentence in known.values())
    assert sentence_for("something_else") == str(Phrase(FALLBACK))


def test_overlapping_terms_are_refused_by_the_database_itself(database: Database) -> None:
    with database.school(NORTH) as connection:
        year = school.years(connection)[0]
    span = Span("Extra term", date(2024, 12, 1), date(2025, 1, 10))
    with pytest.raises(errors.Refused) as refused, database.school(NORTH) as connection:
        school.save_span(connection, NORTH, "term", year_id=year.id, span_id=uuid4(), span=span)
    assert refused.value.constraint == "term_no_overlap"
    assert str(refused.value).startswith("Another term of this school year")


@pytest.mark.parametrize(
    ("statement", "constraint"),
    [
        ("UPDATE bed SET length_mm = -3", "bed_size_positive"),
        ("UPDATE bed SET length_mm = 1000000", "bed_size_sane"),
        ("UPDATE school_year SET ends = starts - 1", "school_year_ends_after_start"),
        ("UPDATE planting SET status = 'pencilled', draft_id = NULL", "planting_pencil_in_draft"),
        ("UPDATE harvest SET amount = 0", "harvest_amount_positive"),
        ("UPDATE weather_day SET tmin_c = tmax_c + 1", "weather_day_sane"),
        ("UPDATE task SET status = 'done', done_on = NULL", "task_done_has_day"),
        ("UPDATE class_group SET head_count = 0", "class_group_head_count_sane"),
    ],
)
def test_what_cannot_be_is_refused_by_name(database: Database, statement: str, constraint: str) -> None:
    with pytest.raises(errors.Refused) as refused, database.school(NORTH) as connection:
        connection.execute(statement.encode())
    assert refused.value.constraint == constraint


def test_the_same_note_sent_twice_is_one_and_another_text_under_its_number_is_refused(database: Database) -> None:
    words = {"bed_id": bed_id("Bed 1"), "noted_on": date(2027, 4, 14), "come_back_on": None, "by": None}
    number = uuid4()
    with database.school(NORTH) as connection:
        before = len(journal_entries.entries(connection, until=date(2027, 4, 14)))
        for _ in range(2):
            journal_entries.save(connection, NORTH, entry_id=number, body="Peas are up.", **words)
        assert len(journal_entries.entries(connection, until=date(2027, 4, 14))) == before + 1
        with pytest.raises(errors.IdTaken):
            journal_entries.save(connection, NORTH, entry_id=number, body="Beans are up.", **words)


def test_a_bed_that_someone_else_changed_is_not_written_over(database: Database) -> None:
    with database.school(NORTH) as connection:
        version = garden.bed(connection, bed_id("Bed 1")).version
        with pytest.raises(errors.Stale, match="Nothing of yours was written"):
            changes.lock_bed(connection, bed_id("Bed 1"), version=version - 1)


def test_a_lost_server_is_one_sentence_and_a_cut_connection_heals(demo: Addresses, database: Database) -> None:
    with database.school(NORTH) as connection:
        garden.beds(connection)
    with psycopg.connect(demo.owner, autocommit=True) as owner:
        owner.execute(
            "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE usename = 'almanaque_app' AND datname = current_database()"
        )
    with database.school(NORTH) as connection:
        assert len(garden.beds(connection)) == 13
    gone = Database("postgresql://a:b@127.0.0.1:9/x", max_size=1, timeout_s=0.3)
    gone.pool.open(wait=False)
    with pytest.raises(errors.Unreachable, match="does not answer"), gone.transaction():
        raise AssertionError("no transaction can begin")
    gone.close()
