"""The worker: jobs of a killed one go on, what fails is tried again and keeps nothing else back, missed rounds are made up."""

import asyncio
import smtplib
from datetime import timedelta
from email.message import EmailMessage
from uuid import UUID, uuid4

import pytest
from psycopg import Connection

from almanaque.clock import Clock
from almanaque.commands.garden import renewal
from almanaque.demo import DEMO_DAY
from almanaque.host.postgres import Addresses
from almanaque.settings import Settings
from almanaque.store import queue
from almanaque.store.db import Database
from almanaque.store.garden import garden
from almanaque.store.school import outgoing_mail, upkeep
from almanaque.worker import main as worker
from almanaque.worker.handed_back import hand_back
from almanaque.worker.main import with_tasks
from almanaque.worker.polling import Rounds
from tests.database import NORTH, SOUTH

CLOCK = Clock(DEMO_DAY)


def work(demo: Addresses, database: Database, *, first_hand_back: bool = False) -> int:
    """Let a worker do what is due, and end; how many jobs it handed back before."""

    async def until_nothing_is_left() -> int:
        app = with_tasks(queue.app_for(demo.app), database, CLOCK)
        async with app.open_async():
            handed = await hand_back(app) if first_hand_back else 0
            await app.run_worker_async(wait=False, install_signal_handlers=False, listen_notify=False)
        return handed

    return asyncio.run(until_nothing_is_left())


def jobs(database: Database) -> list[tuple[str, int]]:
    """Status of every job of the northern school with how often it was tried before, in the order they were asked for."""
    with database.school(NORTH) as connection:
        return connection.execute(
            "SELECT status::text, coalesce((args ->> 'tried')::integer, 0) FROM queue.procrastinate_jobs ORDER BY id"
        ).fetchall()


def as_of_a_killed_worker(connection: Connection) -> None:
    """Every job is being done by a worker of which nobody has heard for an hour."""
    (worker,) = connection.execute(
        "INSERT INTO queue.procrastinate_workers (last_heartbeat) VALUES (now() - interval '1 hour') RETURNING id"
    ).fetchone() or (None,)
    connection.execute("UPDATE queue.procrastinate_jobs SET status = 'doing', worker_id = %s", [worker])


def test_a_job_whose_worker_was_killed_is_done_by_the_next(demo: Addresses, database: Database) -> None:
    with database.school(NORTH) as connection:
        queue.recompute_school(connection, NORTH)
        as_of_a_killed_worker(connection)
    work(demo, database)
    assert jobs(database) == [("doing", 0)], "nobody but a living worker's own jobs are done"
    assert work(demo, database, first_hand_back=True) == 1
    assert jobs(database) == [("succeeded", 0)]


def test_a_killed_workers_job_gives_way_to_a_newer_one_for_the_same(demo: Addresses, database: Database) -> None:
    with database.school(NORTH) as connection:
        queue.recompute_school(connection, NORTH)
        as_of_a_killed_worker(connection)
        queue.recompute_school(connection, NORTH)
    assert work(demo, database, first_hand_back=True) == 1
    assert jobs(database) == [("succeeded", 0)]


def test_a_bed_that_cannot_be_recomputed_keeps_no_other_back_and_is_tried_again(
    demo: Addresses, database: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    with database.school(NORTH) as connection:
        beds = garden.beds_in_use(connection)
        connection.execute("UPDATE forecast SET depends_on = 'stale'")
        queue.recompute_school(connection, NORTH)
    right = renewal.renew_bed

    def fails_in_one(connection: Connection, context: object, bed_id: UUID, **more: object) -> int:
        if bed_id == beds[0]:
            raise RuntimeError("deadlock detected")
        return right(connection, context, bed_id, **more)  # type: ignore[arg-type]

    with monkeypatch.context() as patched:
        patched.setattr(renewal, "renew_bed", fails_in_one)
        work(demo, database)
    assert stale(database) == {beds[0]}
    assert jobs(database) == [("failed", 0), ("todo", 1)]
    with database.school(NORTH) as connection:
        assert [(job.status, job.tried) for job in queue.jobs_of(connection, NORTH)] == [("todo", 1)]
        assert queue.jobs_of(connection, SOUTH) == []
        connection.execute("UPDATE queue.procrastinate_jobs SET scheduled_at = now() WHERE status = 'todo'")
    work(demo, database)
    assert stale(database) == set()
    assert jobs(database) == [("failed", 0), ("succeeded", 1)]
    with database.school(NORTH) as connection:
        assert queue.jobs_of(connection, NORTH) == [], "what was done since is not told as failed"


def stale(database: Database) -> set[UUID]:
    """Beds with a forecast that nobody has brought up to date."""
    with database.school(NORTH) as connection:
        rows = connection.execute(
            """SELECT DISTINCT p.bed_id FROM planting p JOIN forecast f ON f.planting_id = p.id
               WHERE f.depends_on = 'stale' AND p.status IN ('pencilled', 'planned', 'in the ground')"""
        ).fetchall()
    return {bed_id for (bed_id,) in rows}


def test_what_another_job_has_done_meanwhile_is_not_told_as_failing(demo: Addresses, database: Database) -> None:
    with database.school(NORTH) as connection:
        queue.recompute_again(connection, NORTH, tried=3)
        queue.recompute_again(connection, SOUTH, tried=3)
        queue.recompute_school(connection, NORTH)
    work(demo, database)
    with database.school(NORTH) as connection:
        assert queue.jobs_of(connection, NORTH) == []
        assert [job.tried for job in queue.jobs_of(connection, SOUTH)] == [3], "another school's stays"


def test_what_stays_failed_is_given_up_at_last_and_seen(
    demo: Addresses, database: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fails(*_: object, **__: object) -> int:
        raise RuntimeError

    monkeypatch.setattr(worker, "recompute", fails)
    with database.school(NORTH) as connection:
        queue.recompute_school(connection, NORTH)
    for _ in range(len(queue.WAITS_S) + 1):
        work(demo, database)
        with database.school(NORTH) as connection:
            connection.execute("UPDATE queue.procrastinate_jobs SET scheduled_at = now() WHERE status = 'todo'")
    assert jobs(database) == [("failed", tried) for tried in range(len(queue.WAITS_S) + 1)]
    with database.school(NORTH) as connection:
        (last,) = queue.jobs_of(connection, NORTH)
    assert (last.status, last.tried) == ("failed", len(queue.WAITS_S))


def test_jobs_that_ended_two_weeks_ago_are_cleaned_away(demo: Addresses, database: Database) -> None:
    with database.school(NORTH) as connection:
        queue.recompute_school(connection, NORTH)
    work(demo, database)
    with database.school(NORTH) as connection:
        connection.execute("UPDATE queue.procrastinate_events SET at = at - interval '15 days'")
        queue.recompute_school(connection, NORTH)
    work(demo, database, first_hand_back=True)
    assert jobs(database) == [("succeeded", 0)]


def test_a_nightly_round_that_was_missed_is_made_up_once(database: Database) -> None:
    rounds = Rounds(database, CLOCK, Settings())
    for _ in range(2):
        rounds.overdue()
    assert jobs(database) == [("todo", 0), ("todo", 0)], "one for each school"
    with database.school(NORTH) as connection:
        assert upkeep.last(connection, "each night") is not None
        connection.execute("UPDATE upkeep SET done_at = now() - interval '25 hours'")
        connection.execute("DELETE FROM queue.procrastinate_jobs")
    rounds.overdue()
    assert len(jobs(database)) == 2


def test_one_schools_trouble_keeps_no_round_from_the_others(
    database: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    rounds, visited = Rounds(database, CLOCK, Settings()), []

    def visit(school_id: UUID) -> bool:
        visited.append(school_id)
        raise RuntimeError

    monkeypatch.setattr(rounds, "_stations_of", visit)
    rounds.stations()
    assert sorted(visited) == sorted({NORTH, SOUTH})


class Server:
    """A mail server that refuses what is said to it in `refuses`, and keeps the subjects of what it took."""

    def __init__(self, refuses: dict[str, Exception]) -> None:
        self.refuses, self.took, self.asked = refuses, list[str](), 0

    def send(self, message: EmailMessage) -> None:
        self.asked += 1
        subject = str(message["Subject"])
        for begin, error in self.refuses.items():
            if subject.startswith(begin):
                raise error
        self.took.append(subject)


def deliver(database: Database, server: Server, *, wait: bool = False) -> None:
    """One round of mail; with `wait` after everybody's turn has come."""
    rounds = Rounds(database, CLOCK, Settings())
    rounds._post = lambda: server  # type: ignore[method-assign]
    if wait:
        with database.school(NORTH) as connection:
            connection.execute(
                "UPDATE mail SET next_try_at = now() - interval '1 minute' WHERE next_try_at IS NOT NULL"
            )
    rounds.mail()


def put(database: Database, *subjects: str) -> None:
    with database.school(NORTH) as connection:
        connection.execute("DELETE FROM mail")
        for number, subject in enumerate(subjects):
            outgoing_mail.put(
                connection, NORTH, key=str(uuid4()), mail_to="garden@brindlecombe.example", subject=subject, body="."
            )
            connection.execute(
                "UPDATE mail SET made_at = now() - %s WHERE subject = %s",
                [timedelta(minutes=len(subjects) - number), subject],
            )


def test_forty_messages_that_are_refused_do_not_hold_up_the_next(database: Database) -> None:
    put(database, *(f"bad {n}" for n in range(45)), "good")
    server = Server({"bad": smtplib.SMTPDataError(451, b"later")})
    deliver(database, server)
    deliver(database, server)
    assert server.took == ["good"]
    assert server.asked == 46, "what was refused is not offered again at once"
    with database.school(NORTH) as connection:
        assert outgoing_mail.counts(connection) == (45, 0)


def test_mail_is_offered_again_and_later_each_time_and_given_up_in_the_end(database: Database) -> None:
    put(database, "bad")
    server = Server({"bad": smtplib.SMTPDataError(451, b"later")})
    waits = []
    for _ in range(outgoing_mail.MOST_TRIES + 2):
        deliver(database, server, wait=True)
        with database.school(NORTH) as connection:
            (mail,) = outgoing_mail.mails(connection)
            (row,) = connection.execute("SELECT extract(epoch FROM next_try_at - now())::integer FROM mail").fetchall()
        waits.append(round(row[0] / 600))
    assert waits[: outgoing_mail.MOST_TRIES] == [1, 2, 4, 8, 16, 32, 64, 128]
    assert server.asked == outgoing_mail.MOST_TRIES
    assert mail.given_up_at is not None
    assert "451" in mail.problem
    with database.school(NORTH) as connection:
        outgoing_mail.offer_again(connection)
        assert outgoing_mail.counts(connection) == (1, 0)


def test_an_address_that_does_not_exist_is_given_up_at_once_and_a_full_box_is_not(database: Database) -> None:
    gone, full = ({"a@b.example": (code, b"")} for code in (550, 452))
    put(database, "gone", "full")
    deliver(
        database,
        Server({"gone": smtplib.SMTPRecipientsRefused(gone), "full": smtplib.SMTPRecipientsRefused(full)}),
    )
    with database.school(NORTH) as connection:
        given_up = {mail.subject: mail.given_up_at is not None for mail in outgoing_mail.mails(connection)}
    assert given_up == {"gone": True, "full": False}


@pytest.mark.parametrize(
    "error",
    [
        ConnectionRefusedError(),
        TimeoutError(),
        smtplib.SMTPAuthenticationError(535, b""),
        smtplib.SMTPConnectError(421, b""),
    ],
)
def test_without_a_mail_server_all_mail_waits_and_none_is_blamed(database: Database, error: Exception) -> None:
    put(database, "one", "two", "three")
    away = Server({"": error})
    deliver(database, away)
    assert away.asked == 1, "the others would only wait for it too"
    with database.school(NORTH) as connection:
        assert [mail.tries for mail in outgoing_mail.mails(connection)] == [0, 0, 0]
        assert outgoing_mail.counts(connection) == (3, 0)
        connection.execute("UPDATE mail SET made_at = now() - interval '4 days' WHERE subject = 'one'")
    deliver(database, away)
    with database.school(NORTH) as connection:
        assert outgoing_mail.counts(connection) == (2, 1), "a warning of four days ago is of no use"
    there = Server({})
    deliver(database, there)
    assert there.took == ["two", "three"]
