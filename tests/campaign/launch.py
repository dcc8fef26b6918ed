"""Starts and ends that nobody plans: the launcher is killed at any moment of its start, and started again.

Figures: starts, how many were killed before they were ready, how many came up again, and processes that outlived their launcher.
"""

import os
import random
import shutil
import signal
import subprocess
import sys
import threading
import time
from pathlib import Path

from almanaque.host import postgres
from tests.database import CLONE

ENDS_WITHIN_S = 60  # what a killed launcher leaves ends by itself


def run(seconds: float) -> str:
    """Return the line of figures."""
    state = postgres.state_folder(CLONE, "launch")
    chance, until = random.Random(9), time.monotonic() + seconds
    starts = killed = up = left = 0
    try:
        while time.monotonic() < until or not up:
            starts += 1
            before_ready = time.monotonic() < until and chance.random() < 0.7
            demo = _start(state)
            ready = threading.Event()
            listening = threading.Thread(target=_listen, args=(demo, ready))
            listening.start()
            if before_ready:
                ready.wait(chance.uniform(0.2, 15))
                killed += not ready.is_set()
            else:
                while not ready.wait(1) and demo.poll() is None:
                    pass
            up += ready.is_set()
            demo.send_signal(signal.SIGKILL)
            demo.wait()
            listening.join()
            left += _outlived(state)
            subprocess.run(_command("stop"), env=_environment(state), capture_output=True, check=False)
    finally:
        subprocess.run(_command("stop"), env=_environment(state), capture_output=True, check=False)
        shutil.rmtree(state, ignore_errors=True)
    return (
        f"launch: {starts} starts in {seconds:.0f} s, {killed} killed before they were ready, {up} ready; "
        f"{left} processes of ours outlived a killed launcher by a minute"
    )


def _command(*words: str) -> list[str]:
    return [sys.executable, "-m", "almanaque", *words]


def _environment(state: Path) -> dict[str, str]:
    kept = {name: value for name, value in os.environ.items() if not name.startswith("ALMANAQUE_")}
    return {**kept, "PYTHONPATH": str(CLONE / "src"), "PYTHONUNBUFFERED": "1", "ALMANAQUE_STATE_FOLDER": str(state)}


def _start(state: Path) -> subprocess.Popen[str]:
    return subprocess.Popen(
        _command("demo"), env=_environment(state), stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True
    )


def _listen(demo: subprocess.Popen[str], ready: threading.Event) -> None:
    """Hear what it says, until it has nobody left to say anything."""
    assert demo.stdout is not None
    for line in demo.stdout:
        if "Almanaque is at" in line:
            ready.set()
    demo.stdout.close()


def _outlived(state: Path) -> int:
    """Python processes of this folder that still run after a while; the database server is stopped by the next start or `stop`."""
    deadline = time.monotonic() + ENDS_WITHIN_S
    while (found := _ours(state)) and time.monotonic() < deadline:
        time.sleep(0.2)
    return len(found)


def _ours(state: Path) -> list[int]:
    found = []
    for folder in Path("/proc").iterdir():
        if folder.name.isdigit():
            try:
                told = (folder / "environ").read_bytes()
                command = (folder / "cmdline").read_bytes()
            except OSError:
                continue
            if f"ALMANAQUE_STATE_FOLDER={state}".encode() in told and b"almanaque" in command and b"python" in command:
                found.append(int(folder.name))
    return found
