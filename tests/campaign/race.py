"""People who press at the same instant: one form sent twice, two at the same squares, two at one round, two who close the year.

Each turn lets several start from a gate. Figures: turns, forms that were sent twice and those that are there twice, squares that two
plantings hold at once, rounds and years taken twice, faults of the server.
"""

import collections
import random
import threading
import time
from uuid import uuid4

import httpx2

from almanaque.host.postgres import Addresses
from tests.campaign.clients import asked, log_in
from tests.campaign.server import Server, demo, query
from tests.database import NORTH, bed_id

AT_ONCE = 4


def run(seconds: float) -> str:
    """Return the line of figures."""
    with demo() as addresses:
        return _over(addresses, seconds)


def _over(addresses: Addresses, seconds: float) -> str:
    answers: collections.Counter[int] = collections.Counter()
    chance, turns, twice = random.Random(3), 0, 0
    sent: list[str] = []
    with Server(addresses) as server:
        people = [httpx2.Client(base_url=server.base, timeout=60, follow_redirects=False) for _ in range(AT_ONCE)]
        tokens = [log_in(one, "coordinator") for one in people]
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            turns += 1
            kind = chance.choice(["note", "picking", "paint", "round", "invitation"])
            forms = [_form(kind, chance, addresses, sent) for _ in range(1 if kind in TWICE else AT_ONCE)]
            twice += kind in TWICE
            forms *= AT_ONCE // len(forms)
            _at_once(people, tokens, forms, answers)
        closing = ("/school/turn/close", {"once": str(uuid4())})
        _at_once(people, tokens, [closing] * AT_ONCE, answers)
        for one in people:
            one.close()
    return (
        f"race: {turns} turns of {AT_ONCE} at the same instant in {seconds:.0f} s; {twice} forms sent {AT_ONCE} times, "
        f"{_doubled(addresses, sent)} doubled; {_held_twice(addresses)} squares held by two plantings at once; "
        f"{sum(n for status, n in answers.items() if status >= 500 and status != 503)} faults of the server; answers "
        + ", ".join(f"{n} x {status}" for status, n in sorted(answers.items()))
    )


TWICE = ("note", "picking", "invitation")  # one form, sent by everybody
Form = tuple[str, dict[str, str]]


def _form(kind: str, chance: random.Random, addresses: Addresses, sent: list[str]) -> Form:
    once = {"once": str(uuid4())}
    mark = f"race {uuid4()}"
    if kind == "note":
        sent.append(mark)
        return "/journal", {**once, "id": str(uuid4()), "body": mark}
    if kind == "invitation":
        sent.append(mark)
        return "/school/people/invitations", {**once, "label": mark, "role": "helper"}
    if kind == "picking":
        sent.append(mark)
        standing = "SELECT id FROM planting WHERE school_id = %s AND status = 'in the ground' ORDER BY random() LIMIT 1"
        planting = str(query(addresses, standing, NORTH)[0][0])
        wish = {"id": str(uuid4()), "planting": planting, "amount": "10", "unit": "g", "use": "kitchen", "sure": "1"}
        return "/harvest", {**once, **wish, "day": "2027-04-14", "note": mark}
    if kind == "round":
        path = f"/week/rounds/2027-07-{chance.choice((5, 12, 19)):02}/{chance.choice((1, 2))}"
        return path, {**once, "action": chance.choice(["take", "take", "back"]), "by": "Carer"}
    corner = f"{chance.choice('ABCDEF')}{chance.randint(1, 4)}"
    wish = {"command": "pencil", "squares": corner, "crop": chance.choice(["radish", "spinach"]), "method": "direct"}
    return f"/garden/beds/{bed_id('Bed 4')}", {**once, **wish, "start_on": "2027-09-20"}


def _at_once(
    people: list[httpx2.Client], tokens: list[str], forms: list[Form], answers: collections.Counter[int]
) -> None:
    gate = threading.Barrier(len(forms))

    def press(person: httpx2.Client, token: str, form: Form) -> None:
        gate.wait()
        answer = asked(person, "POST", form[0], data={**form[1], "form_token": token})
        answers[answer.status_code if answer is not None else 0] += 1

    threads = [threading.Thread(target=press, args=one) for one in zip(people, tokens, forms, strict=True)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()


def _doubled(addresses: Addresses, sent: list[str]) -> int:
    """How many of the forms that were sent again and again stand there more than once."""
    rows = query(
        addresses,
        """SELECT body FROM journal_entry WHERE body LIKE 'race %%' UNION ALL SELECT note FROM harvest WHERE note LIKE 'race %%'
           UNION ALL SELECT label FROM invitation WHERE label LIKE 'race %%'""",
    )
    there = collections.Counter(text for (text,) in rows)
    assert set(there) <= set(sent)
    return sum(count - 1 for count in there.values())


def _held_twice(addresses: Addresses) -> int:
    """Squares that two plantings hold on the same day, which no order of commands allows."""
    rows = query(
        addresses,
        """SELECT count(*) FROM planting a JOIN patch p ON (p.school_id, p.planting_id) = (a.school_id, a.id)
           JOIN planting b ON a.school_id = b.school_id AND a.bed_id = b.bed_id AND a.id < b.id
           JOIN patch q ON (q.school_id, q.planting_id) = (b.school_id, b.id) AND (q.col, q.row) = (p.col, p.row)
           WHERE a.draft_id IS NOT DISTINCT FROM b.draft_id AND a.start_on = '2027-09-20' AND b.start_on = '2027-09-20'""",
    )
    return int(rows[0][0])
