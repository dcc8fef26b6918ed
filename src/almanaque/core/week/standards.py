"""What a curriculum asks for, by a school's own list of codes: for which grades, and what its lessons have covered of it."""

import re
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from almanaque.core.errors import BadInput

MOST = 3000  # codes of a school: our own rule
KINDERGARTEN = ("k", "kg", "kindergarten")
_GRADES = re.compile(r"(\d{1,2})(?:\s*(?:-|–|to)\s*(\d{1,2}))?")


@dataclass(frozen=True)
class Standard:
    """A code with its words; `grades` as the list writes them: `3`, `K`, `3-5`, `1, 2`, empty for all."""

    code: str
    words: str = ""
    subject: str = ""
    grades: str = ""

    def is_for(self, grade: int | None) -> bool:
        """True for a grade that it names (kindergarten is 0), for groups without a grade, and where it names none."""
        named = grades_of(self.grades)
        return grade is None or not named or grade in named


def grades_of(text: str) -> frozenset[int]:
    """The grades that are named, kindergarten as 0; none for words that name none."""
    found: set[int] = set()
    plain = " ".join(text.lower().split())
    for part in re.split(r"[,;/]| and ", re.sub(r"\b(?:kindergarten|kg|k)\b", "0", plain)):
        match = _GRADES.search(part)
        if match:
            first, last = int(match[1]), int(match[2] or match[1])
            found |= set(range(first, min(last, 20) + 1))
    return frozenset(found)


def check(rows: Sequence[Standard]) -> list[Standard]:
    """Codes of a list, each once, in its order. Raises BadInput for none, too many, one without a code and one that stands twice."""
    if not rows:
        raise BadInput("week.standards_none", field="file")
    if len(rows) > MOST:
        raise BadInput("week.standards_too_many", field="file", most=MOST)
    seen: set[str] = set()
    for row in rows:
        if row.code in seen:
            raise BadInput("week.standard_twice", field="file", named=row.code)
        seen.add(row.code)
    return list(rows)


def read_codes(text: str, known: Collection[str]) -> list[str]:
    """Codes that were typed for a lesson, with commas, blanks or lines between. Raises BadInput for one that is not on the list."""
    by_plain = {code.casefold(): code for code in known}
    found = []
    for word in re.split(r"[,;\n]+", text):
        plain = " ".join(word.split()).casefold()
        if not plain:
            continue
        if plain not in by_plain:
            raise BadInput("week.standard_unknown", field="codes", named=word.strip()[:40])
        found.append(by_plain[plain])
    return list(dict.fromkeys(found))


@dataclass(frozen=True)
class Covered:
    """Of the codes of a subject for a class: how many there are, which were covered in each term, and in the year."""

    group: str
    subject: str
    of: int
    by_term: tuple[frozenset[str], ...]
    missing: tuple[str, ...]

    @property
    def covered(self) -> int:
        return len(frozenset().union(*self.by_term))


def coverage(
    standards: Sequence[Standard],
    attached: Mapping[str, Collection[str]],
    held: Iterable[tuple[str, str, date]],
    grades: Mapping[str, int | None],
    terms: Sequence[tuple[date, date]],
) -> list[Covered]:
    """By class and subject what was covered in each term of a year, by the lessons that were held (lesson, group, day).

    `attached` are the codes of a lesson, `grades` the grade of each group; a group without a grade is asked for all codes that one of
    its lessons covered, since nobody expects more of it.
    """
    given: dict[tuple[str, int], set[str]] = {}
    for lesson, group, day in held:
        for n, (starts, ends) in enumerate(terms):
            if starts <= day <= ends:
                given.setdefault((group, n), set()).update(attached.get(lesson, ()))
    found = []
    for group, grade in grades.items():
        done = frozenset().union(*(given.get((group, n), set()) for n in range(len(terms))))
        mine = [s for s in standards if (s.code in done if grade is None else s.is_for(grade))]
        for subject in dict.fromkeys(s.subject for s in mine):
            codes = [s.code for s in mine if s.subject == subject]
            by_term = tuple(frozenset(given.get((group, n), set()) & set(codes)) for n in range(len(terms)))
            missing = tuple(code for code in codes if code not in done)
            found.append(Covered(group, subject, len(codes), by_term, missing))
    return found
