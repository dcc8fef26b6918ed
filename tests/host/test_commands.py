"""The command line as a person meets it."""

import os
import re
import shutil
import signal
import subprocess
import sys
import urllib.request
from pathlib import Path

import pytest

from almanaque.host import postgres
from almanaque.host.postgres import Addresses
from tests.database import CLONE


def environment(**more: str) -> dict[str, str]:
    kept = {name: value for name, value in os.environ.items() if not name.startswith("ALMANAQUE_")}
    return {**kept, "PYTHONPATH": str(CLONE / "src"), "PYTHONUNBUFFERED": "1", **more}


def run(*arguments: str, **more: str) -> subprocess.CompletedProcess:
    return subprocess.run(
        [sys.executable, "-m", "almanaque", *arguments],
        capture_output=True,
        text=True,
        check=False,
        env=environment(**more),
    )


@pytest.fixture
def state() -> Path:
    folder = postgres.state_folder(CLONE, f"demo-{os.getpid()}")
    yield folder
    if folder.exists():
        previous = os.environ.pop("ALMANAQUE_STATE_FOLDER", None)
        postgres.Cluster(folder).stop()
        shutil.rmtree(folder)
        assert previous is None


def wait_for(process: subprocess.Popen, pattern: str) -> str:
    """What a process says until this; however long it takes, as long as it lives."""
    text = ""
    while line := process.stdout.readline():
        text += line
        if re.search(pattern, text):
            return text
    raise AssertionError(f"ended without saying {pattern}\n{text}")


def child_of(process: subprocess.Popen, name: str) -> int:
    """The process that runs `almanaque <name>` for another; read from /proc, since a bare machine has no pgrep."""
    for number in Path(f"/proc/{process.pid}/task/{process.pid}/children").read_text(encoding="utf-8").split():
        if Path(f"/proc/{number}/cmdline").read_bytes().rstrip(b"\0").endswith(name.encode()):
            return int(number)
    raise AssertionError(f"no child runs {name}")


def ended(process: subprocess.Popen) -> int:
    """Exit code of a process that was told to stop; its output is closed."""
    code = process.wait()
    process.stdout.close()
    return code


def start_demo(state: Path) -> tuple[subprocess.Popen, str, str]:
    """The process, the address of its pages, and all that it said."""
    process = subprocess.Popen(
        [sys.executable, "-m", "almanaque", "demo"],
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
        env=environment(ALMANAQUE_STATE_FOLDER=str(state)),
    )
    said = wait_for(process, r"viewer .*\n")
    return process, re.search(r"http://127\.0\.0\.1:\d+", said)[0], said


def test_the_demo_starts_answers_and_stops_everything_on_ctrl_c(state: Path) -> None:
    process, address, said = start_demo(state)
    assert "writing the demo school" in said
    with urllib.request.urlopen(f"{address}/login") as page:
        assert b"Log in" in page.read()
    cluster = postgres.Cluster(state)
    assert cluster.running()
    process.send_signal(signal.SIGINT)
    assert ended(process) == 0
    assert not cluster.running()
    with pytest.raises(OSError):
        urllib.request.urlopen(f"{address}/login", timeout=1)
    # A second start finds everything and writes nothing.
    process, address, said = start_demo(state)
    assert "writing the demo school" not in said
    # When the worker ends, everything ends, with a sentence.
    os.kill(child_of(process, "worker"), signal.SIGKILL)
    said = wait_for(process, "The worker process ended")
    assert "almanaque: The worker process ended" in said
    assert ended(process) == 1
    assert not cluster.running()


def test_serve_says_what_is_not_set_and_never_the_value(demo: Addresses) -> None:
    done = run("serve")
    assert (done.returncode, done.stdout) == (1, "")
    assert "ALMANAQUE_DATABASE_URL is not set. See docs/deploy.md" in done.stderr
    done = run("serve", ALMANAQUE_DATABASE_URL=demo.owner, ALMANAQUE_OWNER_DATABASE_URL=demo.owner)
    assert "must be two roles" in done.stderr
    assert demo.owner not in done.stderr


def test_serve_refuses_a_schema_of_another_version(empty: Addresses) -> None:
    import psycopg

    with psycopg.connect(empty.owner) as owner:
        owner.execute("DELETE FROM schema_migration WHERE number = 3")
    done = run("serve", "--database", empty.app, "--owner-database", empty.owner)
    assert done.returncode == 1
    assert "Run `almanaque migrate`" in done.stderr
    assert len(done.stderr.strip().splitlines()) == 1


def test_serve_runs_on_a_database_of_ones_own_and_stops_when_told(demo: Addresses) -> None:
    port = str(postgres.free_port())
    process = subprocess.Popen(
        [sys.executable, "-m", "almanaque", "serve"],
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
        env=environment(
            ALMANAQUE_DATABASE_URL=demo.app,
            ALMANAQUE_OWNER_DATABASE_URL=demo.owner,
            ALMANAQUE_PORT=port,
            ALMANAQUE_SECRET="x" * 40,
        ),
    )
    wait_for(process, rf"Almanaque is at http://127\.0\.0\.1:{port}")
    with urllib.request.urlopen(f"http://127.0.0.1:{port}/login") as page:
        assert b"In the demo the logins" not in page.read()
    process.terminate()
    assert ended(process) == 0


def test_migrate_and_backup_work_from_the_command_line(empty: Addresses, tmp_path: Path) -> None:
    urls = {"ALMANAQUE_DATABASE_URL": empty.app, "ALMANAQUE_OWNER_DATABASE_URL": empty.owner}
    assert "has this version's schema already" in run("migrate", **urls).stdout
    done = run("backup", str(tmp_path / "b"), **urls)
    assert (done.returncode, done.stdout[:5]) == (0, "wrote")
    done = run("restore", str(tmp_path / "b"), **urls)
    assert done.returncode == 1
    assert "holds no school" in done.stderr


def test_a_call_that_cannot_be_understood_ends_with_two() -> None:
    assert run("fly").returncode == 2
    assert run().returncode == 2
    assert run("calc", "spacing", "--bed", "4 ft x", "--spacing", "4 in").returncode == 2


def test_the_readme_shows_the_two_commands_and_links_every_picture() -> None:
    readme = (CLONE / "README.md").read_text(encoding="utf-8")
    for command in ("./almanaque demo", "./almanaque test"):
        assert command in readme
    pictures = sorted(path.name for path in (CLONE / "docs/screenshots").glob("*.png"))
    assert 5 <= len(pictures) < 20
    assert [name for name in pictures if name not in readme] == []
