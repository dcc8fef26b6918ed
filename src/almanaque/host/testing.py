"""Run the tests and the checks of this clone."""

import json
import os
import shutil
import subprocess
import sys
import time
from collections.abc import Mapping, Sequence
from pathlib import Path
from tempfile import TemporaryDirectory

from almanaque.host.errors import HostError

# In this order within each process, so that a broken rule shows before servers start; the browser comes last.
FLOORS = ("core", "data", "docs", "formats", "reference", "store", "web", "host", "browser")
ON_A_SERVER = frozenset({"store", "web", "host", "browser"})
MOST_PROCESSES = 4
TIMES = "tests/durations.json"  # seconds a file took when it was last measured; `test --measure` writes it
SLOWEST = 10
CHECKS = (
    ("ruff", ("ruff", "check", "src", "tests")),
    ("ruff format", ("ruff", "format", "--check", "src", "tests")),
    ("mypy", ("mypy", "src")),
    ("import-linter", ("lint-imports", "--no-cache", "--no-logo")),
    ("djlint", ("djlint", "src/almanaque/web/templates", "--lint", "--quiet")),
    ("templates and scripts", (sys.executable, "-m", "tests.policy")),
)


def run_tests(clone: Path, only: Sequence[str], *, measure: bool = False) -> int:
    """Run pytest over all tests, over the packages named (`harvest`) or over paths; return the worst exit code.

    The files are shared out over one process more than there are cores, by the time they took when last measured, so
    that each process collects and imports its own share only.
    """
    if not shutil.which("chromium-headless-shell"):
        raise HostError(
            "Chromium is needed for the browser tests. On Debian run: sudo apt-get install chromium-headless-shell"
        )
    files, names = chosen(clone, only)
    known = json.loads((clone / TIMES).read_text(encoding="utf-8"))
    # One more than there are cores: half of the time a test waits for the database or the browser.
    shares = shared_out(files, known, processes=min((os.cpu_count() or 1) + 1, MOST_PROCESSES))
    began = time.monotonic()
    with TemporaryDirectory() as folder:
        server = _server_made_ready(clone) if any(Path(file).parts[1] in ON_A_SERVER for file in files) else None
        running = [
            subprocess.Popen(
                [sys.executable, "-m", "pytest", "-q", "-p", "no:xdist", *share, *names],
                cwd=clone,
                env={**_environment(clone), "ALMANAQUE_TEST_TIMES": f"{folder}/{number}.json"},
            )
            for number, share in enumerate(shares)
        ]
        codes = [process.wait() for process in running]
        if server is not None:
            server.communicate()
        took: dict[str, float] = {}
        for path in sorted(Path(folder).glob("*.json")):
            took.update(json.loads(path.read_text(encoding="utf-8")))
    _tell_slowest(took)
    if measure and not any(codes):
        _keep_times(clone, took)
    worst = max(codes, key=abs, default=0)
    print(f"almanaque: tests {'failed' if worst else 'passed'} ({time.monotonic() - began:.0f} s)")
    return worst


def _server_made_ready(clone: Path) -> subprocess.Popen[bytes]:
    """The database server with its templates is made while the first files, which need none, are run; it stays until they end.

    A test that needs it earlier waits for it.
    """
    return subprocess.Popen(
        [sys.executable, "-m", "tests.ready"], cwd=clone, env=_environment(clone), stdin=subprocess.PIPE
    )


def chosen(clone: Path, only: Sequence[str]) -> tuple[list[str], list[str]]:
    """Test files of what was asked for, and the single tests in it. Raises HostError for a name that is neither package nor path."""
    tests = clone / "tests"
    if not only:
        only = [str(tests / floor) for floor in FLOORS]
    files: list[str] = []
    names: list[str] = []
    for word in only:
        path = next((p for p in (clone / word, tests / word) if p.exists()), None)
        if "::" in word:
            names.append(word)
        elif path is not None:
            files += [str(path)] if path.is_file() else [str(p) for p in sorted(path.rglob("test_*.py"))]
        elif found := sorted(p for folder in tests.glob(f"*/{word}") for p in folder.rglob("test_*.py")):
            files += [str(p) for p in found]
        else:
            raise HostError(f"There are no tests of {word}. Name a package such as harvest, or a path under tests/.")
    return [str(Path(file).relative_to(clone)) for file in dict.fromkeys(files)], names


def shared_out(files: Sequence[str], seconds: Mapping[str, float], *, processes: int) -> list[list[str]]:
    """The files in as many shares as there are processes, the longest given out first to whoever has least to do."""
    if not files:
        return [[]]
    shares: list[list[str]] = [[] for _ in range(min(processes, len(files)))]
    loads = [0.0] * len(shares)
    for file in sorted(files, key=lambda name: (-seconds.get(name, 1.0), name)):
        least = loads.index(min(loads))
        shares[least].append(file)
        loads[least] += seconds.get(file, 1.0)
    order = {floor: number for number, floor in enumerate(FLOORS)}
    return [sorted(share, key=lambda name: (order.get(Path(name).parts[1], len(order)), name)) for share in shares]


def _tell_slowest(took: Mapping[str, float]) -> None:
    """`took` holds seconds by test; setting up and clearing away are counted with it."""
    for name, seconds in sorted(took.items(), key=lambda entry: -entry[1])[:SLOWEST]:
        print(f"{seconds:8.1f} s  {name}")


def _keep_times(clone: Path, took: Mapping[str, float]) -> None:
    files: dict[str, float] = {}
    for name, seconds in took.items():
        file = name.partition("::")[0]
        files[file] = files.get(file, 0.0) + seconds
    text = json.dumps({file: round(seconds, 1) for file, seconds in sorted(files.items())}, indent=1)
    (clone / TIMES).write_text(text + "\n", encoding="utf-8")


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
