"""Findings kept with a forecast: by code, the same when read again, and as text from before there were codes."""

import json
from importlib.resources import files
from typing import Any

import psycopg
from psycopg.types.json import Jsonb

from almanaque.host.postgres import Addresses
from almanaque.store.db import Database
from almanaque.store.garden import garden
from tests.database import NORTH

AS_TEXT: list[dict[str, Any]] = [
    {
        "code": "ready_no_school",
        "severity": "fault",
        "subject": "Bush bean",
        "message": "Ready 6 Jul to 30 Jul, when nobody is at school.",
        "reason": "Summer break lasts from 17 Jun to 24 Aug.",
        "source": "our own rule",
        "fixes": [
            {"label": "Start 14 May", "action": "start:direct", "value": "2027-05-14"},
            {"label": "Name carers who pick", "action": "", "value": ""},
        ],
    },
    {
        "code": "no_weather",
        "severity": "note",
        "subject": "Kale",
        "message": "Frost is not judged.",
        "reason": "There is no weather {here}.",
        "source": "our own rule",
        "fixes": [],
    },
]


def test_what_is_kept_is_codes_and_parameters_and_no_sentence(database: Database) -> None:
    with database.school(NORTH) as connection:
        kept = connection.execute("SELECT findings FROM forecast WHERE findings <> '[]'").fetchall()
        found = [finding for planting in garden.plantings(connection) for finding in planting.findings]
    texts = [finding.message for finding in found if finding.code != "caution"]  # those are the catalogue's own words
    assert texts
    assert all("message" not in one and "params" in one for (findings,) in kept for one in findings)
    assert not [text for text in texts if any(text in json.dumps(findings) for (findings,) in kept) and " " in text]


def test_findings_that_were_kept_as_text_keep_it_after_the_migration(demo: Addresses) -> None:
    step = (files("almanaque.store") / "migrations/0017_findings_by_code.sql").read_text(encoding="utf-8")
    with psycopg.connect(demo.owner) as owner:
        row = owner.execute(
            "SELECT planting_id FROM forecast WHERE school_id = %s ORDER BY planting_id", [NORTH]
        ).fetchone()
        assert row is not None
        owner.execute("UPDATE forecast SET findings = '[]'")
        owner.execute("UPDATE forecast SET findings = %s WHERE planting_id = %s", [Jsonb(AS_TEXT), row[0]])
        owner.execute(step.encode())
    database = Database(demo.app)
    database.open()
    with database.school(NORTH) as connection:
        first, second = garden.planting(connection, row[0]).findings
    database.close()
    assert (first.code, first.severity, first.subject) == ("ready_no_school", "fault", "Bush bean")
    assert (first.message, first.reason) == (AS_TEXT[0]["message"], AS_TEXT[0]["reason"])
    assert [(fix.label, fix.action, fix.value) for fix in first.fixes] == [
        ("Start 14 May", "start:direct", "2027-05-14"),
        ("Name carers who pick", "", ""),
    ]
    assert (second.message, second.reason, second.fixes) == ("Frost is not judged.", "There is no weather {here}.", ())
