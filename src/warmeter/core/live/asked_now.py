"""What is asked of heaters and devices at an instant: the deciding claim of each zone, and the steps of rules that stand."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from warmeter.core.claims.arbiter import Claim, Decision
from warmeter.core.home.document import Home
from warmeter.core.home.links import CommandKind, CommandMapping
from warmeter.core.home.rules import Blinds, Dim, Rule, ShutOff, Switch, TimedRun
from warmeter.core.home.zones import Zone
from warmeter.core.live.on_off_control import SwitchedState, switched
from warmeter.core.rule.actions import ActionRun, action_runs_of, strength_of, zone_claims
from warmeter.core.rule.run import RuleRun
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.day import block_claim, blocks_between, setpoint_decisions
from warmeter.core.units import MS_PER_H


@dataclass(frozen=True, slots=True, kw_only=True)
class AskedValue:
    """What is asked of a target from an instant on.

    Parameters
    ----------
    target_id, does : str
        Device, heater or appliance, and which of its commands.
    value : float
        A setpoint [°C], 1 and 0 for on and off, or a share down or of light (0 to 1).
    kind, reason, rule_id : str
        Whose claim decides (a key of ``PRIORITY``), why in words, and the rule, "" for none.
    from_ms, until_ms : int, int or None
        When it began, and when it ends where that is known [ms UTC].
    is_hard : bool
        Whether it ends by itself: a timed run, whose end is sent along with its start.
    is_start : bool
        Whether each time counts by itself: it is asked although the last command asked the same.
    """

    target_id: str
    does: CommandKind
    value: float
    kind: str
    reason: str
    from_ms: int
    until_ms: int | None = None
    rule_id: str = ""
    is_hard: bool = False
    is_start: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class ZoneAsked:
    """What decides a zone's heating setpoint now, and what decides next within the hours looked at."""

    zone_id: str
    now: Decision
    then: Decision | None
    below: tuple[Claim, ...] = ()


LOOK_AHEAD_MS = 36 * MS_PER_H


def zone_asked(
    home: Home,
    zone: Zone,
    clock: LocalClock,
    at_ms: int,
    rule_runs: Mapping[str, RuleRun],
    by_hand: Sequence[Claim] = (),
    warm_ups: Sequence[Claim] = (),
) -> ZoneAsked:
    """Return what decides a zone's heating setpoint at an instant: timetable, warm-up, rules, by hand, guards."""
    end = at_ms + LOOK_AHEAD_MS
    blocks = blocks_between(home, zone, clock, at_ms, end)
    claims = [*map(block_claim, blocks), *warm_ups, *by_hand]
    for rule in home.rules:
        if rule.id in rule_runs:
            claims += zone_claims(home, zone, rule, rule_runs[rule.id], clock, end_ms=end)
    found = setpoint_decisions(home, zone, claims, at_ms, end)
    then = next((each for each in found[1:] if each.value != found[0].value), None)
    below = tuple(c for c in claims if c.stands_at(at_ms) and c is not found[0].claim)
    return ZoneAsked(zone_id=zone.id, now=found[0], then=then, below=below)


def setpoints_asked(home: Home, zones: Iterable[ZoneAsked]) -> list[AskedValue]:
    """Return what the zones ask of the heaters that follow them, one row a heater."""
    found = []
    for each in zones:
        decision = each.now
        for heater_id in home.following(home.zone_of_id(each.zone_id)):
            found.append(
                AskedValue(
                    target_id=heater_id,
                    does="setpoint",
                    value=decision.value,
                    kind="guard" if decision.is_clamped else decision.claim.kind,
                    reason=(decision.guard.reason if decision.guard else "") or decision.claim.reason,
                    from_ms=decision.claim.from_ms,
                    until_ms=decision.claim.until_ms,
                    rule_id=decision.claim.rule,
                )
            )
    return found


def by_switches(
    home: Home,
    asked: Sequence[AskedValue],
    rooms_c: Mapping[str, float | None],
    before: Mapping[str, SwitchedState],
    now_ms: int,
) -> list[AskedValue]:
    """Return what is asked, where a heater knows only on and off as its switch: by its room's temperature.

    Parameters
    ----------
    rooms_c : mapping of str to float or None
        By heater: its room's temperature, None where it is not known [°C].
    before : mapping of str to SwitchedState
        By heater: how it was switched last.
    """
    found = []
    for each in asked:
        if each.does != "setpoint" or command_for(home, each) is not None:
            found.append(each)
            continue
        as_switch = replace(each, does="switch")
        if command_for(home, as_switch) is None:
            found.append(each)
            continue
        heater = home.heater(each.target_id)
        last = before.get(heater.id)
        is_on = switched(each.value, heater.band_k, rooms_c.get(heater.id), last, now_ms)
        since = last.since_ms if last is not None and last.is_on == is_on else now_ms
        found.append(replace(as_switch, value=float(is_on), from_ms=since))
    return found


def devices_asked(rules: Sequence[Rule], rule_runs: Mapping[str, RuleRun], at_ms: int) -> list[AskedValue]:
    """Return what the rules ask of devices at an instant: of each target the strongest step that stands, then the latest."""
    rows: dict[tuple[str, CommandKind], tuple[tuple[float, int], AskedValue]] = {}
    for place, rule in enumerate(rules):
        if rule.id not in rule_runs:
            continue
        strength = strength_of(rule, place, max(len(rules), 1))
        for run in action_runs_of(rule, rule_runs[rule.id]):
            if run.from_ms > at_ms or (run.until_ms is not None and run.until_ms <= at_ms):
                continue
            for asked in _asked(rule, run):
                key, order = (asked.target_id, asked.does), (strength, run.from_ms)
                if key not in rows or order >= rows[key][0]:
                    rows[key] = order, asked
    return [asked for _, asked in rows.values()]


def _asked(rule: Rule, run: ActionRun) -> Iterable[AskedValue]:
    """Yield what a step that stands asks of each of its targets."""
    step = run.step
    does: CommandKind = "switch"
    if isinstance(step, Switch):
        value = float(step.is_on)
    elif isinstance(step, TimedRun):
        value = 1.0
    elif isinstance(step, ShutOff):
        value = 0.0
    elif isinstance(step, Blinds):
        does, value = "share", step.down
    elif isinstance(step, Dim):
        does, value = "share", step.share
    else:
        return
    for target_id in step.target_ids:
        yield AskedValue(
            target_id=target_id,
            does=does,
            value=value,
            kind=rule.kind,
            reason=rule.name,
            from_ms=run.from_ms,
            until_ms=run.until_ms,
            rule_id=rule.id,
            is_hard=isinstance(step, TimedRun),
        )


def command_for(home: Home, asked: AskedValue) -> CommandMapping | None:
    """Return the command by which a target is asked: its own, else that of a device that drives the heater."""
    driving = {d.id for d in home.devices if d.drives_id == asked.target_id and d.is_in_service}
    for mapping in home.command_mappings:
        if mapping.does == asked.does and mapping.target_id == asked.target_id:
            return mapping
    return next((m for m in home.command_mappings if m.does == asked.does and m.target_id in driving), None)
