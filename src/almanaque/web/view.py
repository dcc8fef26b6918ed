"""What a template is given: a frozen dataclass whose fields are the template's names, so that a checker reads them too."""

from collections.abc import Iterable
from dataclasses import fields
from typing import Any, Protocol


class Named(Protocol):
    """What can be spread over a template's names: a view, or a dict put together for one page."""

    def keys(self) -> Iterable[str]: ...

    def __getitem__(self, name: str, /) -> Any: ...


class View:
    """Mixed into the dataclasses of pages; `**view` spreads its fields."""

    def keys(self) -> Iterable[str]:
        """The names of its fields."""
        return [one.name for one in fields(self)]  # type: ignore[arg-type]  # every view is a dataclass

    def __getitem__(self, name: str, /) -> Any:
        return getattr(self, name)
