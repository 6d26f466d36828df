"""Alarm paths tested live: begun by a person, measured from what was heard, sent and told, written into the home."""

from dataclasses import dataclass

from warmeter.core.edits.water_commands import WriteSelfTest
from warmeter.core.errors import HomeError
from warmeter.core.home.devices import SafetyChain
from warmeter.core.home.document import Home
from warmeter.core.live.chain_timing import ChainTiming
from warmeter.core.quantity import QUANTITIES
from warmeter.service.app import App, Person
from warmeter.service.homes.editing import edit_home

BEGUN_EVENT = "path test begun"
FELT = {"leak": "is_wet", "frost": "room_temperature", "heat": "room_temperature"}
TENTH = 10


@dataclass(frozen=True, slots=True, kw_only=True)
class RunningTest:
    """A path whose test was begun, and what came of it so far."""

    chain: SafetyChain
    timing: ChainTiming
    is_over: bool


def begin_test(app: App, home: Home, revision: int, chain_id: str) -> None:
    """Keep that the test of a path begins now; ``HomeError`` if there is no such path."""
    chain = _chain(home, chain_id)
    app.events.add(home.id, BEGUN_EVENT, chain.id, app.now_ms(), "begun", revision)


def running_tests(app: App, home: Home) -> dict[str, RunningTest]:
    """Return the newest test of each path that was begun and not written down yet."""
    found: dict[str, RunningTest] = {}
    chains = {chain.id: chain for chain in home.safety_chains}
    for event in app.events.of_kind(home.id, BEGUN_EVENT):
        found.pop(event.subject, None)
        if event.detail == "begun" and event.subject in chains:
            timing = _timing(app, home, chains[event.subject], event.at_ms)
            is_over = timing.is_over(app.now_ms())
            found[event.subject] = RunningTest(chain=chains[event.subject], timing=timing, is_over=is_over)
    return found


def write_test(app: App, home: Home, revision: int, chain_id: str, person: Person) -> None:
    """Write a path's test into the home as it was measured, what did not come as its failure."""
    running = running_tests(app, home).get(chain_id)
    if running is None:
        raise HomeError("no test of this path is under way")
    timing, clock = running.timing, app.clock(home)
    command = WriteSelfTest(
        chain_id=chain_id,
        on=clock.local(app.now_ms()).date(),
        told_s=_tenths(timing.told_s),
        shut_s=_tenths(timing.shut_s),
        failed=timing.failed,
    )
    edit_home(app, home.id, revision, person, command)
    app.events.add(home.id, BEGUN_EVENT, chain_id, app.now_ms(), "written", revision)


def _tenths(seconds: float | None) -> float | None:
    return None if seconds is None else round(seconds * TENTH) / TENTH


def _chain(home: Home, chain_id: str) -> SafetyChain:
    found = next((chain for chain in home.safety_chains if chain.id == chain_id), None)
    if found is None:
        raise HomeError("this alarm path is not there any more")
    return found


def _timing(app: App, home: Home, chain: SafetyChain, begun_ms: int) -> ChainTiming:
    """Return what came along a path since its test was begun."""
    quantity, devices = FELT[chain.kind], set(chain.device_ids)
    rooms = {d.room_id for d in home.devices if d.id in devices and d.room_id}
    subjects = devices | (rooms if chain.kind != "leak" else set())
    series = [
        s.id for s in app.readings.series(home.id) if s.record.quantity == quantity and s.record.subject in subjects
    ]
    heard = [r for r in app.live_readings.heard_since(series, begun_ms) if _is_felt(home, chain, r.value)]
    felt = heard[0].real_ms if heard else None
    if felt is None:
        return ChainTiming(begun_ms=begun_ms, answers=_answers(home, chain))
    commands = [
        c for c in reversed(app.live_commands.last(home.id, 200))
        if c.kind == "safety" and c.run.made_ms >= felt and c.run.target_id in devices
    ]  # fmt: skip
    sent = [c.run.sent_ms[0] for c in commands if c.run.sent_ms]
    shut = [c.run.answered_ms for c in commands if c.run.answered_ms is not None]
    alerts = [a for a in app.live_alerts.last(home.id, 50) if a.detail.get("is_safety")]
    told = [
        t.real_ms + (t.delay_ms or 0)
        for t in app.live_alerts.tellings([a.id for a in alerts])
        if t.state == "told" and t.real_ms >= felt
    ]
    return ChainTiming(
        begun_ms=begun_ms,
        felt_ms=felt,
        told_ms=min(told, default=None),
        sent_ms=min(sent, default=None),
        shut_ms=min(shut, default=None),
        answers=_answers(home, chain),
    )


def _answers(home: Home, chain: SafetyChain) -> bool:
    commanded = {mapping.target_id for mapping in home.command_mappings}
    return any(device_id in commanded for device_id in chain.device_ids)


def _is_felt(home: Home, chain: SafetyChain, value: float) -> bool:
    """Return whether a report says that something is wrong: wet, or beyond the protection limit."""
    if chain.kind == "leak":
        return value >= QUANTITIES["is_wet"].high
    return value <= home.guard.low_c if chain.kind == "frost" else value >= home.guard.high_c
