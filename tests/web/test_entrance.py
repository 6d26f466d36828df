"""Who may come in: the server's own user, and whoever brings the key of the printed address."""

import os
import stat
import tempfile
import unittest
from http.client import HTTPConnection
from pathlib import Path
from unittest import mock
from urllib.parse import urlsplit

from fastapi.testclient import TestClient

from tests.homes import small_home
from tests.served import fresh_app
from warmeter.cli.served import Served
from warmeter.cli.user import without_root
from warmeter.service.app import Person
from warmeter.service.homes.editing import create_home
from warmeter.web.app import create_app
from warmeter.web.entrance import made_key

KEY = "k" * 32


class Entrance(unittest.TestCase):
    def setUp(self) -> None:
        app = fresh_app()
        create_home(app, small_home(), Person("Ann"))
        self.client = TestClient(create_app(app, KEY), base_url="http://127.0.0.1:8470")

    def test_another_user_is_kept_out_of_everything_but_the_styles_of_the_refusal(self) -> None:
        for path in ("/", "/health", "/homes/home1/survey", "/homes/home1/archive.zip"):
            answer = self.client.get(path)
            self.assertEqual(answer.status_code, 401, path)
            self.assertNotIn("Reed House", answer.text)
        self.assertEqual(self.client.post("/homes/home1/undo", data={"base": "1"}).status_code, 401)
        self.assertEqual(self.client.get("/static/css/frame.css").status_code, 200)
        for given in ("", "k", "²", KEY[:-1], KEY + "k"):
            self.assertEqual(self.client.get("/", params={"key": given}).status_code, 401)

    def test_the_printed_address_lets_a_browser_in_for_good(self) -> None:
        answer = self.client.get("/", params={"key": KEY}, follow_redirects=False)
        self.assertEqual((answer.status_code, answer.headers["location"]), (303, "/"))
        self.assertIn("HttpOnly", answer.headers["set-cookie"])
        self.assertIn("SameSite=strict", answer.headers["set-cookie"])
        self.assertIn("Reed House", self.client.get("/").text)

    def test_the_own_users_browser_is_asked_for_nothing_and_remembered(self) -> None:
        with mock.patch("warmeter.web.entrance.is_own_user", return_value=True) as asked:
            self.assertIn("Reed House", self.client.get("/").text)
            self.client.get("/")
        asked.assert_called_once()

    def test_the_key_is_made_once_and_is_its_owners_alone(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            key = made_key(Path(folder))
            self.assertEqual(made_key(Path(folder)), key)
            self.assertGreater(len(key), 30)
            self.assertEqual(stat.S_IMODE((Path(folder) / "key").stat().st_mode), 0o600)


class Served1(unittest.TestCase):
    def ask_as(self, user: int, address: str) -> int:
        """Return how a page is answered that another user's process asks for; the kernel knows who asks."""
        reading, writing = os.pipe()
        child = os.fork()
        if child == 0:
            os.setuid(user)
            connection = HTTPConnection(urlsplit(address).netloc, timeout=20)
            connection.request("GET", "/")
            os.write(writing, str(connection.getresponse().status).encode())
            os._exit(0)
        os.waitpid(child, 0)
        os.close(writing)
        with os.fdopen(reading) as told:
            return int(told.read())

    @unittest.skipUnless(os.geteuid() == 0, "only root may ask as somebody else")
    def test_the_kernel_tells_one_user_from_another(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            with Served(Path(folder) / "d", "--no-demo") as served:
                self.assertEqual([self.ask_as(user, served.address) for user in (0, 65534)], [200, 401])
            with Served(Path(folder) / "d", "--no-demo", "--open") as served:
                self.assertEqual(self.ask_as(65534, served.address), 200)


class Root(unittest.TestCase):
    def test_root_is_told_what_that_means_and_given_up_where_the_folder_is_anothers(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            data = Path(folder)
            with mock.patch("os.geteuid", return_value=1000):
                self.assertEqual(without_root(data), "")
            owner = mock.Mock(st_uid=0)
            with mock.patch("os.geteuid", return_value=0), mock.patch.object(Path, "stat", return_value=owner):
                self.assertIn("Running as root", without_root(data))
                owner.st_uid = 65534
                with (
                    mock.patch.multiple(os, setgroups=mock.DEFAULT, setgid=mock.DEFAULT, setuid=mock.DEFAULT) as calls,
                    mock.patch.dict(os.environ),
                ):
                    self.assertIn("running as nobody", without_root(data))
                calls["setuid"].assert_called_once_with(65534)


if __name__ == "__main__":
    unittest.main()
