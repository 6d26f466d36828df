"""Messages delivered beside the one who looks after homes: what hangs holds up nothing else."""

import socket
import threading
import unittest
from dataclasses import replace

from tests.served import fresh_app
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.rules import Channel, NotificationGroup, Rule, Tell
from warmeter.core.timegrid import parse_utc
from warmeter.links.mail import MailServer
from warmeter.service.app import Person
from warmeter.service.homes.demo import demo_home
from warmeter.service.homes.editing import create_home
from warmeter.service.live.delivery import Senders
from warmeter.service.live.played_home import PlayedHome
from warmeter.service.live.setting_up import linked

NOON = parse_utc("2026-01-20T12:00:00Z")
WAIT_S = 20.0


def wait_for(sign: threading.Event) -> None:
    """Hang until a sign is given."""
    sign.wait(WAIT_S)


class DeliveryBeside(unittest.TestCase):
    def test_an_alarm_waits_behind_no_message_that_hangs(self) -> None:
        senders, free, told = Senders(), threading.Event(), threading.Event()
        self.addCleanup(free.set)
        for number in range(40):
            senders.deliver(number, lambda: wait_for(free), is_loud=False)
        senders.deliver("leak", told.set, is_loud=True)
        self.assertTrue(told.wait(WAIT_S))
        self.assertFalse(free.is_set())

    def test_what_is_under_way_is_not_begun_a_second_time(self) -> None:
        senders, free, over = Senders(), threading.Event(), threading.Event()
        begun: list[str] = []

        def send() -> None:
            begun.append("first")
            wait_for(free)

        senders.deliver("a", send, is_loud=True)
        senders.deliver("a", lambda: begun.append("second"), is_loud=True)
        free.set()
        senders.deliver("b", over.set, is_loud=True)
        self.assertTrue(over.wait(WAIT_S))
        self.assertEqual(begun, ["first"])

    def test_a_mail_server_that_says_nothing_does_not_hold_up_the_home(self) -> None:
        with socket.create_server(("127.0.0.1", 0)) as silent:
            base = demo_home("weir-cottage")
            wet = InState(of=Signal(quantity="is_wet", subject_id="wc-leak"))
            home = replace(
                base,
                link=replace(base.link, mode="say"),
                notification_groups=(
                    NotificationGroup(id="all", name="All", channels=(Channel(id="m", name="Mail", kind="mail"),)),
                ),
                rules=(Rule(id="wet", name="Water", kind="safety", watch=((wet,),), then=(Tell(group_id="all"),)),),
            )
            app, senders = fresh_app(), Senders()
            create_home(app, linked(home), Person("Ada"), "made")
            app.live_homes.set_address(home.id, "m", "ada@home.invalid")
            mail = MailServer(host="127.0.0.1", port=silent.getsockname()[1])
            at = PlayedHome(app, linked(home), NOON, 3, mail, senders)
            at.live(5 * 60)
            at.devices.faults["wet"].add("wc-leak")
            at.live(5 * 60)
            (alert,) = app.live_alerts.open(home.id)
            self.assertEqual(
                {(t.channel_id, t.state) for t in app.live_alerts.tellings([alert.id])},
                {("page", "trying"), ("m", "trying")},
            )
        senders.close()
        told = {t.channel_id: t for t in app.live_alerts.tellings([alert.id])}
        self.assertEqual((told["m"].state, told["page"].state), ("down", "told"))
        self.assertIn("did not take it", told["m"].why)
