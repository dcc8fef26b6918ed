"""Long statements live beside their module in `<module>.sql`, as named blocks with one line of purpose each:

-- beds_on: every bed of the school with what stands in it on a day
SELECT …
"""

import re
from importlib.resources import files
from typing import LiteralString

HEAD = re.compile(r"^-- ([a-z][a-z0-9_]*): (\S.*)$")


class SqlFileError(Exception):
    """A statement file that cannot be trusted; the message names file and line."""


def parse(text: str, *, name: str) -> dict[str, LiteralString]:
    """Split a statement file into its blocks. Raises on a second block of one name and on text outside a block."""
    blocks: dict[str, list[str]] = {}
    current: list[str] | None = None
    for number, line in enumerate(text.splitlines(), start=1):
        head = HEAD.match(line)
        if head:
            if head[1] in blocks:
                raise SqlFileError(f"{name}.sql line {number}: a second block is called {head[1]}.")
            current = blocks[head[1]] = []
        elif current is not None and not line.startswith("--"):
            current.append(line)
        elif line.strip() and current is not None:
            raise SqlFileError(f"{name}.sql line {number}: this comment is not a block's head `-- name: purpose`.")
        elif line.strip():
            raise SqlFileError(f"{name}.sql line {number}: text before the first block.")
    empty = [block for block, lines in blocks.items() if not "".join(lines).strip()]
    if empty:
        raise SqlFileError(f"{name}.sql: the block {empty[0]} is empty.")
    return {block: "\n".join(lines).strip() for block, lines in blocks.items()}


def load(name: str) -> dict[str, LiteralString]:
    """Read the blocks of `store/<name>.sql`, where the name is `<package>/<module>`."""
    return parse((files("almanaque.store") / f"{name}.sql").read_text(encoding="utf-8"), name=name)
