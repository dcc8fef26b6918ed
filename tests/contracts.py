"""What holds for every refusal and finding that any test brings about, whatever the test itself asks for."""

from pathlib import Path
from typing import get_args

import almanaque.web  # noqa: F401  so that the words of every floor are in
from almanaque.core.errors import BadInput
from almanaque.core.findings import Finding, Fix, Severity
from almanaque.core.words import places

# Every refusal with its field and every judgement with its wording and source that the core's tests bring about: a new one is
# written down by `python -m tests.write_judgements` and read before it is kept.
WRITTEN = Path(__file__).parent / "core/judgements.txt"


class Judgements:
    """What was judged and refused; while they are `held`, only what is written down may be."""

    def __init__(self) -> None:
        self.held = False
        self.recorded: set[str] | None = None
        self.written = frozenset(WRITTEN.read_text(encoding="utf-8").splitlines())

    def see(self, line: str) -> None:
        if self.recorded is not None:
            self.recorded.add(line)
        elif self.held:
            assert line in self.written, f"not in {WRITTEN.name}: {line}"


judgements = Judgements()


def hold() -> None:
    """Whatever a test makes the code refuse or judge has words, all their parameters, and none that is nothing."""
    made_refusal, made_finding, made_fix = BadInput.__init__, Finding.__post_init__, Fix.__post_init__

    def refusal(self: BadInput, code: str, *, field: str = "", **params: object) -> None:
        places(code)  # raises KeyError for a code without words
        assert isinstance(field, str), f"{code} has no field"
        assert places(code) <= set(params), f"{code} lacks {places(code) - set(params)}"
        assert None not in [params[name] for name in places(code)], f"{code} is given nothing"
        made_refusal(self, code, field=field, **params)
        judgements.see(f"refused {code} at {field or 'no field'}")

    def finding(self: Finding) -> None:
        made_finding(self)
        assert self.severity in get_args(Severity), self.severity
        assert isinstance(self.subject, str), self.code
        assert self.source
        said = (f"{self._words}.message", f"{self._words}.reason")
        lacking = {name for code in said for name in places(code) if self.params.get(name) is None}
        assert not lacking, f"{self.code} {self.case} lacks {lacking}"
        assert "…" not in self.message + self.reason
        case = f" ({self.case})" if self.case else ""
        mends = f", mended by {', '.join(fix.code for fix in self.fixes)}" if self.fixes else ""
        judgements.see(f"{self.severity} {self.code}{case} by {self.source}{mends}")

    def fix(self: Fix) -> None:
        made_fix(self)
        code = f"findings.fix.{self.code}"
        assert all(self.params.get(name) is not None for name in places(code)), f"{code} lacks {self.params}"
        assert isinstance(self.action, str)
        assert isinstance(self.value, str)
        judgements.see(f"mend {self.code} by {self.action.partition(':')[0] or 'hand'}")

    BadInput.__init__ = refusal  # type: ignore[method-assign]
    Finding.__post_init__ = finding  # type: ignore[method-assign]
    Fix.__post_init__ = fix  # type: ignore[method-assign]
