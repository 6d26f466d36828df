"""A real broker: kept until acknowledged, each home its own topics, brought back where it was."""

import os
import signal
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from pathlib import Path

from warmeter.links.broker import PrivateBroker
from warmeter.links.link_port import HeardMessage
from warmeter.links.mail import MailServer, NotSent, send_mail
from warmeter.links.mqtt_link import BrokerAddress, MqttLink
from warmeter.links.web_hook import is_web_address, post_hook
from warmeter.service.app import system_now_ms
from warmeter.simulators.mail_server import MailStandIn, mails_in

WAIT_S = 15.0


class RealBroker(unittest.TestCase):
    folder: "tempfile.TemporaryDirectory[str]"
    broker: PrivateBroker

    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = tempfile.TemporaryDirectory(prefix="wm-broker-")
        cls.broker = PrivateBroker(Path(cls.folder.name))
        cls.broker.start()

    @classmethod
    def tearDownClass(cls) -> None:
        cls.broker.stop()
        cls.folder.cleanup()

    def link(self, user: str, name: str, *listens: str) -> MqttLink:
        address = BrokerAddress(host="127.0.0.1", port=self.broker.port, user=user, password=self.broker.password(user))
        link = MqttLink(address, name, listens, system_now_ms)
        link.start()
        self.addCleanup(link.stop)
        self.assertTrue(link.wait_connected(WAIT_S), link.why)
        return link

    def heard(self, link: MqttLink, count: int) -> list[HeardMessage]:
        """Return messages until so many came, or for as long as one is waited for."""
        found: list[HeardMessage] = []
        end = time.monotonic() + WAIT_S
        while len(found) < count and time.monotonic() < end:
            found += link.heard(0.2)
        return found

    def test_what_is_not_acknowledged_is_sent_again_to_whoever_comes_next(self) -> None:
        device = self.link("home-a", "device-a", "homes/home-a/none")
        first = self.link("warmeter", "keeper", "homes/home-a/#")
        for k in range(5):
            device.publish("homes/home-a/den/t", str(k))
        found = self.heard(first, 5)
        self.assertEqual([m.payload for m in found], [b"0", b"1", b"2", b"3", b"4"])
        first.acknowledge(found[:3])
        # As its own message comes back, what it acknowledged before has come to the broker.
        first.publish("homes/home-a/den/t", "last")
        self.heard(first, 1)
        first.stop()
        again = self.link("warmeter", "keeper", "homes/home-a/#")
        rest = self.heard(again, 3)
        self.assertEqual([(m.payload, m.is_again) for m in rest], [(b"3", True), (b"4", True), (b"last", True)])
        again.acknowledge(rest)

    def test_a_home_reaches_its_own_topics_only(self) -> None:
        everything = self.link("warmeter", "ear", "homes/#")
        device = self.link("home-b", "device-b", "homes/#")
        device.publish("homes/home-c/den/t", "20")
        device.publish("homes/home-b/den/t", "21")
        self.assertEqual([(m.topic, m.payload) for m in self.heard(everything, 1)], [("homes/home-b/den/t", b"21")])
        everything.publish("homes/home-c/x", "1")
        everything.publish("homes/home-b/y", "2")
        topics = [m.topic for m in self.heard(device, 2)]
        self.assertNotIn("homes/home-c/x", topics)

    def test_after_a_kill_it_answers_where_it_was_and_links_come_back(self) -> None:
        link = self.link("warmeter", "patient", "homes/home-d/#")
        device = self.link("home-d", "device-d")
        port = self.broker.port
        pid = self.broker.pid()
        assert pid is not None
        os.kill(pid, signal.SIGKILL)
        end = time.monotonic() + WAIT_S
        while self.broker.is_running and time.monotonic() < end:
            time.sleep(0.01)
        self.broker.start()
        self.assertEqual(self.broker.port, port)
        while not (link.is_connected and device.is_connected) and time.monotonic() < end + WAIT_S:
            time.sleep(0.01)
        device.publish("homes/home-d/t", "7")
        self.assertEqual([m.payload for m in self.heard(link, 1)], [b"7"])

    def test_one_that_another_process_has_just_started_is_adopted_once_it_tells_its_number(self) -> None:
        told = self.broker.folder / "mosquitto.pid"
        number, port = told.read_text(), self.broker.port
        told.unlink()
        later = threading.Timer(0.5, told.write_text, [number])
        later.start()
        self.addCleanup(later.join)
        other = PrivateBroker(Path(self.folder.name))
        other.start()
        self.assertEqual((other.port, other.pid()), (port, int(number)))

    def test_when_the_program_dies_the_broker_says_so_for_it(self) -> None:
        topic = "homes/home-f/warmeter/is_reachable"
        self.broker.password("home-f")
        watcher = self.link("home-f", "watcher", topic)
        program = (
            "import sys, threading\n"
            "from warmeter.links.mqtt_link import BrokerAddress, MqttLink\n"
            "address = BrokerAddress(host='127.0.0.1', port=int(sys.argv[1]), user='warmeter', password=sys.argv[2])\n"
            "link = MqttLink(address, 'mortal', (), lambda: 0, sys.argv[3])\n"
            "link.start()\n"
            "threading.Event().wait()\n"
        )
        words = [str(self.broker.port), self.broker.password("warmeter"), topic]
        mortal = subprocess.Popen([sys.executable, "-c", program, *words])
        self.addCleanup(mortal.wait)
        self.addCleanup(mortal.kill)
        self.assertEqual([m.payload for m in self.heard(watcher, 1)], [b"there"])
        mortal.kill()
        self.assertEqual([m.payload for m in self.heard(watcher, 1)], [b"gone"])

    def test_its_files_are_its_owners_and_hold_digests(self) -> None:
        self.broker.password("home-e")
        for path in self.broker.folder.iterdir():
            if path.name.startswith(("password", "topics")):
                self.assertEqual(path.stat().st_mode & 0o077, 0, path.name)
        words = (self.broker.folder / "passwords").read_text()
        self.assertNotIn(self.broker.password("home-e"), words)


class Channels(unittest.TestCase):
    def test_mail_reaches_the_stand_in_and_a_server_that_is_down_is_told(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            server = MailStandIn(Path(folder))
            server.start()
            place = MailServer(host="127.0.0.1", port=server.port)
            send_mail(place, "ada@home.invalid", "Leak\nin the laundry", "Water at the washer: ä", is_urgent=True)
            server.stop()
            ((to, subject, text),) = mails_in(Path(folder))
            self.assertEqual((to, subject), ("ada@home.invalid", "Leak in the laundry"))
            self.assertIn("Water at the washer: ä", text)
            with self.assertRaises(NotSent):
                send_mail(place, "ada@home.invalid", "x", "y")

    def test_hooks_go_to_the_web_only(self) -> None:
        for address in ("file:///etc/passwd", "ftp://a", "http://", "", "http://[", "http://a:99999/"):
            with self.subTest(address):
                self.assertFalse(is_web_address(address))
        with self.assertRaises(NotSent):
            post_hook("http://127.0.0.1:9/", {"text": "x"})
