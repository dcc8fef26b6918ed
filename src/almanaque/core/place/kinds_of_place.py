"""Kinds of place for a garden: what each asks for, and where someone can be hurt."""

from pydantic import BaseModel, ConfigDict


class KindOfPlace(BaseModel):
    """`asks` and `caution` are sentences. **Source:** common practice, no source."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    key: str
    name: str
    asks: str
    caution: str
    indoors: bool = False
