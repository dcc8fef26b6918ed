"""Several web processes out of one: the code is read once, by the first, and the others are forked from it.

The first one serves nobody. It looks after the others: one that ends is started again, and all end with it.
"""

import os
import select
import signal
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from types import FrameType

from almanaque.host.processes import GRACE_S, LONGEST_WAIT_S, PIPE, Comeback, launcher_pipe, said


@dataclass
class Sibling:
    """A place for a process that serves; `pid` is none while it waits to be started again."""

    pid: int | None = None
    comeback: Comeback = field(default_factory=Comeback)


def serve_by(count: int, serve: Callable[[], object]) -> int:
    """Run `serve` in this process, or in as many of its own as are wanted, until a termination signal or the launcher's end.

    Return an exit code. A process that ends is started again, unless it could not begin and no other one runs.
    """
    if count <= 1:
        serve()
        return 0
    stopped = []

    def stop(_number: int, _frame: FrameType | None) -> None:
        stopped.append(True)

    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, stop)
    read, write = os.pipe()  # the others see its end when this process ends, however it ends
    launcher = launcher_pipe()
    siblings = [Sibling() for _ in range(count)]
    try:
        while not stopped:
            for one in siblings:
                code = _see_to(one, serve, read, write)
                if code > 0 and not any(other.pid for other in siblings):
                    return code  # it cannot begin, and has said why
            if launcher is not None and select.select([launcher], [], [], 0)[0]:
                break  # nobody ever writes: it can be read when the launcher is gone
            time.sleep(0.1)
    finally:
        _end([one.pid for one in siblings if one.pid is not None])
    return 0


def _see_to(one: Sibling, serve: Callable[[], object], read: int, write: int) -> int:
    """Start a process that is due, and note one that has ended; return its exit code, negative for a signal, else nothing's."""
    if one.pid is None:
        if one.comeback.due:
            one.comeback.begin()
            try:
                one.pid = _forked(serve, read, write)
            except OSError as error:  # no memory: the others go on
                one.comeback.again_at = one.comeback.began + LONGEST_WAIT_S
                said(f"a web process could not be started: {error}")
        return 0
    ended, status = os.waitpid(one.pid, os.WNOHANG)
    code = os.waitstatus_to_exitcode(status) if ended else 0
    if ended:
        one.comeback.end("a web process", code)
        one.pid = None
    return code


def _forked(serve: Callable[[], object], read: int, write: int) -> int:
    pid = os.fork()
    if pid:
        return pid
    code = 1
    try:
        for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            signal.signal(number, signal.SIG_DFL)
        os.close(write)
        os.environ[PIPE] = str(read)
        serve()
        code = 0
    except SystemExit as error:
        code = error.code if isinstance(error.code, int) else 1
    except Exception as error:
        said(f"a web process could not go on: {type(error).__name__}: {error}")
    finally:
        os._exit(code)


def _end(pids: list[int]) -> None:
    """Ask them to end, and after a while make them."""
    for pid in pids:
        os.kill(pid, signal.SIGTERM)
    deadline = time.monotonic() + GRACE_S
    while pids and time.monotonic() < deadline:
        pids = [pid for pid in pids if os.waitpid(pid, os.WNOHANG) == (0, 0)]
        time.sleep(0.02)
    for pid in pids:
        os.kill(pid, signal.SIGKILL)
        os.waitpid(pid, 0)
