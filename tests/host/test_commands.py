"""The command line as a person meets it."""

import json
import os
import re
import shutil
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

import pytest

from almanaque.host import postgres
from almanaque.host.postgres import Addresses
from almanaque.settings import Settings
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


@pytest.fixture(scope="module")
def state() -> Iterator[Path]:
    """A folder for a demo that all tests of this file start and stop; it is written once."""
    folder = postgres.state_folder(CLONE, f"demo-{os.getpid()}")
    yield folder
    if folder.exists():
        assert run("stop", ALMANAQUE_STATE_FOLDER=str(folder)).returncode == 0
        shutil.rmtree(folder)


def wait_for(process: subprocess.Popen, pattern: str) -> str:
    """What a process says until this; however long it takes, as long as it lives."""
    text = ""
    while line := process.stdout.readline():
        text += line
        if re.search(pattern, text):
            return text
    raise AssertionError(f"ended without saying {pattern}\n{text}")


def children(process: subprocess.Popen) -> list[str]:
    return children_of(process.pid)


def children_of(pid: int) -> list[str]:
    """What a process has started; read from /proc, since a bare machine has no pgrep."""
    return Path(f"/proc/{pid}/task/{pid}/children").read_text(encoding="utf-8").split()


def child_of(process: subprocess.Popen, name: str) -> int | None:
    """The process that runs `almanaque <name>` for another; none while it is being started again."""
    for number in children(process):
        with suppress(OSError):  # it ended while we looked
            if Path(f"/proc/{number}/cmdline").read_bytes().rstrip(b"\0").endswith(name.encode()):
                return int(number)
    return None


def served_by(process: subprocess.Popen) -> list[int]:
    """The processes that share the pages; none while the first of them is being started again."""
    first = child_of(process, "web")
    return [int(number) for number in children_of(first)] if first is not None else []


def ended(process: subprocess.Popen) -> int:
    """Exit code of a process that was told to stop; its output is closed."""
    code = process.wait()
    process.stdout.close()
    return code


@contextmanager
def started_demo(state: Path) -> Iterator[tuple[subprocess.Popen, str, str]]:
    """The process, the address of its pages, and all that it said; a test that fails leaves none behind."""
    process = subprocess.Popen(
        [sys.executable, "-m", "almanaque", "demo"],
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
        env=environment(ALMANAQUE_STATE_FOLDER=str(state)),
    )
    try:
        said = wait_for(process, r"viewer .*\n")
        yield process, re.search(r"http://127\.0\.0\.1:\d+", said)[0], said
    finally:
        process.terminate()
        ended(process)


def test_the_demo_starts_answers_and_stops_everything_on_ctrl_c(state: Path) -> None:
    with started_demo(state) as (process, address, said):
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
    # A second start finds everything and writes nothing; it is stopped by a command.
    with started_demo(state) as (process, address, said):
        assert "writing the demo school" not in said
        assert run("stop", ALMANAQUE_STATE_FOLDER=str(state)).stdout == "The demo is stopped.\n"
        assert ended(process) == 0
    assert not cluster.running()


def fetched(address: str) -> bytes:
    """A page, as soon as it is there; for as long as the demo is still being mended."""
    while True:
        try:
            with urllib.request.urlopen(address) as page:
                return page.read()
        except OSError:
            time.sleep(0.1)


def until(done: Callable[[], object], process: subprocess.Popen) -> None:
    """Wait for something as long as a process lives."""
    while not done():
        assert process.poll() is None
        time.sleep(0.1)


def is_there(pid: int) -> bool:
    """Whether a process lives; one that ended and whom nobody asked for its exit code does not."""
    try:
        return Path(f"/proc/{pid}/stat").read_text(encoding="utf-8").rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False


def test_a_demo_outlives_its_worker_its_pages_and_its_database_but_nothing_outlives_the_demo(state: Path) -> None:
    with started_demo(state) as (process, address, _):
        here = {"ALMANAQUE_STATE_FOLDER": str(state)}
        second = run("demo", **here)
        assert (second.returncode, f"runs already from this folder at {address}" in second.stderr) == (1, True)
        assert f"{address}/invite/" in run("invite", "a school", **here).stdout
        # Each of them is killed, and comes again.
        for name in ("worker", "web"):
            pid = child_of(process, name)
            os.kill(pid, signal.SIGKILL)
            wait_for(process, rf"the {name} process ended \(killed by SIGKILL\); it is started again")
            assert b"Log in" in fetched(f"{address}/login")
        # So is one of those that share the pages, while the other goes on. (What answered just now may be one of the old
        # ones, which had not yet seen that the first one of them was killed.)
        until(lambda: len(served_by(process)) == Settings().web_processes, process)
        served = served_by(process)
        os.kill(served[0], signal.SIGKILL)
        assert b"Log in" in fetched(f"{address}/login")
        wait_for(process, r"a web process ended \(killed by SIGKILL\); it is started again")
        cluster = postgres.Cluster(state)
        os.kill(int((cluster.data / "postmaster.pid").read_text(encoding="utf-8").split()[0]), signal.SIGKILL)
        wait_for(process, "the database server had ended and was started again")
        assert b"Log in" in fetched(f"{address}/login")
        assert fetched(f"{address}/readyz") == b"ready\n"
        until(
            lambda: run("status", **here).returncode == 0, process
        )  # one of the web processes may still be on its way
        # Nobody is left to stop what a killed launcher had started, so it ends by itself.
        until(lambda: all(child_of(process, name) for name in ("worker", "web")), process)
        left = [int(n) for n in (*children(process), *children_of(child_of(process, "web")))]
        # Whoever looks at the list of processes reads no password and no secret.
        shown = b" ".join(Path(f"/proc/{n}/cmdline").read_bytes() for n in [process.pid, *left])
        for secret in json.loads(postgres.Cluster(state).secrets.read_text(encoding="utf-8")).values():
            assert secret.encode() not in shown
        assert len(left) >= 3
        process.kill()
        ended(process)
        while any(is_there(pid) for pid in left):
            time.sleep(0.1)
        assert run("status", **here).returncode == 3
        assert "ran on alone and is stopped" in run("stop", **here).stdout
        assert not cluster.running()
        assert "Nothing runs from this folder" in run("stop", **here).stdout


def test_a_port_that_is_taken_is_said_at_once(demo: Addresses) -> None:
    with socket.create_server(("127.0.0.1", 0)) as taken:
        port = taken.getsockname()[1]
        done = run(
            "serve",
            ALMANAQUE_DATABASE_URL=demo.app,
            ALMANAQUE_OWNER_DATABASE_URL=demo.owner,
            ALMANAQUE_PORT=str(port),
            ALMANAQUE_SECRET="x" * 40,
        )
    assert done.returncode == 1
    assert f"Port {port} of 127.0.0.1 cannot be used" in done.stderr


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
    done = run("serve", ALMANAQUE_DATABASE_URL=empty.app, ALMANAQUE_OWNER_DATABASE_URL=empty.owner)
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
