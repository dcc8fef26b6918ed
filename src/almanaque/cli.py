"""The command line. `demo` and `test` do everything; the others are for those who run a server of their own."""

import argparse
import json
import os
import secrets
import subprocess
import sys
from collections.abc import Callable, Sequence
from datetime import UTC, date, datetime
from pathlib import Path
from types import ModuleType
from urllib.parse import urlsplit

from almanaque import __version__
from almanaque.core.errors import CoreError
from almanaque.host.errors import HostError
from almanaque.settings import settings
from almanaque.store.errors import StoreError

CLONE = Path(__file__).resolve().parents[2]
DEMO_DATABASE = "almanaque"


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; every failure is one sentence on standard error. 2 means that the call itself was wrong."""
    parser = _parser()
    given = parser.parse_args(arguments)
    if given.command is None:
        parser.print_help()
        return 2
    try:
        return int(given.run(given) or 0)
    except CoreError as error:
        print(f"almanaque: {error}", file=sys.stderr)
        return 2
    except (HostError, StoreError) as error:
        print(f"almanaque: {error}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="almanaque", description="Beds, dates and harvests for school garden educators."
    )
    parser.add_argument("--version", action="version", version=f"almanaque {__version__}")
    commands = parser.add_subparsers(dest="command", metavar="COMMAND")

    def add(name: str, run: Callable[[argparse.Namespace], int | None], words: str) -> argparse.ArgumentParser:
        command = commands.add_parser(name, help=words, description=words)
        command.set_defaults(run=run)
        return command

    demo = add("demo", _demo, "start everything on this machine with an invented school")
    demo.add_argument("--port", type=int, default=0, help="port of the pages (a free one if left out)")
    add("serve", _serve, "serve pages and worker on databases of your own (ALMANAQUE_… in the environment)")
    add("web", _web, "the web process alone (demo and serve start it)")
    add("worker", _worker, "the worker process alone (demo and serve start it)")
    station = add("station", _station, "the simulated weather stations alone (demo starts them)")
    station.add_argument("--port", type=int, required=True, help="port on loopback")
    add("migrate", _migrate, "bring the database to this version's schema")
    backup = add("backup", _backup, "write the whole database to a file, or into a folder that keeps some of them")
    where = backup.add_mutually_exclusive_group(required=True)
    where.add_argument("file", type=Path, nargs="?", help="the file to write")
    where.add_argument("--to", type=Path, metavar="FOLDER", help="a folder: the backup is read back and compared there")
    backup.add_argument("--keep", default="7d,4w,12m", help="how many days, weeks and months keep one (7d,4w,12m)")
    restore = add("restore", _restore, "fill a new database from a backup, check it, then put it in place")
    restore.add_argument("file", type=Path)
    kept = add("kept", _kept, "list the databases that restores have replaced, or drop one")
    kept.add_argument("--drop", metavar="NAME")
    invite = add("invite", _invite, "print a link by which somebody sets up a school on this server")
    invite.add_argument("label", help="whom it is for")
    invite.add_argument(
        "--school", help="the name of a school that exists: to coordinate it, where nobody can log in there"
    )
    reset = add(
        "reset-password", _reset_password, "give somebody a new password, print it once, and end their sessions"
    )
    reset.add_argument("login")
    season = add("plan-season", _plan_season, "make one plan of a season; the worker starts this, nobody else need")
    for name in ("school", "plan", "which", "asked"):
        season.add_argument(name, choices=("surest", "most kinds", "least summer") if name == "which" else None)
    add("logins", _logins, "list who can log in on this server, with role and school")
    add("stop", _stop, "stop the demo that runs from this folder, and its database server")
    add("status", _status, "say whether the demo runs, where, and whether it is ready")
    add("reset-demo", _reset_demo, "throw the demo's database away; the next demo starts afresh")
    test = add("test", _test, "run every test")
    test.add_argument("only", nargs="*", help="packages (harvest), or folders and files under tests/; all if left out")
    test.add_argument("--measure", action="store_true", help="keep how long each file took, for sharing them out")
    add("check", _check, "run the linters and type checks")
    add("bench", _bench, "measure server times beside a baseline of the same run")
    add("screenshots", _screenshots, "take the pictures of docs/screenshots from a fresh demo")
    campaign = add("campaign", _campaign, "long trials of the whole application, each ending in a line of figures")
    campaign.add_argument("rest", nargs=argparse.REMAINDER)
    calc = add("calc", _calc, "the rules without server or database; answers in JSON")
    calc.add_argument("rest", nargs=argparse.REMAINDER)
    return parser


def _demo(given: argparse.Namespace) -> int:
    from almanaque import demo
    from almanaque.demo import logins
    from almanaque.host import launched, postgres, processes
    from almanaque.store import migrate

    folder = postgres.state_folder(CLONE)
    cluster = postgres.Cluster(folder)
    with launched.only_one(folder) as lock:
        cluster.start()
        try:
            cluster.ensure_database(DEMO_DATABASE)
            addresses = cluster.addresses(DEMO_DATABASE)
            migrate.run(addresses.owner, app_role=postgres.APP)
            if demo.is_empty(addresses.owner):
                print("almanaque: writing the demo school and its three years …", file=sys.stderr)
                _demo_loader().ensure(addresses.owner, addresses.app)
            port, database_port = given.port or postgres.free_port(), cluster.port
            address = f"http://127.0.0.1:{port}"

            def ready() -> None:
                lock.tell(address)
                print(f"\n  Almanaque is at {address}   (stop it with Ctrl-C)\n")
                print(f"  Demo day {demo.DEMO_DAY:%-d %B %Y}; the password of every demo login is  {logins.PASSWORD}\n")
                for person in logins.LOGINS:
                    print(f"    {person.login:<14}{person.about}")
                print(flush=True)

            def tend() -> None:
                if not cluster.lives() and cluster.start(database_port):
                    print("almanaque: the database server had ended and was started again.", file=sys.stderr)

            station_port = postgres.free_port()
            environment = {
                "ALMANAQUE_STATION_URL": f"http://127.0.0.1:{station_port}",
                "ALMANAQUE_STATIONS": json.dumps(demo.stations()),
                "ALMANAQUE_OUTBOX": str(folder / "outbox"),
                "ALMANAQUE_DATABASE_URL": addresses.app,
                "ALMANAQUE_SECRET": cluster.secret(),
                "ALMANAQUE_DEMO_DAY": demo.DEMO_DAY.isoformat(),
                "ALMANAQUE_PUBLIC_URL": address,
            }
            return processes.Together(
                environment,
                host="127.0.0.1",
                port=port,
                when_ready=ready,
                beside=[["station", "--port", str(station_port)]],
                web_processes=settings().web_processes,
                tend=tend,
            ).run()
        finally:
            cluster.stop()


def _demo_loader() -> ModuleType:
    """Imported when it is needed: it brings the whole catalogue, which would hold up the first page."""
    from almanaque.demo import load

    return load


def _serve(_: argparse.Namespace) -> int:
    from almanaque.host import processes
    from almanaque.store.db import Database

    chosen = settings()
    url = _needed("ALMANAQUE_DATABASE_URL", chosen.database_url)
    owner = _needed("ALMANAQUE_OWNER_DATABASE_URL", chosen.owner_database_url)
    if urlsplit(url).username == urlsplit(owner).username:
        raise HostError(
            "The application's database role and the owner's must be two roles. Change one of the addresses."
        )
    database = Database(url, max_size=1)
    database.open()
    try:
        database.check_ready()
    finally:
        database.close()
    secret = chosen.secret
    if len(secret) < 32:
        secret = secrets.token_urlsafe(32)
        print(
            "almanaque: ALMANAQUE_SECRET is not set (32 characters or more); open forms end with this run.",
            file=sys.stderr,
        )
    address = f"http://{chosen.host}:{chosen.port}"
    environment = {"ALMANAQUE_DATABASE_URL": url, "ALMANAQUE_SECRET": secret}
    return processes.Together(
        environment,
        host=chosen.host,
        port=chosen.port,
        when_ready=lambda: print(f"Almanaque is at {address}", flush=True),
        web_processes=chosen.web_processes,
    ).run()


def _web(_: argparse.Namespace) -> int:
    import uvicorn

    from almanaque import clock, logs
    from almanaque.host import processes, siblings
    from almanaque.web.app import create_app

    logs.configure()
    chosen = settings()
    _needed("ALMANAQUE_DATABASE_URL", chosen.database_url)
    _needed("ALMANAQUE_SECRET", chosen.secret)
    handed = processes.handed_socket() or processes.listen(chosen.host, chosen.port)
    app = create_app(chosen, clock.from_settings(chosen))

    def serve() -> None:
        processes.end_with_launcher()
        config = uvicorn.Config(
            app,
            log_level="warning",
            server_header=False,
            proxy_headers=bool(chosen.trusted_proxies),  # nobody's word on a visitor's address holds by default
            forwarded_allow_ips=chosen.trusted_proxies,
        )
        server = uvicorn.Server(config)
        server.run(sockets=[handed])
        if not server.started:
            raise HostError("The pages could not be served; what was wrong stands above.")

    return siblings.serve_by(int(os.environ.get(processes.SIBLINGS, "1")), serve)


def _worker(_: argparse.Namespace) -> None:
    from almanaque import clock, logs
    from almanaque.host import processes
    from almanaque.worker import main as worker

    processes.end_with_launcher()
    logs.configure()
    chosen = settings()
    _needed("ALMANAQUE_DATABASE_URL", chosen.database_url)
    worker.run(chosen, clock.from_settings(chosen))


def _plan_season(given: argparse.Namespace) -> None:
    from uuid import UUID

    from almanaque import clock, logs
    from almanaque.host import processes
    from almanaque.store.db import Database
    from almanaque.worker import planning

    processes.end_with_parent()
    logs.configure()
    chosen = settings()
    _needed("ALMANAQUE_DATABASE_URL", chosen.database_url)
    database = Database(chosen.database_url, max_size=1)
    database.open()
    try:
        school_id, plan_id, asked = (UUID(text) for text in (given.school, given.plan, given.asked))
        planning.make(database, clock.from_settings(chosen), school_id, plan_id, given.which, asked)
    finally:
        database.close()


def _station(given: argparse.Namespace) -> None:
    from almanaque.host import processes
    from almanaque.standins import station
    from almanaque.standins.weather import SimulatedPlace

    processes.end_with_launcher()
    told = json.loads(os.environ.get("ALMANAQUE_STATIONS", "{}"))
    devices = {
        key: station.SimulatedStation(
            SimulatedPlace(**row["place"]), *(date.fromisoformat(row[name]) for name in ("first_day", "last_day"))
        )
        for key, row in told.items()
    }
    today = settings().demo_day or datetime.now(UTC).date()
    station.serve(devices, given.port, today).serve_forever()


def _migrate(_: argparse.Namespace) -> None:
    from almanaque.store import migrate

    owner, app_role = _owner_and_role()
    names = migrate.run(owner, app_role=app_role)
    print("\n".join(f"applied {name}" for name in names) or "The database has this version's schema already.")


def _backup(given: argparse.Namespace) -> None:
    from almanaque.host import backup, keeping

    owner = _owner_and_role()[0]
    if given.to is None:
        size = backup.write(owner, given.file)
        print(f"wrote {given.file} ({size:,} bytes)")
        return
    made = backup.keep(owner, given.to, keeping.read(given.keep), now=datetime.now(UTC))
    print(f"wrote {made.file} ({made.size:,} bytes), read it back and compared {made.rows:,} rows")
    for path in made.dropped:
        print(f"dropped {path}")


def _restore(given: argparse.Namespace) -> None:
    from almanaque.host import backup

    owner, app_role = _owner_and_role()
    kept = backup.restore(owner, given.file, app_role=app_role, now=datetime.now(UTC))
    print("The backup is in place.")
    if kept:
        print(f"The database it replaced is kept as {kept}; when you are sure: almanaque kept --drop {kept}")


def _kept(given: argparse.Namespace) -> None:
    from almanaque.host import backup

    owner = _owner_and_role()[0]
    if given.drop:
        backup.drop_kept(owner, given.drop)
        print(f"dropped {given.drop}")
    else:
        print("\n".join(backup.kept_databases(owner)) or "No database is kept from a restore.")


def _invite(given: argparse.Namespace) -> None:
    from almanaque.host import invitations

    chosen = settings()
    owner, now = _owner_and_role()[0], datetime.now(UTC)
    if given.school:
        secret = invitations.into_a_school(owner, given.label, given.school, now=now)
    else:
        secret = invitations.to_found_a_school(owner, given.label, now=now)
    address = chosen.public_url.rstrip("/") or _running_at() or f"http://{chosen.host}:{chosen.port}"
    print(f"{address}/invite/{secret}\nIt works once, for {invitations.DAYS} days.")


def _reset_password(given: argparse.Namespace) -> None:
    from almanaque.host import recovery

    password = recovery.reset_password(_owner_and_role()[0], given.login)
    print(
        f"{given.login} logs in with  {password}  from now on, and has been logged out everywhere. Let them change it under Account."
    )


def _logins(_: argparse.Namespace) -> None:
    from almanaque.host import recovery

    for login, name, role, school in recovery.logins(_owner_and_role()[0]):
        print(f"{login:<30} {role:<12} {school}  ({name})")


def _running_at() -> str:
    """The address of the demo that runs, where no server of one's own is set."""
    from almanaque.host import launched, postgres

    found = None if settings().owner_database_url else launched.running(postgres.state_folder(CLONE))
    return found.address if found else ""


def _stop(_: argparse.Namespace) -> None:
    from almanaque.host import launched, postgres

    folder = postgres.state_folder(CLONE)
    stopped = launched.stop(folder)
    cluster = postgres.Cluster(folder)
    left = cluster.running()
    cluster.stop()
    if stopped:
        print("The demo is stopped.")
    else:
        print("Its database server ran on alone and is stopped." if left else "Nothing runs from this folder.")


def _status(_: argparse.Namespace) -> int:
    """0 when the demo runs and is ready, 3 when it does not run, 1 when it runs and is not ready."""
    from almanaque.host import launched, postgres, processes

    folder = postgres.state_folder(CLONE)
    found = launched.running(folder)
    database = "runs" if postgres.Cluster(folder).running() else "does not run"
    if found is None:
        print(f"The demo does not run. Its database server {database}.")
        return 3
    if not found.address:
        print(f"The demo is starting (process {found.pid}). Its database server {database}.")
        return 1
    ready, words = processes.readiness(found.address)
    print(f"The demo is at {found.address} (process {found.pid}). Its database server {database}. {words}")
    return 0 if ready else 1


def _reset_demo(_: argparse.Namespace) -> None:
    from almanaque.host import launched, postgres

    folder = postgres.state_folder(CLONE)
    cluster = postgres.Cluster(folder)
    with launched.only_one(folder):
        cluster.start()
        try:
            cluster.drop_database(DEMO_DATABASE)
        finally:
            cluster.stop()
    print("The demo is empty; the next `./almanaque demo` writes it afresh.")


def _test(given: argparse.Namespace) -> int:
    from almanaque.host import testing

    return testing.run_tests(CLONE, given.only, measure=given.measure)


def _check(_: argparse.Namespace) -> int:
    from almanaque.host import testing

    return testing.run_checks(CLONE)


def _bench(_: argparse.Namespace) -> int:
    return subprocess.run(
        [sys.executable, "-m", "tests.bench"], cwd=CLONE, check=False, env=_with_clone_on_path()
    ).returncode


def _campaign(given: argparse.Namespace) -> int:
    return subprocess.run(
        [sys.executable, "-m", "tests.campaign", *given.rest], cwd=CLONE, check=False, env=_with_clone_on_path()
    ).returncode


def _screenshots(_: argparse.Namespace) -> int:
    return subprocess.run(
        [sys.executable, "-m", "tests.screenshots"], cwd=CLONE, check=False, env=_with_clone_on_path()
    ).returncode


def _calc(given: argparse.Namespace) -> int:
    from almanaque import calc

    found = calc.answer(given.rest)
    drawn = found.get("svg") if "--json" not in given.rest else None
    print(drawn or json.dumps(found, ensure_ascii=False))
    return 0


def _owner_and_role() -> tuple[str, str]:
    """The owner's address and the application's role: from the environment, else those of the demo's cluster."""
    chosen = settings()
    if chosen.owner_database_url:
        app = urlsplit(_needed("ALMANAQUE_DATABASE_URL", chosen.database_url)).username
        return chosen.owner_database_url, app or ""
    from almanaque.host import postgres

    cluster = postgres.Cluster(postgres.state_folder(CLONE))
    if not cluster.running():
        raise HostError(
            "No database address is set and the demo is not running. "
            "Set ALMANAQUE_OWNER_DATABASE_URL and ALMANAQUE_DATABASE_URL, or start the demo in another window."
        )
    return cluster.addresses(DEMO_DATABASE).owner, postgres.APP


def _needed(name: str, value: str) -> str:
    if not value:
        raise HostError(f"{name} is not set. See docs/deploy.md for what it holds.")
    return value


def _with_clone_on_path() -> dict[str, str]:
    return {**os.environ, "PYTHONPATH": f"{CLONE / 'src'}{os.pathsep}{CLONE}"}
