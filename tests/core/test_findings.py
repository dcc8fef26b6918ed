import ast
import re
from collections.abc import Iterator
from pathlib import Path

import almanaque
from almanaque.core.findings import CODES
from almanaque.core.growth import verdicts
from almanaque.core.harvest import products
from almanaque.core.words import places, sentences

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
