from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from almanaque.core.school.server_health import BACKUP_OLD, LONG_WAIT, SILENT, OwedJob, ServerHealth, ago, findings

NOW = datetime(2027, 4, 14, 9, tzinfo=UTC)
WELL = ServerHealth(NOW, NOW, (), 0, 0, NOW - timedelta(days=1))
SECOND = timedelta(seconds=1)


def told(health: ServerHealth) -> list[tuple[str, str, str]]:
    return [(f.code, f.case, f.severity) for f in findings(health)]


def job(status: str = "todo", *, tried: int = 0, task: str = "recompute_school", **more: object) -> OwedJob:
    return replace(OwedJob("recompute_school", "todo", tried, NOW, None), status=status, task=task, **more)


def test_a_plan_that_failed_leads_to_the_page_where_it_is_made_again() -> None:
    (failed,) = findings(replace(WELL, jobs=[job("failed", task="plan_season")]))
    assert (failed.code, failed.case, failed.fixes[0].value) == ("work_failed", "plan_season", "/year/plans")
    again = job(task="plan_season", tried=1, next_try_at=NOW + timedelta(minutes=3))
    assert [f.case for f in findings(replace(WELL, jobs=[again]))] == ["plan_season"]
    waits = job(task="plan_season", at=NOW - timedelta(hours=1))
    assert [f.code for f in findings(replace(WELL, jobs=[waits]))] == ["work_waits"]


def test_nothing_is_said_of_a_server_that_is_well() -> None:
    busy = (job(), job("doing"), job("doing", tried=2), job("todo", at=NOW - LONG_WAIT))
    assert findings(replace(WELL, jobs=busy, mail_waiting=3)) == []
    assert findings(replace(WELL, worker_seen=NOW - SILENT, backup_at=NOW - BACKUP_OLD)) == []


def test_a_worker_that_is_silent_is_the_gravest() -> None:
    silent = replace(WELL, worker_seen=NOW - SILENT - SECOND, backup_at=None, mail_given_up=2)
    assert told(silent) == [
        ("worker_silent", "since", "fault"),
        ("mail_given_up", "", "care"),
        ("backup_missing", "never", "care"),
    ]
    assert findings(silent)[0].message.endswith("was last heard of 2 minutes ago.")
    assert told(replace(WELL, worker_seen=None)) == [("worker_silent", "never", "fault")]


def test_what_failed_is_told_with_how_often_and_what_to_do() -> None:
    failed, again = job("failed", tried=5), job(tried=2, next_try_at=NOW + timedelta(minutes=3))
    found = findings(replace(WELL, jobs=(again, failed)))
    assert [f.code for f in found] == ["work_failed", "work_tried_again"]
    assert "tried 6 times" in found[0].message
    assert "tried 2 times; the next try is in 3 minutes" in found[1].message
    assert [(f.code, f.action) for one in found for f in one.fixes] == [("recompute_now", "recompute")] * 2
    soon = findings(replace(WELL, jobs=(job(tried=1, next_try_at=NOW + SECOND),)))
    assert "tried 1 time; the next try is in 1 minute." in soon[0].message
    assert findings(replace(WELL, jobs=(job(tried=1, next_try_at=NOW),))) == []
    (pdf,) = findings(replace(WELL, jobs=(job("failed", task="make_pdf"),)))
    assert [(f.code, f.action) for f in pdf.fixes] == [("make_the_pdf_again", "")]


def test_work_that_nobody_takes_is_told_after_a_quarter_of_an_hour() -> None:
    waits = replace(WELL, jobs=(job(at=NOW - LONG_WAIT - SECOND),))
    assert told(waits) == [("work_waits", "recompute_school", "care")]
    assert "asked for 15 minutes ago" in findings(waits)[0].message


def test_an_old_backup_is_told_by_its_age() -> None:
    (old,) = findings(replace(WELL, backup_at=NOW - BACKUP_OLD - SECOND))
    assert (old.code, old.case) == ("backup_missing", "old")
    assert "made 8 days ago" in old.message


@pytest.mark.parametrize(
    ("since", "said"),
    [
        (timedelta(seconds=-5), "a moment ago"),
        (timedelta(seconds=59), "a moment ago"),
        (timedelta(minutes=1), "1 minute ago"),
        (timedelta(minutes=119, seconds=59), "119 minutes ago"),
        (timedelta(hours=2), "2 hours ago"),
        (timedelta(hours=47, minutes=59), "47 hours ago"),
        (timedelta(hours=48), "2 days ago"),
    ],
)
def test_how_long_ago_is_said_in_the_unit_that_fits(since: timedelta, said: str) -> None:
    assert str(ago(since)) == said
