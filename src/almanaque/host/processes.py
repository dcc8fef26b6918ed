"""Keep the web processes, the worker and what goes beside them running until somebody stops them."""

import os
import signal
import socket
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from types import FrameType

from almanaque.host.errors import HostError

SAY_EVERY_S = 30.0  # how often a start that takes long says that it goes on
GRACE_S = 8.0
LIVED_S = 60.0  # a process that lived so long had a good start: its next one waits no longer than the first
LONGEST_WAIT_S = 60.0
TEND_EVERY_S = 2.0
LISTEN, PIPE = "ALMANAQUE_LISTEN_FD", "ALMANAQUE_LAUNCHER_FD"
SIBLINGS = "ALMANAQUE_SIBLINGS"  # how many web processes the one that is started makes of itself


@dataclass
class Comeback:
    """When a process that ends is started again: each time a little later, and at once again after it has lived for a while."""

    began: float = 0.0
    ends: int = 0
    again_at: float = 0.0

    def begin(self) -> None:
        self.began = time.monotonic()

    def end(self, name: str, code: int) -> None:
        """Note that it ended, and say when it comes again."""
        now = time.monotonic()
        self.ends = 1 if now - self.began > LIVED_S else self.ends + 1
        wait = min(LONGEST_WAIT_S, 0.5 * 2 ** (self.ends - 1))
        self.again_at = now + wait
        said(f"{name} ended ({how(code)}); it is started again in {wait:g} s")

    @property
    def due(self) -> bool:
        return time.monotonic() >= self.again_at


@dataclass(eq=False)
class Child:
    """A process that is started again when it ends."""

    words: Sequence[str]
    process: subprocess.Popen[bytes] | None = None
    comeback: Comeback = field(default_factory=Comeback)

    @property
    def name(self) -> str:
        return self.words[0]


@dataclass
class Together:
    """What runs together: the web process, which makes as many of itself as are wanted behind one port, the worker, and `beside`.

    `tend` is called every other second and sees to what they all need, such as the demo's own database server; what it
    raises is said and tried again. The port is held by this process, so that people who come while a web process is
    started again wait a moment and are not turned away.
    """

    environment: Mapping[str, str]
    host: str
    port: int
    when_ready: Callable[[], None]
    beside: Sequence[Sequence[str]] = ()
    web_processes: int = 1
    tend: Callable[[], None] | None = None
    _children: list[Child] = field(default_factory=list)
    _stopped: bool = False
    _tended: float = 0.0

    def run(self) -> int:
        """Run until Ctrl-C or a termination signal; return an exit code. Raises HostError for a port that is taken, and when the
        first web process ends before it ever answered: it has said why."""
        for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            signal.signal(number, self._stop)
        listening = listen(self.host, self.port)
        read, write = os.pipe()  # closed by the system when this process ends, however it ends
        everything = {
            **os.environ,
            **self.environment,
            LISTEN: str(listening.fileno()),
            PIPE: str(read),
            SIBLINGS: str(self.web_processes),
        }
        self._start_with = (everything, (listening.fileno(), read))
        try:
            self._until_ready()
            if not self._stopped:
                for words in (*self.beside, ["worker"]):
                    self._begin(Child(words))
                self.when_ready()
            while not self._stopped:
                self._look_after()
                time.sleep(0.2)
            return 0
        finally:
            self._end_all()
            listening.close()
            os.close(read)
            os.close(write)

    def _until_ready(self) -> None:
        """Start the first web process and wait until it answers, however busy the machine is, as long as it lives."""
        self._begin(Child(["web"]))
        say_at = time.monotonic() + SAY_EVERY_S
        address = f"http://{self.host}:{self.port}"
        while not self._stopped and not answers(address):
            first = self._children[0].process
            if first is not None and first.poll() is not None:
                raise HostError(f"The web process ended (exit code {first.returncode}); its last words stand above.")
            if time.monotonic() > say_at:
                said("still starting, waiting for the web process to answer; the machine is busy. Ctrl-C stops it")
                say_at += SAY_EVERY_S
            time.sleep(0.05)

    def _begin(self, child: Child) -> None:
        environment, kept = self._start_with
        # A session of its own, so that Ctrl-C reaches us alone and we stop all in order.
        child.process = subprocess.Popen(
            [sys.executable, "-m", "almanaque", *child.words], env=environment, start_new_session=True, pass_fds=kept
        )
        child.comeback.begin()
        if child not in self._children:
            self._children.append(child)

    def _look_after(self) -> None:
        """Start what ended anew, and tend what all need."""
        now = time.monotonic()
        for child in self._children:
            if child.process is not None and child.process.poll() is not None:
                child.comeback.end(f"the {child.name} process", child.process.returncode)
                child.process = None
            elif child.process is None and child.comeback.due:
                try:
                    self._begin(child)
                except OSError as error:  # no memory, no room: the others go on
                    child.comeback.again_at = now + LONGEST_WAIT_S
                    said(f"the {child.name} process could not be started: {error}")
        if self.tend is not None and now - self._tended > TEND_EVERY_S:
            self._tended = now
            try:
                self.tend()
            except HostError as error:
                said(str(error))

    def _stop(self, _number: int, _frame: FrameType | None) -> None:
        self._stopped = True

    def _end_all(self) -> None:
        running = [child.process for child in self._children if child.process is not None]
        for process in running:
            if process.poll() is None:
                process.terminate()
        deadline = time.monotonic() + GRACE_S
        for process in running:
            try:
                process.wait(max(0.1, deadline - time.monotonic()))
            except subprocess.TimeoutExpired:
                process.kill()
                process.wait()


def said(words: str) -> None:
    print(f"almanaque: {words}.", file=sys.stderr, flush=True)


def how(code: int) -> str:
    """How a process ended, in words."""
    return f"killed by {signal.Signals(-code).name}" if code < 0 else f"exit code {code}"


def listen(host: str, port: int) -> socket.socket:
    """A socket that listens on a port of ours. Raises HostError for one that is taken or not ours."""
    made = socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET)
    made.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        made.bind((host, port))
    except OSError as error:
        made.close()
        raise HostError(
            f"Port {port} of {host} cannot be used: {error.strerror}. Stop what runs there, or choose another port."
        ) from None
    made.listen(256)
    made.set_inheritable(True)
    return made


def handed_socket() -> socket.socket | None:
    """The socket that the launcher listens on, for a web process that it started; None for one started alone."""
    handed = os.environ.get(LISTEN)
    return socket.socket(fileno=int(handed)) if handed else None


def launcher_pipe() -> int | None:
    """What can be read once the process that started this one is gone; None for one that was started alone."""
    handed = os.environ.get(PIPE)
    return int(handed) if handed else None


def end_with_launcher() -> None:
    """Let this process end when the launcher does, also when that was killed: nobody is left to stop it."""
    handed = launcher_pipe()
    if handed is None:
        return

    def wait() -> None:
        os.read(handed, 1)  # nobody ever writes: it returns when the other end is gone
        os.kill(os.getpid(), signal.SIGTERM)
        time.sleep(GRACE_S)
        os._exit(1)

    threading.Thread(target=wait, name="launcher", daemon=True).start()


def end_with_parent() -> None:
    """Let this process end when the one that started it does, also when that was killed."""
    parent = os.getppid()

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(1)
        os._exit(1)

    threading.Thread(target=watch, name="parent", daemon=True).start()


def answers(address: str) -> bool:
    """True when the application at this address says that it lives."""
    try:
        with urllib.request.urlopen(f"{address}/healthz", timeout=1) as reply:  # noqa: S310 - our own loopback address
            return bool(reply.status == 200)
    except (urllib.error.URLError, OSError):
        return False


def readiness(address: str) -> tuple[bool, str]:
    """Whether the application at this address is ready, and what it says of itself."""
    try:
        with urllib.request.urlopen(f"{address}/readyz", timeout=10) as reply:  # noqa: S310 - our own loopback address
            return True, str(reply.read(1000).decode()).strip()
    except urllib.error.HTTPError as error:
        return False, str(error.read(1000).decode()).strip()
    except (urllib.error.URLError, OSError):
        return False, "Its pages do not answer."
