"""A home's runner: one writer by a lease; what comes in, what rules do, what is sent, who is told."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from warmeter.core.live.asked_now import AskedValue, ZoneAsked, by_switches, devices_asked, setpoints_asked, zone_asked
from warmeter.core.live.cooling_now import with_cooling
from warmeter.core.live.device_health import HeardDevice
from warmeter.core.live.home_clock import HomeClock
from warmeter.core.live.on_off_control import SwitchedState
from warmeter.core.live.planned_now import LATE_START_MS, can_start, planned_starts, with_plan
from warmeter.core.live.silence import LINK_DOWN_MS
from warmeter.core.rule.run import Firing
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN, MS_PER_S, to_stored
from warmeter.links.link_port import HeardMessage, LinkPort, Publish
from warmeter.service.app import App
from warmeter.service.live import commanding
from warmeter.service.live.alerting import Alerting, end_alerts
from warmeter.service.live.delivery import Delivery
from warmeter.service.live.hourly_work import HourlyWork
from warmeter.service.live.intake import LiveIntake, kept_topic
from warmeter.service.live.latest_values import LatestValues, latest_values
from warmeter.service.live.live_now import heard_devices
from warmeter.service.live.rules_now import REMEMBERED_MS, RulesNow, followed_from, look_at_rules
from warmeter.service.live.shown import ConfirmingSeries, confirming_series, confirming_subjects
from warmeter.service.live.telling import tell_due
from warmeter.service.live.turned_by_hand import TurnedSetpoints
from warmeter.service.presence.told_presence import tell_presence
from warmeter.service.rules.rule_signals import asked_presence
from warmeter.service.timetable.manual_overrides import changes_of, claims_by_hand
from warmeter.store.live_commands import KeptCommand, KeptFiring
from warmeter.store.live_homes import KeptTopic
from warmeter.store.memo import remembering

LEASE_MS = 10 * MS_PER_S
SEAL_EVERY_MS = 5 * MS_PER_MIN  # of the machine's clock
SEALED_AT_ONCE = 12  # series
TRAFFIC_EVERY_MS, TRAFFIC_MS_A_TOPIC = 2 * MS_PER_S, 10  # so often, and so much later for each, traffic is kept
HEARD_BACK_MS = 3 * MS_PER_MIN
HELD_BACK_MS = 10 * MS_PER_MIN  # so long, by the machine's clock, it is still known when a reading was heard
FORGOTTEN_DAYS = 14
LEAST_RUNNING_W = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Looked:
    """What one look came to."""

    zones: tuple[ZoneAsked, ...]
    asked: tuple[AskedValue, ...]


class HomeRunner:
    """Looks after one home that is linked live, as long as it holds the lease.

    Parameters
    ----------
    app : App
        The application; its clock is the machine's.
    home_id : str
        The home.
    link : LinkPort or None
        Where its messages come from and its commands go; None listens to what others keep (HTTP).
    delivery : callable
        Makes what alerts are told by, from how messages are published.
    """

    def __init__(self, app: App, home_id: str, link: LinkPort | None, delivery: Callable[[Publish], Delivery]) -> None:
        self._app, self.home_id, self._link = app, home_id, link
        home, self._revision = app.homes.load(home_id)
        live = app.live_homes.find(home_id)
        self.clock = HomeClock() if live is None else live.clock
        self.home = home
        self._since_ms = 0 if live is None else live.since_ms
        self._followed = followed_from((live.told if live else {}).get("rules", {}))
        self.intake = LiveIntake(app, home, self.clock)
        self._alerting = Alerting(app, home_id)
        self._delivery = delivery(self._publish)
        self._confirming: ConfirmingSeries | None = None
        self._sealed_ms, self._unsealed, self._traffic_ms = app.now_ms(), list[int](), 0
        self._waiting: list[HeardMessage] = []
        self._connected_ms = app.now_ms()
        self._heard_before = {topic.topic: topic for topic in app.live_homes.topics(home_id)}
        self.hourly = HourlyWork()
        self._presence_told: tuple[int, ...] = ()
        self._turned = TurnedSetpoints()
        commanding.taken_up(app, home)

    def _publish(self, topic: str, payload: str, *, is_once: bool = False) -> bool:
        return self._link is not None and self._link.publish(topic, payload, is_once=is_once)

    @property
    def local(self) -> LocalClock:
        """The home's own clock on the wall."""
        return self._app.clock(self.home)

    def take_in(self, wait_s: float) -> int:
        """Take in what was heard, waiting so long for the first; return how many messages."""
        if self._link is None:
            return 0
        if not self._waiting:
            self._waiting = self._link.heard(wait_s)
        # What could not be kept, because the database was away, is taken again; it is not acknowledged before.
        messages = self._waiting
        if messages:
            self.intake.take(messages)
            self._link.acknowledge(messages)
            self._waiting = []
        return len(messages)

    def look(self) -> Looked:
        """Look once: at edits, rules, commands, alerts; keep what others need to know."""
        with remembering():
            return self._look()

    def _look(self) -> Looked:
        app = self._app
        real_ms = app.now_ms()
        self._take_edits()
        home, now_ms = self.home, self.clock.home_at(real_ms)
        if not self._since_ms:
            self._since_ms = now_ms
            app.live_homes.set_since(home.id, now_ms)
        self._followed.follow(home.rules, now_ms)
        self._alerting.know(app.live_alerts.open(home.id))
        looked, ends = Looked(zones=(), asked=()), dict[tuple[str, int], int | None]()
        if home.link.mode != "off":
            looked, ends = self._decide(real_ms, now_ms)
        self._carry_on(real_ms, now_ms)
        devices = heard_devices(self.intake.chooser, self._topics(), now_ms)
        ends |= self._alerting.of_tests(home, self.local, self._since_ms, now_ms)
        ends |= self._alerting.of_silence(home, devices, self._link_down(real_ms), now_ms)
        end_alerts(app, app.live_alerts.open(home.id), ends, now_ms)
        for alert in app.live_alerts.open(home.id):
            tell_due(app, home, alert, now_ms, self._delivery)
        if real_ms - self._traffic_ms >= max(TRAFFIC_EVERY_MS, TRAFFIC_MS_A_TOPIC * len(self.intake.traffic.topics)):
            self._traffic_ms = real_ms
            self.intake.keep_traffic()
        self._seal(real_ms, now_ms)
        app.live_homes.looked(home.id, real_ms, now_ms, self._told(devices))
        return looked

    def _decide(self, real_ms: int, now_ms: int) -> tuple[Looked, dict[tuple[str, int], int | None]]:
        """Let rules fire, and write down what is asked; return it, and until when what rules and the plan tell lasts."""
        app, home = self._app, self.home
        self._tell_presence(now_ms)
        now = look_at_rules(app, home, self._followed, self._since_ms, now_ms)
        self._keep_firings(now, now_ms)
        self.hourly.renew(app, home, self._revision, now_ms)
        newest, values = app.live_commands.newest(home.id), latest_values(app, home)
        is_sent = home.link.mode == "send"
        anew = self._turned.keep(app, home, self._revision, newest, values, real_ms) if is_sent else frozenset()
        rooms_c = {h.id: values.fresh("room_temperature", h.room_id, now_ms) for h in home.heaters}
        witnesses = self._witnesses(values, now_ms)
        running = self._running(witnesses, values, now_ms)
        starts = planned_starts(home, self.local, now_ms - LATE_START_MS, now_ms + 1)
        zones, asked = self._asked(now, now_ms)
        asked = with_plan(asked, home, starts, self.local, running, now_ms)
        last_ms = {key: command.at_ms for key, command in newest.items()}
        asked = with_cooling(home, asked, zones, self.local, now_ms, rooms_c, last_ms)
        asked = by_switches(home, asked, rooms_c, _switched(newest), now_ms)
        kept = app.live_commands.firings(home.id, now_ms - REMEMBERED_MS)
        asked += commanding.released(home, asked, newest, kept)
        known = commanding.Known(newest=newest, anew=anew, rooms_c=rooms_c, witnesses=witnesses)
        commanding.ask(app, home, asked, known, now_ms=real_ms, home_ms=now_ms, is_sent=is_sent)
        ends = self._alerting.of_rules(home, now.runs, now.found, now_ms)
        by_hand = [s for s in starts if s.appliance_id not in running and not (is_sent and can_start(home, s))]
        ends |= self._alerting.of_plan(home, by_hand, self.local, now_ms)
        return Looked(zones=zones, asked=tuple(asked)), ends

    def _take_edits(self) -> None:
        """Go on with the home as it was edited, and with its clock."""
        live = self._app.live_homes.find(self.home_id)
        if live is not None:
            self.clock = live.clock
        stamp = self._app.homes.stamp(self.home_id)
        if stamp is not None and stamp.revision != self._revision:
            self.home, self._revision = self._app.homes.load(self.home_id)
            self._confirming = None
        self.intake.take_home(self.home, self.clock)
        if self.intake.counts.new_series:
            self.intake.counts.new_series.clear()
            self._confirming = None

    def _tell_presence(self, now_ms: int) -> None:
        """Write down who is in, where rules ask for it, once a minute and whenever something bears witness to it."""
        app, home = self._app, self.home
        key = self._revision, now_ms // MS_PER_MIN, self.intake.counts.of_people
        if key == self._presence_told:
            return
        self._presence_told = key
        subjects = asked_presence(
            app, home, {signal for rule in home.rules for c in rule.conditions for signal in c.signals}
        )
        if subjects:
            tell_presence(app, home, subjects, self._revision, now_ms)

    def _keep_firings(self, now: RulesNow, now_ms: int) -> None:
        """Write down what rules newly did and what ended, before anything is done for it."""
        for rule, firing in now.new:
            targets = commanding.switched_targets(rule)
            self._app.live_commands.keep_firing(
                self.home.id,
                KeptFiring(
                    rule_id=rule.id,
                    at_ms=firing.at_ms,
                    end_ms=firing.end_ms,
                    why=firing.why,
                    seen_ms=now_ms,
                    found=self._found(targets, firing),
                    targets=targets,
                ),
            )
        for ended in now.ended:
            self._app.live_commands.keep_firing(self.home.id, ended)

    def _found(self, target_ids: tuple[str, ...], firing: Firing) -> dict[str, float]:
        """Return the states in which a firing found what it switches, of those that were heard before it."""
        found: dict[str, float] = {}
        for mapping in self.home.command_mappings:
            if mapping.target_id not in target_ids or mapping.does in ("setpoint", "cooling"):
                continue
            for series in self.confirming.series.get(mapping.id, ()):
                before = self._app.readings.readings(series.id, firing.at_ms - MS_PER_DAY, firing.at_ms)
                if before.value.size:
                    record = series.record
                    value = to_stored(float(before.value[-1]), quantity=record.quantity, unit=record.unit)
                    limit = 0.5 if mapping.witness_from is None else mapping.witness_from
                    share = value / 100 if mapping.does == "share" else float(value >= limit)
                    found[mapping.target_id] = share
        return found

    @property
    def confirming(self) -> ConfirmingSeries:
        """Which series confirm each command."""
        if self._confirming is None:
            self._confirming = confirming_series(self._app, self.home)
        return self._confirming

    def _asked(self, now: RulesNow, now_ms: int) -> tuple[tuple[ZoneAsked, ...], list[AskedValue]]:
        home, clock = self.home, self.local
        changes = [change for _, change in changes_of(self._app, home.id)]
        zones = tuple(
            zone_asked(
                home,
                zone,
                clock,
                now_ms,
                now.runs,
                claims_by_hand(changes, zone, now_ms, now_ms + MS_PER_DAY),
                self.hourly.of(zone.id),
            )
            for zone in home.zones
            if home.following(zone)
        )
        return zones, [*setpoints_asked(home, zones), *devices_asked(home.rules, now.runs, now_ms)]

    def _carry_on(self, real_ms: int, now_ms: int) -> None:
        if self.home.link.mode != "send":
            return
        shown = self._app.live_readings.heard_since(self.confirming.ids, real_ms - HEARD_BACK_MS)
        lost = commanding.carry_on(self._app, self.home, self.confirming, shown, self._publish, real_ms)
        self._alerting.of_lost(self.home, lost, now_ms)

    def _witnesses(self, values: LatestValues, now_ms: int) -> dict[str, float]:
        """Return what the witness of each command shows now, of those that are heard."""
        found: dict[str, float] = {}
        for mapping in self.home.command_mappings:
            if mapping.witness_from is None:
                continue
            for subject in confirming_subjects(self.home, mapping):
                value = values.fresh(mapping.confirm_quantity, subject, now_ms)
                if value is not None:
                    found[mapping.id] = value
        return found

    def _link_down(self, real_ms: int) -> str:
        """Return why the link has been down for a minute, "" while it is not."""
        if self._link is None or self._link.is_connected:
            self._connected_ms = real_ms
            return ""
        return self._link.why if real_ms - self._connected_ms >= LINK_DOWN_MS else ""

    def _running(self, witnesses: Mapping[str, float], values: LatestValues, now_ms: int) -> frozenset[str]:
        """Return the targets that run already, as a witness shows, or an appliance's power above its finish setting."""
        found = {
            m.target_id
            for m in self.home.command_mappings
            if m.witness_from is not None and witnesses.get(m.id, 0.0) >= m.witness_from > 0
        }
        for appliance in self.home.appliances:
            setting = appliance.setting("finished")
            power_w = values.fresh("electric_w", appliance.id, now_ms)
            if setting is not None and power_w is not None and power_w >= max(setting.threshold_w, LEAST_RUNNING_W):
                found.add(appliance.id)
        return frozenset(found)

    def _topics(self) -> list[KeptTopic]:
        """Return what was heard under each topic, before the program was started too: a restart makes nothing fresh."""
        heard = {each.topic: kept_topic(each) for each in self.intake.traffic.topics.values()}
        return list((self._heard_before | heard).values())

    def _seal(self, real_ms: int, now_ms: int) -> None:
        until_ms = self.clock.home_at(real_ms - HELD_BACK_MS)
        if real_ms - self._sealed_ms >= SEAL_EVERY_MS:
            self._sealed_ms = real_ms
            self._unsealed = self._app.live_readings.waiting(self.home.id, until_ms)
            self._app.live_homes.forget_topics(self.home.id, now_ms - FORGOTTEN_DAYS * MS_PER_DAY)
        if self._unsealed:
            # A few at each look, so that what comes in meanwhile does not wait.
            part, self._unsealed = self._unsealed[:SEALED_AT_ONCE], self._unsealed[SEALED_AT_ONCE:]
            self._app.live_readings.seal(self.home.id, until_ms, real_ms, part)

    def _told(self, devices: Sequence[HeardDevice]) -> dict[str, Any]:
        """Return what the writer says of itself."""
        link, counts = self._link, self.intake.counts
        return {
            "is_connected": link is not None and link.is_connected,
            "why": "" if link is None else link.why,
            "dropped": 0 if link is None else link.dropped,
            "messages": counts.messages,
            "kept": counts.kept,
            "known": counts.known,
            "refused": counts.refused,
            "other_homes": counts.other_homes,
            "late": counts.late,
            "unknown": counts.unknown,
            "topics": len(self.intake.traffic.topics),
            "heard": sum(not device.is_quiet for device in devices),
            "devices": len(devices),
            "rules": self._followed.told(),
            "warm_ups": self.hourly.told(),
            "expected": self.hourly.expected_told(),
            "sensors": self.hourly.sensors,
            "no_leads": self.hourly.why,
        }


def _switched(newest: Mapping[tuple[str, str], KeptCommand]) -> dict[str, SwitchedState]:
    """Return how targets were switched last, and when by the home's clock."""
    return {
        target_id: SwitchedState(is_on=command.run.value > 0, since_ms=command.at_ms)
        for (target_id, does), command in newest.items()
        if does == "switch"
    }
