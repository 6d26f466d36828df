"""``warmeter demo``: the private database, the demo home, the server, and a clean end of all three."""

import argparse
import shutil
import socket
import sys
from concurrent.futures import ProcessPoolExecutor
from contextlib import ExitStack
from pathlib import Path

from warmeter.cli.settings import Settings, settings_of
from warmeter.cli.user import without_root
from warmeter.core.errors import WarmeterError
from warmeter.service.app import App, QueuedOnly, system_now_ms
from warmeter.service.homes.keeping import remove_old
from warmeter.service.homes.nightly import NightlyBackup
from warmeter.service.homes.upgrading import brought_up_to_date
from warmeter.service.jobs.runner import JobRunner
from warmeter.service.logfile import log_into, note
from warmeter.service.processes import called, preloaded
from warmeter.store.datafolder import held_folder
from warmeter.store.engine import DatabaseAway, open_engine
from warmeter.store.server import DatabaseError, PrivateServer
from warmeter.store.supervisor import Supervisor
from warmeter.web.entrance import QUERY, made_key
from warmeter.web.serving import UPLOADS, WebProcesses

KEPT_OF_UPGRADES = 3


LOAD_DEMO = "warmeter.service.homes.demo:load_demo_into"


def run(options: argparse.Namespace) -> int:
    """Start, serve until Ctrl-C or SIGTERM, and stop."""
    settings = settings_of(options)
    said = without_root(settings.data_dir)
    if said:
        print(said, flush=True)
    with ExitStack() as held:
        try:
            listening = _held_and_listening(settings, held)
            if options.fresh and not _make_fresh(settings.data_dir, is_sure=options.yes):
                return 1
            preloaded()  # while the database starts
            server = PrivateServer(settings.data_dir)
            if options.new_password:
                server.make_password()
            server.start()
            held.callback(server.stop)
            engine = open_engine(server.url)
            held.callback(engine.dispose)
            before = brought_up_to_date(engine, settings.data_dir, system_now_ms())
            if before is not None:
                print(f"The database was brought up to date; what it held before is kept in {before}")
        except (DatabaseError, DatabaseAway, WarmeterError, OSError, ValueError) as error:
            print(f"Warmeter did not start. {error}", file=sys.stderr)
            return 2
        held.callback(print, "Stopped. Everything is kept in", settings.data_dir)
        uploads = settings.data_dir / UPLOADS
        app = App(engine=engine, uploads=uploads, jobs=QueuedOnly(), now_ms=system_now_ms)
        _serve(server, app, settings, listening)
    return 0


def _held_and_listening(settings: Settings, held: ExitStack) -> socket.socket:
    """Return the listening socket, the data folder held from before it to the end."""
    wanted = f"http://127.0.0.1:{settings.port}/" if settings.port else ""
    held.enter_context(held_folder(settings.data_dir, wanted))
    return held.enter_context(_listen(settings.port))


def _listen(port: int) -> socket.socket:
    """Return a listening socket on loopback.

    Raises
    ------
    OSError
        If the port is taken.
    """
    # The protocol is named because asyncio switches small delays off (TCP_NODELAY) only where it is.
    sock = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    sock.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        sock.bind(("127.0.0.1", port))
        # Listening from now on: who comes before the start is over waits instead of being refused.
        sock.listen(64)
    except (OSError, OverflowError) as error:
        sock.close()
        raise OSError(
            f"Port {port} cannot be used ({error}); another program has it. Choose one with --port, or --port 0."
        ) from error
    return sock


def _make_fresh(folder: Path, *, is_sure: bool) -> bool:
    """Delete what Warmeter keeps in a data folder, after asking."""
    if not folder.exists():
        return True
    if not is_sure:
        if not sys.stdin.isatty():
            print("--fresh would delete all homes in " + str(folder) + "; add --yes to do it.", file=sys.stderr)
            return False
        if input(f"Delete all homes and readings in {folder}? Type yes: ").strip().lower() != "yes":
            print("Nothing was deleted.")
            return False
    PrivateServer(folder).stop()
    for name in folder.glob("database*"):
        shutil.rmtree(name) if name.is_dir() else name.unlink()
    shutil.rmtree(folder / UPLOADS, ignore_errors=True)
    return True


def _is_demo_loaded(server: PrivateServer, app: App) -> bool:
    """Load the demo homes into an empty database, by a process of its own; return whether it was empty."""
    if app.homes.lines():
        return False
    with ProcessPoolExecutor(1, mp_context=preloaded()) as loader:
        return bool(loader.submit(called, LOAD_DEMO, server.url, str(app.uploads)).result())


def _serve(server: PrivateServer, app: App, settings: Settings, listening: socket.socket) -> None:
    runner = supervisor = nightly = None
    try:
        log_into(settings.data_dir)
        note("started", processes=settings.processes)
        remove_old(app)
        app.pages.clear()
        runner = JobRunner(server.url, app.uploads)
        nightly = NightlyBackup(app.engine, settings.data_dir, server.made_ms, settings.backups_kept, system_now_ms)
        supervisor = Supervisor(server, on_back=app.engine.dispose)
        if not settings.no_demo and _is_demo_loaded(server, app):
            print("The demo homes are loaded; their rooms are being fitted in the background.")
        address = f"http://127.0.0.1:{listening.getsockname()[1]}/"
        key = "" if settings.open else made_key(settings.data_dir)
        ready = f"Warmeter is ready at {address}  (Ctrl-C stops it)"
        if key:
            ready += f"\nOther users of this machine are kept out, but for {address}?{QUERY}={key}"
        WebProcesses(server, listening, settings.processes, key, lambda: print(ready, flush=True)).run()
    finally:
        if nightly is not None:
            nightly.close()
        if supervisor is not None:
            supervisor.close()
        if runner is not None:
            runner.close()
