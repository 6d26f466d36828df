"""A home played within one process, its clock turned by hand: for agreement of live days with their replays."""

from dataclasses import dataclass, replace

from warmeter.core.home.document import Home
from warmeter.core.live.home_clock import HomeClock
from warmeter.core.rule.ruleset import rule_runs_of
from warmeter.core.rule.run import Firing
from warmeter.core.units import MS_PER_S
from warmeter.links.link_port import DirectLink, HeardMessage, Publish
from warmeter.links.mail import MailServer
from warmeter.service.app import App
from warmeter.service.live.delivery import Delivery, Senders
from warmeter.service.live.runner import HomeRunner, Looked
from warmeter.service.rules.rule_signals import scope_of
from warmeter.simulators.device_clocks import DeviceClocks
from warmeter.simulators.live_devices import LiveDevices
from warmeter.simulators.live_house import LiveHouse


@dataclass(slots=True)
class HandClock:
    """A clock that is turned by hand [ms UTC]."""

    now_ms: int

    def __call__(self) -> int:
        """Return what it shows."""
        return self.now_ms


class PlayedHome:
    """A home with its devices, its link and its runner; time goes on only when it is told to.

    Parameters
    ----------
    app : App
        Whose clock is replaced by the home's own.
    home : Home
        Linked, and kept in the database.
    start_ms : int
        When it begins [ms UTC].
    seed : int
        Of the house and its devices.
    mail : MailServer or None
        Where alerts are mailed.
    senders : Senders or None
        Who mails them; None: at once.
    """

    def __init__(
        self,
        app: App,
        home: Home,
        start_ms: int,
        seed: int = 1,
        mail: MailServer | None = None,
        senders: Senders | None = None,
    ) -> None:
        self.clock = HandClock(start_ms)
        self.app = replace(app, now_ms=self.clock)
        self.home_id, self.start_ms = home.id, start_ms
        self._mail, self._senders = mail, senders
        self.house = LiveHouse(home, start_ms, seed)
        self.devices = LiveDevices(self.house, seed)
        self.link = DirectLink()
        self.clocks: DeviceClocks | None = None
        self._sent = 0
        # Commands are confirmed by the machine's clock: here it is the home's.
        self.app.live_homes.set_clock(home.id, HomeClock(real_ms=start_ms, home_ms=start_ms))
        self.runner = self._runner()
        # Rules are followed from here on.
        self.runner.look()

    def _runner(self) -> HomeRunner:
        runner = HomeRunner(self.app, self.home_id, self.link, self._delivery)
        runner.hourly.is_at_once = True
        return runner

    def _delivery(self, publish: Publish) -> Delivery:
        return Delivery(
            mail=self._mail, publish=publish, page_url="http://127.0.0.1/", now_ms=self.clock, senders=self._senders
        )

    def restart(self) -> None:
        """Let the runner die without a word, and another take its place."""
        self.runner = self._runner()

    def say(self, topic: str, payload: str, *, is_again: bool = False, message_id: int = 0) -> None:
        """Let something be heard at the present instant."""
        self.link.waiting.append(
            HeardMessage(
                topic=topic,
                payload=payload.encode(),
                heard_ms=self.clock.now_ms,
                message_id=message_id,
                is_again=is_again,
            )
        )

    def play(self, seconds: float, step_s: float = 30.0) -> None:
        """Let devices speak and obey for some time; nobody looks meanwhile."""
        end = self.clock.now_ms + round(seconds * MS_PER_S)
        for topic, payload in self.link.published[self._sent :]:
            self.devices.hear(topic, payload, self.clock.now_ms)
        self._sent = len(self.link.published)
        while self.clock.now_ms < end:
            self.clock.now_ms = min(self.clock.now_ms + round(step_s * MS_PER_S), end)
            spoken = self.devices.advance(self.clock.now_ms)
            if self.clocks is not None:
                spoken = self.clocks.heard(spoken, self.clock.now_ms)
            for sent in spoken:
                self.say(sent.topic, sent.payload)

    def look(self) -> Looked:
        """Take in what was said, and look once."""
        while self.runner.take_in(0.0):
            pass
        return self.runner.look()

    def live(self, seconds: float, look_s: float = 60.0) -> None:
        """Let time go on with a look every so often."""
        left = seconds
        while left > 0:
            part = min(look_s, left)
            self.play(part)
            self.look()
            left -= part

    def fired_live(self) -> dict[str, list[Firing]]:
        """Return what was written down of each rule, in order."""
        found: dict[str, list[Firing]] = {}
        for each in self.app.live_commands.firings(self.home_id, 0):
            found.setdefault(each.rule_id, []).append(Firing(each.at_ms, each.end_ms, each.why))
        return found

    def fired_replayed(self) -> dict[str, list[Firing]]:
        """Return what the replay of the log says of each rule, over the same stretch."""
        home, _ = self.app.homes.load(self.home_id)
        conditions = [c for rule in home.rules for c in rule.conditions]
        scope = scope_of(self.app, home, conditions, self.start_ms, self.clock.now_ms + 1)
        found = rule_runs_of(home.rules, scope, home.notification_groups)
        return {rule_id: list(run.firings) for rule_id, run in found.rule_runs.items() if run.firings}
