"""Start the web process and the worker, wait, and stop both together."""

import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Mapping, Sequence
from types import FrameType

from almanaque.host.errors import HostError

SAY_EVERY_SECONDS = 30.0  # how often a start that takes long says that it goes on
GRACE_SECONDS = 8.0


def run_together(
    environment: Mapping[str, str],
    *,
    address: str,
    when_ready: Callable[[], None],
    beside: Sequence[Sequence[str]] = (),
) -> int:
    """Run web, worker and what goes `beside` them until Ctrl-C, a termination signal, or the end of one; return an exit code."""
    everything = {**os.environ, **environment}
    stopped = False

    def stop(_number: int, _frame: FrameType | None) -> None:
        nonlocal stopped
        stopped = True

    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, stop)
    children: dict[str, subprocess.Popen[bytes]] = {}

    def start(name: str, *more: str) -> None:
        # A session of its own, so that Ctrl-C reaches us alone and we stop both in order.
        children[name] = subprocess.Popen(
            [sys.executable, "-m", "almanaque", name, *more], env=everything, start_new_session=True
        )

    try:
        start("web")
        say_at = time.monotonic() + SAY_EVERY_SECONDS
        # A busy machine is slow to start; as long as the process lives it is waited for.
        while not stopped and not answers(address):
            _raise_if_ended(children)
            if time.monotonic() > say_at:
                print("almanaque: still starting; the machine is busy. Ctrl-C stops it.", file=sys.stderr, flush=True)
                say_at += SAY_EVERY_SECONDS
            time.sleep(0.05)
        if not stopped:
            for command in beside:
                start(*command)
            # The worker comes second, so that the first page need not wait for it.
            start("worker")
            when_ready()
        while not stopped:
            _raise_if_ended(children)
            time.sleep(0.2)
        return 0
    finally:
        for child in children.values():
            if child.poll() is None:
                child.terminate()
        deadline = time.monotonic() + GRACE_SECONDS
        for child in children.values():
            try:
                child.wait(max(0.1, deadline - time.monotonic()))
            except subprocess.TimeoutExpired:
                child.kill()
                child.wait()


def _raise_if_ended(children: Mapping[str, subprocess.Popen[bytes]]) -> None:
    for name, child in children.items():
        if child.poll() is not None:
            raise HostError(f"The {name} process ended (exit code {child.returncode}); its last words stand above.")


def answers(address: str) -> bool:
    """True when the application at this address says that it is well."""
    try:
        with urllib.request.urlopen(f"{address}/healthz", timeout=1) as reply:  # noqa: S310 - our own loopback address
            return bool(reply.status == 200)
    except (urllib.error.URLError, OSError):
        return False
