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
from warmeter.links.broker import BrokerError, PrivateBroker
from warmeter.links.mail import MailServer
from warmeter.service.app import App, QueuedOnly, system_now_ms
from warmeter.service.homes.keeping import remove_old
from warmeter.service.homes.nightly import NightlyBackup
from warmeter.service.homes.upgrading import brought_up_to_date
from warmeter.service.jobs.runner import JobRunner
from warmeter.service.live.places import LinkPlaces, write_places
from warmeter.service.live.process import LIVE
from warmeter.service.live.stand_in import MAILBOX, STAND_IN
from warmeter.service.live.taking_over import end_left_over
from warmeter.service.logfile import log_into, note
from warmeter.service.opening import UPLOADS
from warmeter.service.processes import KeptProcess, called, preloaded
from warmeter.simulators.mail_server import MailStandIn
from warmeter.store.datafolder import held_folder
from warmeter.store.engine import DatabaseAway, open_engine
from warmeter.store.server import DatabaseError, PrivateServer
from warmeter.store.supervisor import Supervisor
from warmeter.web.entrance import QUERY, made_key
from warmeter.web.serving import WebProcesses

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
            broker = PrivateBroker(settings.data_dir)
            broker.start()
            held.callback(broker.stop)
            held.callback(end_left_over, settings.data_dir)  # where this one is stopped before its own took over
            engine = open_engine(server.url)
            held.callback(engine.dispose)
            before = brought_up_to_date(engine, settings.data_dir, system_now_ms())
            if before is not None:
                print(f"The database was brought up to date; what it held before is kept in {before}")
        except (DatabaseError, BrokerError, DatabaseAway, WarmeterError, OSError, ValueError) as error:
            print(f"Warmeter did not start. {error}", file=sys.stderr)
            return 2
        held.callback(print, "Stopped. Everything is kept in", settings.data_dir)
        uploads = settings.data_dir / UPLOADS
        app = App(engine=engine, uploads=uploads, jobs=QueuedOnly(), now_ms=system_now_ms)
        _serve(server, broker, app, settings, listening)
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
    end_left_over(folder)
    PrivateServer(folder).stop()
    for name in folder.glob("database*"):
        shutil.rmtree(name) if name.is_dir() else name.unlink()
    shutil.rmtree(folder / UPLOADS, ignore_errors=True)
    return True


def _is_demo_loaded(server: PrivateServer, app: App, *, is_live: bool) -> bool:
    """Load the demo homes into an empty database, by a process of its own; return whether it was empty."""
    if app.homes.lines():
        return False
    with ProcessPoolExecutor(1, mp_context=preloaded()) as loader:
        return bool(loader.submit(called, LOAD_DEMO, server.url, str(app.uploads), is_live).result())


def _serve(
    server: PrivateServer, broker: PrivateBroker, app: App, settings: Settings, listening: socket.socket
) -> None:
    address = f"http://127.0.0.1:{listening.getsockname()[1]}/"
    with ExitStack() as held:
        log_into(settings.data_dir)
        note("started", processes=settings.processes)
        remove_old(app)
        app.pages.clear()
        held.callback(JobRunner(server.url, app.uploads).close)
        nightly = NightlyBackup(app.engine, settings.data_dir, server.made_ms, settings.backups_kept, system_now_ms)
        held.callback(nightly.close)
        if not settings.no_demo and _is_demo_loaded(server, app, is_live=not settings.no_live):
            print("The demo homes are loaded; their rooms are being fitted in the background.")
        write_places(settings.data_dir, _places(settings, address, held))
        for place in (LIVE, STAND_IN):
            held.callback(KeptProcess(place, settings.data_dir, server.port).close)
        # Closed before what they watch is stopped.
        held.callback(Supervisor(server, on_back=app.engine.dispose).close)
        held.callback(Supervisor(broker, on_back=lambda: None, name="MQTT broker").close)
        key = "" if settings.open else made_key(settings.data_dir)
        ready = f"Warmeter is ready at {address}  (Ctrl-C stops it)"
        if key:
            ready += f"\nOther users of this machine are kept out, but for {address}?{QUERY}={key}"
        WebProcesses(server, listening, settings.processes, key, lambda: print(ready, flush=True)).run()


def _places(settings: Settings, address: str, held: ExitStack) -> LinkPlaces:
    """Return what homes are linked by: the user's own broker and mail server, or the stand-ins that ship with it."""
    if settings.mail_host:
        mail = MailServer(
            host=settings.mail_host,
            port=settings.mail_port,
            sender=settings.mail_sender,
            user=settings.mail_user,
            password=settings.mail_password.get_secret_value(),
            is_encrypted=settings.mail_encrypted,
        )
    else:
        stand_in = MailStandIn(settings.data_dir / MAILBOX)
        stand_in.start()
        held.callback(stand_in.stop)
        mail = MailServer(host="127.0.0.1", port=stand_in.port)
    return LinkPlaces(
        mail=mail,
        page_url=address,
        is_standing_in=not settings.mail_host,
        broker_host=settings.broker_host,
        broker_port=settings.broker_port,
        broker_user=settings.broker_user,
        broker_password=settings.broker_password.get_secret_value(),
    )
