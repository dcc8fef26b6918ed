"""What all tests share: a derandomised Hypothesis and the proof that every test file ran something."""

import json
import os
from pathlib import Path

import pytest
from argon2 import PasswordHasher
from hypothesis import HealthCheck, settings

from almanaque import passwords
from almanaque.host.testing import FLOORS
from tests import contracts
from tests.database import cluster, database, demo, empty, leave_cluster, shared_demo

__all__ = ["cluster", "database", "demo", "empty", "shared_demo"]

# Nearly every test logs in; a hash as slow as the application's would be a third of the whole run.
passwords._hasher = PasswordHasher(time_cost=1, memory_cost=64, parallelism=1)

contracts.hold()

settings.register_profile("ci", derandomize=True, deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("ci")


@pytest.hookimpl(trylast=True)
def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Rules first and the browser last: its driver keeps an event loop running, beside which none can be started."""
    order = {floor: number for number, floor in enumerate(FLOORS)}
    tests = Path(__file__).parent
    items.sort(key=lambda item: order.get(item.path.relative_to(tests).parts[0], len(order)))


def pytest_collection_finish(session: pytest.Session) -> None:
    """A test file without a test stays green for ever, so it is a fault."""
    if session.config.option.keyword or session.config.option.markexpr:
        return
    asked = [Path(argument.split("::")[0]).resolve() for argument in session.config.args]
    if any("::" in argument for argument in session.config.args):
        return
    ran = {item.path for item in session.items}
    files = {path for root in asked for path in ([root] if root.is_file() else root.rglob("test_*.py"))}
    silent = sorted(str(path) for path in files - ran)
    if silent:
        raise pytest.UsageError(f"These test files yield no test: {', '.join(silent)}")


def pytest_unconfigure() -> None:
    """The last process that uses the tests' database server stops it."""
    leave_cluster()


_took: dict[str, float] = {}


def pytest_runtest_logreport(report: pytest.TestReport) -> None:
    _took[report.nodeid] = _took.get(report.nodeid, 0.0) + report.duration


def pytest_sessionfinish() -> None:
    """Tell the run as a whole how long each test took."""
    if told := os.environ.get("ALMANAQUE_TEST_TIMES"):
        Path(told).write_text(json.dumps(_took), encoding="utf-8")
