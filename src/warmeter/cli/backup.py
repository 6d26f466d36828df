"""``warmeter backup`` and ``restore``: all homes into one verified file, and a data folder out of one."""

import argparse
import os
import shutil
import sys
from contextlib import ExitStack
from pathlib import Path

from warmeter.cli.settings import settings_of
from warmeter.service.app import system_now_ms
from warmeter.store.backup import backup_name, restore_backup, write_backup
from warmeter.store.datafolder import held_folder
from warmeter.store.dump import DumpError
from warmeter.store.engine import open_engine
from warmeter.store.server import DatabaseError, PrivateServer


def run(options: argparse.Namespace) -> int:
    """Back up or restore; 2 if it cannot be done."""
    data_dir = settings_of(options).data_dir
    try:
        if options.command == "backup":
            _back_up(data_dir, options.to)
        else:
            _restore(options.source, data_dir)
    except (DatabaseError, DumpError, OSError) as error:
        print(f"Nothing was done. {error}", file=sys.stderr)
        return 2
    return 0


def _back_up(folder: Path, to: Path) -> None:
    """Write a backup, of the running database or of one started for it."""
    server, at_ms = PrivateServer(folder), system_now_ms()
    if not server.holds_homes:
        raise DatabaseError(f"There is nothing to back up in {folder}; say where the data is with --data-dir.")
    path = to / backup_name(at_ms) if to.is_dir() else to
    with ExitStack() as held:
        if not server.attach():
            held.enter_context(held_folder(folder))
            server.start()
            held.callback(server.stop)
        engine = open_engine(server.url)
        held.callback(engine.dispose)
        manifest = write_backup(engine, path, at_ms)
    print(f"{path}: {manifest.row_count:,} rows of {len(manifest.members)} tables, read back and as written")


def _restore(source: Path, folder: Path) -> None:
    """Make a data folder beside, fill it, and move it into place when it is whole."""
    if not source.is_file():
        raise DatabaseError(f"There is no backup {source}.")
    if folder.exists() and any(path.name != "lock" for path in folder.iterdir()):
        raise DatabaseError(f"{folder} is not empty; nothing was touched. Choose another with --data-dir.")
    folder.parent.mkdir(parents=True, exist_ok=True)
    making = folder.with_name(f"{folder.name}-restoring-{os.getpid()}")
    server = PrivateServer(making)
    try:
        with held_folder(folder):
            server.start()
            engine = open_engine(server.url)
            manifest = restore_backup(engine, source, print)
            engine.dispose()
            server.stop()
            for path in making.iterdir():
                path.rename(folder / path.name)
    finally:
        server.stop()
        shutil.rmtree(making, ignore_errors=True)
    print(f"{folder} holds all {manifest.row_count:,} rows; start it with --data-dir {folder}")
