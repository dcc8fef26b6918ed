"""What runs from this clone's state folder: one demo at a time, where its pages are, and how to stop it."""

import fcntl
import json
import os
import signal
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from almanaque.host.errors import HostError


@dataclass(frozen=True)
class Launched:
    """A launcher that runs: its process and the address of its pages, empty while it starts."""

    pid: int
    address: str


@contextmanager
def only_one(folder: Path) -> Iterator["Lock"]:
    """Be the only launcher of this folder. Raises HostError when another one runs, with its address.

    The lock is the system's: it goes with the process that holds it, however that ends.
    """
    folder.mkdir(parents=True, exist_ok=True)
    descriptor = os.open(folder / "launcher.lock", os.O_RDWR | os.O_CREAT, 0o644)
    try:
        try:
            fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            other = _read(descriptor)
            where = f" at {other.address}" if other and other.address else ""
            raise HostError(
                f"Almanaque runs already from this folder{where}. Use that one, or stop it with `almanaque stop`."
            ) from None
        lock = Lock(descriptor)
        lock.tell("")
        yield lock
    finally:
        os.close(descriptor)


class Lock:
    """The lock that is held, and what others may read of it."""

    def __init__(self, descriptor: int) -> None:
        self._descriptor = descriptor

    def tell(self, address: str) -> None:
        """Let others know the address of the pages."""
        words = json.dumps({"pid": os.getpid(), "address": address}).encode()
        os.pwrite(self._descriptor, words, 0)
        os.ftruncate(self._descriptor, len(words))


def running(folder: Path) -> Launched | None:
    """The launcher of a folder that runs now; None when there is none."""
    try:
        descriptor = os.open(folder / "launcher.lock", os.O_RDWR)
    except OSError:
        return None
    try:
        fcntl.flock(descriptor, fcntl.LOCK_SH | fcntl.LOCK_NB)
    except BlockingIOError:
        return _read(descriptor)
    finally:
        os.close(descriptor)
    return None


def stop(folder: Path) -> bool:
    """Tell the launcher of a folder to stop and wait until it has; False when none runs."""
    found = running(folder)
    if found is None:
        return False
    os.kill(found.pid, signal.SIGTERM)
    while running(folder) is not None:
        time.sleep(0.1)
    return True


def _read(descriptor: int) -> Launched | None:
    try:
        told = json.loads(os.pread(descriptor, 4096, 0))
        return Launched(int(told["pid"]), str(told["address"]))
    except (ValueError, KeyError, TypeError):
        return None
