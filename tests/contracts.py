"""What holds for every refusal and finding that any test brings about, whatever the test itself asks for."""

from typing import get_args

import almanaque.web  # noqa: F401  so that the words of every floor are in
from almanaque.core.errors import BadInput
from almanaque.core.findings import Finding, Fix, Severity
from almanaque.core.words import places


def hold() -> None:
    """Whatever a test makes the code refuse or judge has words, all their parameters, and none that is nothing."""
    made_refusal, made_finding, made_fix = BadInput.__init__, Finding.__post_init__, Fix.__post_init__

    def refusal(self: BadInput, code: str, *, field: str = "", **params: object) -> None:
        places(code)  # raises KeyError for a code without words
        assert isinstance(field, str), f"{code} has no field"
        assert places(code) <= set(params), f"{code} lacks {places(code) - set(params)}"
        assert None not in [params[name] for name in places(code)], f"{code} is given nothing"
        made_refusal(self, code, field=field, **params)

    def finding(self: Finding) -> None:
        made_finding(self)
        assert self.severity in get_args(Severity), self.severity
        assert isinstance(self.subject, str), self.code
        assert self.source
        said = (f"{self._words}.message", f"{self._words}.reason")
        lacking = {name for code in said for name in places(code) if self.params.get(name) is None}
        assert not lacking, f"{self.code} {self.case} lacks {lacking}"
        assert "…" not in self.message + self.reason

    def fix(self: Fix) -> None:
        made_fix(self)
        code = f"findings.fix.{self.code}"
        assert all(self.params.get(name) is not None for name in places(code)), f"{code} lacks {self.params}"
        assert isinstance(self.action, str)
        assert isinstance(self.value, str)

    BadInput.__init__ = refusal  # type: ignore[method-assign]
    Finding.__post_init__ = finding  # type: ignore[method-assign]
    Fix.__post_init__ = fix  # type: ignore[method-assign]
