"""The private database server: on loopback only, adopted after a kill, and safe in its folder."""

import os
import shutil
import socket
import stat
import tempfile
import unittest
from pathlib import Path
from unittest import mock

import pymysql

from warmeter.store import server as module
from warmeter.store.server import DatabaseError, PrivateServer, free_port


class Server(unittest.TestCase):
    folder: Path
    server: PrivateServer

    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = Path(tempfile.mkdtemp(prefix="warmeter-server-"))
        cls.server = PrivateServer(cls.folder / "d", is_small=True)
        cls.server.start()

    @classmethod
    def tearDownClass(cls) -> None:
        cls.server.stop()
        shutil.rmtree(cls.folder, ignore_errors=True)

    def connect(self, **changes: object) -> pymysql.Connection:
        password = (self.folder / "d" / "database-password").read_text(encoding="utf-8").strip()
        settings = {
            "host": "127.0.0.1",
            "port": self.server.port,
            "user": "warmeter",
            "password": password,
            "database": "warmeter",
        }
        return pymysql.connect(**{**settings, **changes})

    def test_its_user_may_enter_and_nobody_else(self) -> None:
        self.connect().close()
        for changes in (
            {"password": "wrong"},
            {"user": "root"},
            {"user": "root", "password": ""},
            {"user": "", "password": ""},
            {"database": "mysql"},
        ):
            with self.subTest(changes), self.assertRaises(pymysql.MySQLError):
                self.connect(**changes)

    def test_secrets_are_readable_by_their_owner_only(self) -> None:
        for path in (self.folder / "d" / "database-password", self.server._config, self.server._run):
            self.assertEqual(stat.S_IMODE(path.stat().st_mode) & 0o077, 0, str(path))

    def test_it_listens_on_loopback_only(self) -> None:
        with self.connect() as connection, connection.cursor() as cursor:
            cursor.execute("SELECT @@bind_address, @@local_infile, @@collation_server, @@time_zone")
            self.assertEqual(cursor.fetchone(), ("127.0.0.1", 0, "utf8mb4_bin", "+00:00"))

    def test_a_running_one_is_adopted_not_started_twice(self) -> None:
        again = PrivateServer(self.folder / "d", is_small=True)
        again.start()
        self.assertEqual(again.port, self.server.port)
        self.assertIsNone(again._process)

    def test_the_socket_path_is_short_however_deep_the_folder(self) -> None:
        deep = PrivateServer(self.folder / ("x" * 200) / ("y" * 200))
        self.assertLess(len(str(deep._socket)), 107)
        self.assertNotEqual(deep._socket, self.server._socket)

    def test_free_ports_are_free(self) -> None:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", free_port()))


class Faults(unittest.TestCase):
    def setUp(self) -> None:
        kept = tempfile.TemporaryDirectory(prefix="warmeter-fault-")
        self.addCleanup(kept.cleanup)
        self.folder = Path(kept.name)

    def test_not_installed_names_the_packages(self) -> None:
        with (
            mock.patch.object(module, "MARIADBD", "/nowhere/mariadbd"),
            self.assertRaisesRegex(DatabaseError, "apt-get install"),
        ):
            PrivateServer(self.folder / "d").start()

    def test_an_installation_that_fails_leaves_nothing_half_made(self) -> None:
        with (
            mock.patch.object(module, "INSTALL_DB", "/bin/false"),
            self.assertRaisesRegex(DatabaseError, "could not be made"),
        ):
            PrivateServer(self.folder / "d").start()
        self.assertEqual([p.name for p in (self.folder / "d").glob("database*")], [])

    def test_a_run_folder_of_somebody_else_is_refused(self) -> None:
        server = PrivateServer(self.folder / "d")
        self.addCleanup(shutil.rmtree, server._run, True)
        with (
            mock.patch.object(os, "getuid", return_value=os.getuid() + 1),
            self.assertRaisesRegex(DatabaseError, "another user"),
        ):
            server._make_folders()

    def test_a_stale_pid_of_another_program_is_not_ours(self) -> None:
        server = PrivateServer(self.folder / "d")
        server._run.mkdir(mode=0o700, exist_ok=True)
        self.addCleanup(shutil.rmtree, server._run, True)
        for content in (str(os.getpid()), "999999", "nonsense", ""):
            server._pid_file.write_text(content, encoding="utf-8")
            self.assertIsNone(server.pid(), content)
