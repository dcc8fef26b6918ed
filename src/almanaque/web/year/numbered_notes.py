"""Findings in the margin of a page of the year, each with the number that stands beside its row."""

from dataclasses import dataclass

from almanaque.core.findings import Finding
from almanaque.web import fix_links
from almanaque.web.fix_links import FixLink
from almanaque.web.view import View


@dataclass(frozen=True)
class NumberedNoteView(View):
    """A finding with its number in the margin."""

    number: int
    severity: str
    message: str
    reason: str
    source: str
    fixes: list[FixLink]


def note(finding: Finding, number: int) -> NumberedNoteView:
    return NumberedNoteView(
        number=number,
        severity=finding.severity,
        message=f"{finding.subject}: {finding.message[:1].lower()}{finding.message[1:]}",
        reason=finding.reason,
        source=finding.said_by,
        fixes=[fix_links.link(fix) for fix in finding.fixes],
    )
