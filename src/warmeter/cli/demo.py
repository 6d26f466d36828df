"""``warmeter demo``: the private database, the demo home, the server, and a clean end of all three."""

import argparse
import logging
import os
import shutil
import signal
import socket
import sys
from contextlib import ExitStack
from pathlib import Path

import uvicorn

from warmeter.service.demo import load_demo
from warmeter.service.jobpool import ProcessPool
from warmeter.service.workbench import Workbench, wall_now_ms
from warmeter.store.datafolder import held_folder
from warmeter.store.engine import migrate, open_engine
from warmeter.store.server import DatabaseError, PrivateServer
from warmeter.store.supervisor import Supervisor
from warmeter.web.app import create_app


def run(options: argparse.Namespace) -> int:
    """Start, serve until Ctrl-C or SIGTERM, and stop."""
    with ExitStack() as held:
        try:
            listening = _held_and_listening(options, held)
            if options.fresh and not _make_fresh(options.data_dir, is_sure=options.yes):
                return 1
            server = PrivateServer(options.data_dir)
            server.start()
        except (DatabaseError, OSError, ValueError) as error:
            print(f"Warmeter did not start. {error}", file=sys.stderr)
            return 2
        held.callback(print, "Stopped. Everything is kept in", options.data_dir)
        held.callback(server.stop)
        _serve(server, options, listening)
    return 0


def _held_and_listening(options: argparse.Namespace, held: ExitStack) -> socket.socket:
    """Return the listening socket, the data folder held from before it to the end."""
    wanted = f"http://127.0.0.1:{options.port}/" if options.port else ""
    held.enter_context(held_folder(options.data_dir, wanted))
    return held.enter_context(_listen(options.port))


def _listen(port: int) -> socket.socket:
    """Return a listening socket on loopback.

    Raises
    ------
    OSError
        If the port is taken.
    """
    sock = socket.socket(socket.AF_INET, socket.SOCK_STREAM)
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
    shutil.rmtree(folder / "uploads", ignore_errors=True)
    return True


def _serve(server: PrivateServer, options: argparse.Namespace, listening: socket.socket) -> None:
    engine = open_engine(server.url)
    pool = supervisor = None
    try:
        migrate(engine)
        uploads = options.data_dir / "uploads"
        pool = ProcessPool(server.url, uploads)
        supervisor = Supervisor(server, on_back=engine.dispose)
        bench = Workbench(engine=engine, uploads=uploads, jobs=pool, now_ms=wall_now_ms)
        for job_id in bench.work.requeue_interrupted():
            pool.submit(job_id)
        if not options.no_demo and load_demo(bench):
            print("The demo homes are loaded; their rooms are being fitted in the background.")
        address = f"http://127.0.0.1:{listening.getsockname()[1]}/"
        app = create_app(
            bench, on_start=lambda: print(f"Warmeter is ready at {address}  (Ctrl-C stops it)", flush=True)
        )
        config = uvicorn.Config(app, log_level="warning", lifespan="on", timeout_graceful_shutdown=1)
        logging.getLogger("uvicorn.error").setLevel(logging.WARNING)
        _Server(config).run(sockets=[listening])
    finally:
        if supervisor is not None:
            supervisor.close()
        if pool is not None:
            pool.close()
        engine.dispose()


class _Server(uvicorn.Server):
    """A server that, told to stop, ends its process normally instead of by the signal."""

    def handle_exit(self, sig: int, frame: object) -> None:  # type: ignore[override]
        """Stop on the first signal; on the second at once."""
        _ = sig, frame
        if self.should_exit:
            os._exit(1)
        self.should_exit = True

    def run(self, sockets: list[socket.socket] | None = None) -> None:
        """Serve; both signals are taken for the whole of it."""
        for each in (signal.SIGINT, signal.SIGTERM):
            signal.signal(each, self.handle_exit)
        super().run(sockets=sockets)
