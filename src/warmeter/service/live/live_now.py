"""What a live page shows of a home: its zones, what was decided and why, what comes next, who waits for an answer."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from warmeter.core.building.checks.zoning import can_cool
from warmeter.core.claims.arbiter import Decision
from warmeter.core.home.document import Home
from warmeter.core.home.zones import Zone
from warmeter.core.link.mapping_choice import MappingChooser
from warmeter.core.live.alerts import AlertRun
from warmeter.core.live.asked_now import ZoneAsked, zone_asked
from warmeter.core.live.device_health import BatteryEnd, HeardDevice
from warmeter.core.readings.record import USUAL_HOLD_S
from warmeter.core.rule.actions import zone_claims
from warmeter.core.rule.run import Firing, RuleRun
from warmeter.core.timetable.day import Block, block_claim, blocks_between, setpoint_decisions
from warmeter.core.units import MS_PER_DAY, MS_PER_H, MS_PER_S
from warmeter.service.app import App
from warmeter.service.live.batteries import battery_ends
from warmeter.service.live.hourly_work import warm_ups_told
from warmeter.service.live.intake import PREFIX
from warmeter.service.live.latest_values import LatestValues, latest_values
from warmeter.service.live.rules_now import REMEMBERED_MS
from warmeter.service.live.run_now import RunNow, runs_now
from warmeter.service.live.telling import run_of
from warmeter.service.timetable.manual_overrides import changes_of, claims_by_hand
from warmeter.store.live_alerts import KeptAlert
from warmeter.store.live_commands import KeptCommand, KeptFiring
from warmeter.store.live_homes import KeptTopic, LiveHome

AHEAD_MS = 12 * MS_PER_H
SILENT_LOOK_MS = 15 * MS_PER_S  # the writer looks twice a second; one that has not for so long is not there


@dataclass(frozen=True, slots=True, kw_only=True)
class AlertNow:
    """An open alert with what becomes of it."""

    alert: KeptAlert
    run: AlertRun


@dataclass(frozen=True, slots=True, kw_only=True)
class ZoneLive:
    """A zone's decisions over a stretch, what decides now, and the blocks in which something in it may cool."""

    zone: Zone
    decisions: tuple[Decision, ...]
    asked: ZoneAsked
    cooled: tuple[Block, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class LiveNow:
    """A home as it is now.

    Parameters
    ----------
    live : LiveHome
        Its clock, who writes to it, what the link says.
    now_ms : int
        Now [ms, home].
    is_looked_after : bool
        Whether a writer looked lately.
    runs : mapping of str to RuleRun
        What rules did, as it was written down.
    """

    home: Home
    live: LiveHome
    now_ms: int
    is_looked_after: bool
    runs: Mapping[str, RuleRun]
    firings: tuple[KeptFiring, ...]
    zones: tuple[ZoneLive, ...]
    values: LatestValues
    alerts: tuple[AlertNow, ...]
    commands: tuple[KeptCommand, ...]
    topics: tuple[KeptTopic, ...]
    devices: tuple[HeardDevice, ...]
    batteries: Mapping[str, BatteryEnd]
    machines: tuple[RunNow, ...]

    @property
    def heard(self) -> int:
        """How many devices are heard in their rhythm."""
        return sum(not device.is_quiet for device in self.devices)

    @property
    def newest(self) -> dict[tuple[str, str], KeptCommand]:
        """The newest of the last commands of each target and what it does."""
        return {(each.run.target_id, each.does): each for each in reversed(self.commands)}


def home_now_ms(app: App, home_id: str) -> int:
    """Return what a home's clock shows [ms UTC]: its own if it is linked live, else what counts as now for it."""
    live = app.live_homes.find(home_id)
    return app.as_of_ms(home_id) if live is None else live.clock.home_at(app.now_ms())


def live_now(app: App, home: Home, back_ms: int) -> LiveNow | None:
    """Return a home as it is now, with what was decided over the last ``back_ms``; None if it was never linked."""
    live = app.live_homes.find(home.id)
    if live is None:
        return None
    real_ms = app.now_ms()
    # What was not looked at yet is not drawn as known.
    now_ms = live.looked_home_ms or live.clock.home_at(real_ms)
    firings = app.live_commands.firings(home.id, now_ms - REMEMBERED_MS)
    runs = runs_written_down(firings)
    alerts = app.live_alerts.open(home.id)
    topics = app.live_homes.topics(home.id)
    return LiveNow(
        home=home,
        live=live,
        now_ms=now_ms,
        is_looked_after=real_ms - live.looked_ms < SILENT_LOOK_MS,
        runs=runs,
        firings=tuple(firings),
        zones=_zones(app, home, live, runs, now_ms - back_ms, now_ms),
        values=latest_values(app, home),
        alerts=tuple(AlertNow(alert=alert, run=run_of(app, home, alert, now_ms, AHEAD_MS)) for alert in alerts),
        commands=tuple(app.live_commands.last(home.id, 400)),
        topics=tuple(topics),
        devices=heard_devices(MappingChooser(home), topics, now_ms),
        batteries=battery_ends(app, home, now_ms),
        machines=runs_now(app, home, now_ms),
    )


def runs_written_down(firings: Sequence[KeptFiring]) -> dict[str, RuleRun]:
    """Return what rules did as lives, from what was written down."""
    found: dict[str, list[Firing]] = {}
    for each in firings:
        found.setdefault(each.rule_id, []).append(Firing(each.at_ms, each.end_ms, each.why))
    return {rule_id: RuleRun(firings=tuple(row)) for rule_id, row in found.items()}


def _zones(
    app: App, home: Home, live: LiveHome, runs: Mapping[str, RuleRun], start_ms: int, now_ms: int
) -> tuple[ZoneLive, ...]:
    clock, end_ms = app.clock(home), now_ms + AHEAD_MS
    changes = [change for _, change in changes_of(app, home.id)]
    found = []
    for zone in home.zones:
        by_hand = claims_by_hand(changes, zone, start_ms, now_ms + MS_PER_DAY)
        warm_ups = warm_ups_told(live.told.get("warm_ups", {}), zone.id)
        blocks = blocks_between(home, zone, clock, start_ms, end_ms)
        cooled = tuple(block for block in blocks if block.cooling_c is not None) if can_cool(home, zone) else ()
        claims = [*map(block_claim, blocks), *warm_ups, *by_hand]
        for rule in home.rules:
            if rule.id in runs:
                claims += zone_claims(home, zone, rule, runs[rule.id], clock, end_ms=end_ms)
        decided = setpoint_decisions(home, zone, claims, start_ms, end_ms)
        asked = zone_asked(home, zone, clock, now_ms, runs, by_hand, warm_ups)
        found.append(ZoneLive(zone=zone, decisions=tuple(decided), asked=asked, cooled=cooled))
    return tuple(found)


def heard_devices(chooser: MappingChooser, topics: Sequence[KeptTopic], now_ms: int) -> tuple[HeardDevice, ...]:
    """Return when each part of a home was last heard, from what was heard under the topics that are mapped to it."""
    last: dict[str, int] = {}
    rhythm: dict[str, float] = {}
    hold: dict[str, int] = {}
    for topic in topics:
        for mapping, subject in chooser.of(topic.topic):
            if not subject:
                continue
            last[subject] = max(last.get(subject, 0), topic.last_ms)
            hold[subject] = min(hold.get(subject, USUAL_HOLD_S["held"]), USUAL_HOLD_S[mapping.kind])
            known = float(mapping.rhythm_s) or topic.detail.get("rhythm_s")
            if known:
                rhythm[subject] = min(rhythm.get(subject, known), known)
    return tuple(
        HeardDevice(device_id=key, last_ms=at, rhythm_s=rhythm.get(key), now_ms=now_ms, hold_s=hold[key])
        for key, at in last.items()
    )


def unknown_topics(home: Home, topics: Sequence[KeptTopic]) -> tuple[KeptTopic, ...]:
    """Return topics that no mapping takes: senders that are not known, the last heard first."""
    found = [t for t in topics if not t.detail.get("is_mapped") and not _is_command(home, t.topic)]
    return tuple(sorted(found, key=lambda topic: topic.last_ms, reverse=True))


def _is_command(home: Home, topic: str) -> bool:
    words = topic.split("/")
    is_usual = len(words) == 5 and words[0] == PREFIX and words[3] == "do"
    return is_usual or any(mapping.topic == topic for mapping in home.command_mappings)
