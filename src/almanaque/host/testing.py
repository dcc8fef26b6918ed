"""Run the tests and the checks of this clone."""

import os
import shutil
import subprocess
import sys
import time
from collections.abc import Sequence
from pathlib import Path

from almanaque.host.errors import HostError

# Core alone first, so that a broken rule shows before servers start; then what needs a database; then the browser.
STAGES = (
    ("core", ("tests/core", "tests/data", "tests/formats", "tests/reference"), ()),
    ("store and web", ("tests/store", "tests/web", "tests/host"), ("-n", "2")),
    ("browser", ("tests/browser",), ("-n", "2")),
)
CHECKS = (
    ("ruff", ("ruff", "check", "src", "tests")),
    ("ruff format", ("ruff", "format", "--check", "src", "tests")),
    ("mypy", ("mypy", "src")),
    ("import-linter", ("lint-imports", "--no-cache", "--no-logo")),
    ("djlint", ("djlint", "src/almanaque/web/templates", "--lint", "--quiet")),
    ("templates and scripts", (sys.executable, "-m", "tests.policy")),
)


def run_tests(clone: Path, only: Sequence[str]) -> int:
    """Run pytest stage by stage, or only the given paths; return the worst exit code."""
    if not shutil.which("chromium"):
        raise HostError("Chromium is needed for the browser tests. On Debian run: sudo apt-get install chromium")
    stages = [("chosen", tuple(only), ())] if only else STAGES
    worst, times = 0, []
    for name, paths, options in stages:
        began = time.monotonic()
        code = subprocess.run(
            [sys.executable, "-m", "pytest", "-q", *options, *paths], cwd=clone, check=False, env=_environment(clone)
        ).returncode
        times.append(f"{name} {time.monotonic() - began:.0f} s")
        worst = worst or code
    print(f"almanaque: tests {'failed' if worst else 'passed'} ({', '.join(times)})")
    return worst


def run_checks(clone: Path) -> int:
    """Run every linter and type check; all of them, even when one fails."""
    failed = []
    for name, command in CHECKS:
        program = command[0] if command[0] == sys.executable else str(Path(sys.executable).parent / command[0])
        done = subprocess.run([program, *command[1:]], cwd=clone, check=False, env=_environment(clone))
        if done.returncode:
            failed.append(name)
    print(f"almanaque: {'these checks failed: ' + ', '.join(failed) if failed else 'every check passed'}")
    return 1 if failed else 0


def _environment(clone: Path) -> dict[str, str]:
    """A clean environment: settings of a server of one's own must not leak into the tests."""
    kept = {name: value for name, value in os.environ.items() if not name.startswith("ALMANAQUE_")}
    return {**kept, "PYTHONPATH": f"{clone / 'src'}{os.pathsep}{clone}"}
