"""What the Content-Security-Policy would break silently: found in templates and scripts before a browser meets it."""

import re
import sys
from pathlib import Path

WIDEST = 140  # columns of a line in a template
WEB = Path(__file__).parents[1] / "src/almanaque/web"

# Pattern, and what to do instead.
TEMPLATE_RULES = (
    (re.compile(r"\sstyle\s*="), "a style attribute: use a class or a presentation attribute"),
    (re.compile(r"<style\b"), "a style element: put it into static/css"),
    (re.compile(r"<script(?![^>]*\ssrc=)[^>]*>"), "an inline script: put it into static/js"),
    (re.compile(r"\son[a-z]+\s*=\s*[\"']"), "an inline event handler: use Alpine in static/js"),
    (re.compile(r"\shx-on[:-]"), "hx-on: it needs eval"),
    (re.compile(r"hx-trigger=\"[^\"]*\["), "an htmx event filter: it fails open without eval"),
    (re.compile(r"hx-(?:vals|headers)=[\"']js:"), "a js: value: it needs eval"),
    (re.compile(r"x-html="), "x-html: it does not exist in this build of Alpine"),
    (
        re.compile(r"(?:x-[a-z:]+|@[a-z.-]+|\s:[a-z-]+)=\"[^\"]*(?:=>|`|\?\.|\.\.\.)"),
        "arrow, template literal, ?. or spread in an Alpine attribute",
    ),
    (re.compile(r"\{\{[^}'\"]*\s[-+*/]\s[^}]*\}\}"), "arithmetic in a template: hand it a finished value"),
    (re.compile(r"(?:src|href)=\"https?://"), "an address outside the application"),
)
SCRIPT_RULES = (
    (re.compile(r"\beval\(|new Function\("), "eval"),
    (re.compile(r"\.style\.|\.cssText|setAttribute\('style'"), "a style set by script: toggle a class"),
    (re.compile(r"\.innerHTML\s*="), "innerHTML: use textContent or replaceChildren"),
)


def faults() -> list[str]:
    """Every breach as `file:line: what`."""
    found = []
    for folder, pattern, rules in (("templates", "*.html", TEMPLATE_RULES), ("static/js", "*.js", SCRIPT_RULES)):
        for path in sorted((WEB / folder).rglob(pattern)):
            text = path.read_text(encoding="utf-8")
            for rule, words in rules:
                found += [
                    f"{path.relative_to(WEB)}:{text.count(chr(10), 0, match.start()) + 1}: {words}"
                    for match in rule.finditer(text)
                ]
    found += [
        f"{path.relative_to(WEB)}:{number}: more than {WIDEST} columns"
        for path in sorted((WEB / "templates").rglob("*.html"))
        for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), start=1)
        if len(line) > WIDEST
    ]
    return found


if __name__ == "__main__":
    breaches = faults()
    print("\n".join(breaches) or "templates and scripts keep to the policy")
    sys.exit(1 if breaches else 0)
