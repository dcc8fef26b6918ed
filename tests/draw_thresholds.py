"""Write docs/thresholds.md anew: every number that the core decides by, with its unit and whose it is, from the source."""

import ast
import tokenize
from pathlib import Path

ROOT = Path(__file__).parents[1]
CORE = ROOT / "src/almanaque/core"
PAGE = ROOT / "docs/thresholds.md"


def rows() -> list[tuple[str, str, str, str]]:
    """Module, name, value and comment of each constant that holds numbers."""
    found = []
    for path in sorted(CORE.rglob("*.py")):
        with tokenize.open(path) as file:
            comments = {
                token.start[0]: token.string.lstrip("# ")
                for token in tokenize.generate_tokens(file.readline)
                if token.type == tokenize.COMMENT
            }
        for node in ast.parse(path.read_text(encoding="utf-8")).body:
            if isinstance(node, ast.Assign) and of_numbers(node.value) and ast.unparse(node.targets[0]).isupper():
                module = path.relative_to(CORE).with_suffix("").as_posix().replace("/", ".")
                names = ast.unparse(node.targets[0]).strip("()")
                said = comments.get(node.end_lineno or 0) or comments.get(node.lineno - 1, "")
                found.append((module, names, ast.unparse(node.value).strip("()"), said))
    return found


def of_numbers(node: ast.expr) -> bool:
    """A number, a sum or product with one, or a row of them."""
    if isinstance(node, ast.Constant):
        return isinstance(node.value, int | float) and not isinstance(node.value, bool)
    if isinstance(node, ast.UnaryOp):
        return of_numbers(node.operand)
    if isinstance(node, ast.BinOp):
        return of_numbers(node.left) or of_numbers(node.right)
    return isinstance(node, ast.Tuple) and bool(node.elts) and all(of_numbers(one) for one in node.elts)


def page() -> str:
    """The page, a line a constant."""
    lines = [
        "# Thresholds",
        "",
        "Every number that the rules decide by, where it stands and whose it is. A number stands beside its rule, and once only;",
        "this table is drawn from the source by `python -m tests.draw_thresholds`, and a test holds it to it.",
        "",
        "| In `core/` | Name | Value | What it is |",
        "|---|---|---|---|",
        *(f"| {module} | `{name}` | {value} | {said} |" for module, name, value, said in rows()),
    ]
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    PAGE.write_text(page(), encoding="utf-8")
