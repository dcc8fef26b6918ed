"""Files that strangers send are read in a process of their own, which may take so much time and memory and no more.

A file that wants more is refused with a sentence, and the process that serves everybody goes on as if nothing had been. The
child is forked from a small server process that has only read modules: it holds no connection, no secret and no socket.
"""

import contextlib
import multiprocessing
import os
import resource
import signal
import sys
import traceback
from collections.abc import Callable
from functools import partial
from multiprocessing.connection import Connection
from threading import BoundedSemaphore
from typing import ParamSpec, TypeVar, cast

from almanaque.core.errors import BadInput

P = ParamSpec("P")
R = TypeVar("R")
MEGABYTE = 1 << 20
AT_ONCE = 2  # so that many files at once take no more memory than two
PATIENCE_S = (
    600  # for a machine that is so busy that a child gets no time; what a child may use is counted, not waited for
)
# Read once by the server process, so that a child begins at once.
READ_BEFORE = (
    "icalendar",
    "recurring_ical_events",
    "almanaque.formats.journal.photo",
    "almanaque.formats.school.ical_in",
    "almanaque.formats.school.calendar_file",
    "almanaque.formats.school.history_csv",
    "almanaque.formats.school.school_bundle",
    "almanaque.formats.place.weather_csv",
    "almanaque.formats.place.planting_chart_csv",
    "almanaque.formats.garden.garden_geojson",
)
_turn = BoundedSemaphore(AT_ONCE)


def confined(function: Callable[P, R], *, cpu_s: int = 10, memory_mb: int = 256) -> Callable[P, R]:
    """The same function of a module, run in a child with this much processor time and memory above what it begins with.

    What it takes and gives must be picklable. It raises the function's BadInput, and its own when the child came to an end before
    it could answer: too slow or too large. Raises RuntimeError with the child's trace for a fault of ours.
    """

    def call(*given: P.args, **named: P.kwargs) -> R:
        return cast(R, _in_child(partial(function, *given, **named), cpu_s, memory_mb))

    return call


def _in_child(work: Callable[[], object], cpu_s: int, memory_mb: int) -> object:
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload([__name__, *READ_BEFORE])
    with _turn:
        ours, theirs = context.Pipe(duplex=False)
        child = context.Process(target=_work, args=(theirs, work, cpu_s, memory_mb), daemon=True)
        child.start()
        theirs.close()
        try:
            answer = ours.recv() if ours.poll(PATIENCE_S) else None
        except EOFError:  # it was ended before it could answer
            answer = None
        finally:
            ours.close()
            child.kill()
            child.join()
            child.close()
    if answer is None:
        raise BadInput("files.takes_too_much", field="file")
    good, value = answer
    if isinstance(value, Exception) and not good:
        raise value
    return value


def _work(answer: Connection, work: Callable[[], object], cpu_s: int, memory_mb: int) -> None:
    """In the child: read the file within the limits and send back what came of it. Nothing is sent when they are reached."""
    sys.stderr = open(os.devnull, "w")  # noqa: SIM115 - until the process ends; what it says helps nobody
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    _limit(resource.RLIMIT_CPU, _used_s() + cpu_s)
    _limit(resource.RLIMIT_AS, _memory() + memory_mb * MEGABYTE)
    _limit(resource.RLIMIT_FSIZE, 0)
    _limit(resource.RLIMIT_CORE, 0)
    try:
        found: tuple[bool, object] = (True, work())
    except MemoryError:
        os._exit(1)
    except BadInput as error:
        found = (False, error)
    except Exception:
        found = (False, RuntimeError(traceback.format_exc()))
    with contextlib.suppress(MemoryError):
        answer.send(found)
    answer.close()


def _limit(what: int, most: int) -> None:
    _, hard = resource.getrlimit(what)
    most = most if hard == resource.RLIM_INFINITY else min(most, hard)
    resource.setrlimit(what, (most, most))


def _used_s() -> int:
    """Processor time that this process has used [s], rounded up."""
    used = resource.getrusage(resource.RUSAGE_SELF)
    return int(used.ru_utime + used.ru_stime) + 1


def _memory() -> int:
    """Addresses that this process has taken [bytes]."""
    with open("/proc/self/statm", encoding="ascii") as told:
        return int(told.read().split()[0]) * resource.getpagesize()
