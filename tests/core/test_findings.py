import ast
import json
import re
from collections.abc import Iterator
from datetime import date
from pathlib import Path

import pytest

import almanaque
from almanaque.core import findings
from almanaque.core.findings import CODES, Finding, Fix, worst_first
from almanaque.core.growth import verdicts
from almanaque.core.harvest import products
from almanaque.core.words import Phrase, places, sentences

SOURCE = Path(almanaque.__file__).parent
TABLES = {
    "fit_findings.py": set(verdicts.LOSSES.values()),
    "products.py": {caution.code for caution in (*products.CAUTIONS, products.FOR_SALE)},
}


def codes_in_code() -> set[str]:
    found = set()
    for path in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "Finding" and node.args:
                if isinstance(node.args[0], ast.Constant):
                    found.add(node.args[0].value)
                else:  # the places that take their code from a table
                    found |= TABLES[path.name]
    return found


def test_every_code_that_is_given_has_words_and_every_code_with_words_is_given() -> None:
    assert codes_in_code() == set(CODES)


def test_an_unknown_code_is_a_mistake() -> None:
    with pytest.raises(ValueError, match="not in findings"):
        Finding("moon", "note", "Kale", {}, "s")


def test_faults_come_first_and_order_stays_otherwise() -> None:
    made = [
        Finding("no_weather", severity, str(n), {}, "s") for n, severity in enumerate(["note", "care", "fault", "care"])
    ]
    assert [f.subject for f in worst_first(made)] == ["2", "1", "3", "0"]


FREEZE = Finding(
    "frost_risk",
    "care",
    "Tomato",
    {"n": 9, "of": 37, "out": date(2027, 5, 1), "covered": Phrase("findings.part.good_distance"), "bears": "0 °C"},
    "weather",
    (Fix("way_on", "start:direct", "2027-05-14", {"words": "Start", "day": date(2027, 5, 14)}),),
)


def test_a_stored_finding_is_the_same_finding_and_holds_no_sentence() -> None:
    text = json.dumps(findings.stored(FREEZE))
    again = findings.from_store(json.loads(text))
    assert again == FREEZE
    assert findings.in_words(again) == findings.in_words(FREEZE)
    assert "bear" not in text.replace('"bears"', "")


def test_a_finding_stored_as_text_keeps_its_text() -> None:
    old = {
        "code": "frost_risk",
        "severity": "care",
        "subject": "Tomato",
        "message": "A freeze it does not bear in {9} of 37 years.",
        "reason": "It fell below 0 °C.",
        "source": "the weather on file",
        "fixes": [{"label": "Later", "action": "page", "value": "/year"}],
    }
    again = findings.from_store(findings.as_written(old))
    assert findings.in_words(again) == ["A freeze it does not bear in {9} of 37 years.", "It fell below 0 °C.", "Later"]
    assert findings.as_written(findings.stored(again)) == findings.stored(again)


def written() -> Iterator[tuple[str, str, list[str], set[str], bool]]:
    """Of each finding in the source: where, its code, its cases, its parameters, whether they are all written there."""
    for path in sorted(SOURCE.rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if not isinstance(node, ast.Call) or getattr(node.func, "id", "") != "Finding" or len(node.args) < 5:
                continue
            code, params = node.args[0], node.args[3]
            if not isinstance(code, ast.Constant):
                continue
            case = next((k.value for k in node.keywords if k.arg == "case"), ast.Constant(""))
            ends = [case.body, case.orelse] if isinstance(case, ast.IfExp) else [case]
            cases = [str(end.value) for end in ends if isinstance(end, ast.Constant)]
            keys = params.keys if isinstance(params, ast.Dict) else [None]
            names = {str(key.value) for key in keys if isinstance(key, ast.Constant)}
            yield f"{path.name}:{node.lineno}", str(code.value), cases, names, None not in keys


def test_every_wording_of_a_code_exists_and_gets_what_it_has_places_for() -> None:
    wrong, seen = [], 0
    for where, code, cases, names, complete in written():
        for case in cases:
            key = "findings.as_written" if case == "as_written" else f"findings.{code}" + (f".{case}" if case else "")
            if f"{key}.message" not in sentences() or f"{key}.reason" not in sentences():
                wrong.append(f"{where}: {key} has no words")
                continue
            seen += 1
            lacking = (places(f"{key}.message") | places(f"{key}.reason")) - names
            if complete and lacking:
                wrong.append(f"{where}: {key} lacks {sorted(lacking)}")
    assert not wrong, "\n".join(wrong)
    assert seen > 80


def test_every_judgement_in_the_words_has_a_code() -> None:
    heads = {code.split(".")[1] for code in sentences() if code.startswith("findings.")}
    assert heads - set(CODES) == {"fix", "part", "as_written"}


def test_every_fix_has_words_and_every_word_a_fix() -> None:
    named = set(re.findall(r'Fix\(\s*f?"(\w+)', "".join(p.read_text(encoding="utf-8") for p in SOURCE.rglob("*.py"))))
    named |= {f"for_{caution.code}" for caution in (*products.CAUTIONS, products.FOR_SALE)}
    named |= {f"against_{code}" for code in verdicts.LOSSES.values()}
    named |= {"feed_with_compost", "feed_with_fertiliser", "as_written"}
    for line in ("carry_pollen_to_female", "carry_pollen"):
        named.add(line)
    known = {code.removeprefix("findings.fix.") for code in sentences() if code.startswith("findings.fix.")}
    assert known <= named
    assert {name for name in named - known if not name.endswith("_")} == set()
