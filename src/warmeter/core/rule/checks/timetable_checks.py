"""Checks of rules against the timetables of the zones that they set or look at."""

from collections.abc import Iterator
from dataclasses import replace
from datetime import date, timedelta

from warmeter.core.home.conditions.at_level import AtLevel
from warmeter.core.home.conditions.at_time import AtTime
from warmeter.core.home.document import Home
from warmeter.core.home.rules import SetLevel, SetPoint
from warmeter.core.home.zones import Zone
from warmeter.core.rule.checks.rule_finding import Case, RuleFinding
from warmeter.core.rule.parts import conditions_of, with_condition
from warmeter.core.sentence import celsius, sentence
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.day import Block, blocks_between


def against_timetable(case: Case) -> Iterator[RuleFinding]:
    """A temperature set by the clock that still stands when the timetable turns the other way.

    Looked at over the seven days from the evidence's date on. A rule that is put back by a condition is left alone:
    what it looks at may well outweigh the timetable.
    """
    rule, home, back = case.rule, case.home, case.rule.put_back
    times = [c for _, c in conditions_of(rule, "watch") if isinstance(c, AtTime)]
    if back is None or back.when or not times or len(times) != len(conditions_of(rule, "watch")):
        return
    clock = LocalClock(home.time_zone)
    for step in rule.then:
        if not isinstance(step, SetLevel | SetPoint):
            continue
        for zone in (z for z in home.zones if z.id in step.zone_ids):
            asked = _asked_c(home, zone, step)
            if asked is None:
                continue
            turns = (_turn(home, zone, clock, asked, begin, end) for begin, end in _spans(case, times, clock))
            turn = next((each for each in turns if each is not None), None)
            if turn is None:
                continue
            at = clock.local(turn.from_ms)
            yield case.finding(
                "contradiction",
                "back_at" if back.at_min is not None else "back_after",
                sentence(
                    "On {:%A}s the timetable of {} goes to {} at {:%H:%M}; this rule still holds it at {} then.",
                    at,
                    zone.name,
                    turn.level_name,
                    at,
                    celsius(asked),
                ),
                fix=f"Put it back at {at:%H:%M}",
                rule=replace(rule, put_back=replace(back, at_min=at.hour * 60 + at.minute, after_s=None)),
            )
            return


def _asked_c(home: Home, zone: Zone, step: SetLevel | SetPoint) -> float | None:
    """Return what a step asks for heating, None where it follows the timetable or is no level any more [°C]."""
    if isinstance(step, SetPoint):
        return step.value_c if step.side == "heating" else None
    return home.heating_c(zone, step.level_id) if any(level.id == step.level_id for level in home.levels) else None


def _spans(case: Case, times: list[AtTime], clock: LocalClock) -> Iterator[tuple[int, int]]:
    """Yield when a rule by the clock stands on the seven days from the evidence's date on [ms UTC]."""
    back = case.rule.put_back
    assert back is not None  # the caller has looked
    for on in (case.evidence.today + timedelta(days=k) for k in range(7)):
        for at in times:
            if at.weekdays and on.weekday() not in at.weekdays:
                continue
            begin = clock.instant(on, at.at_min)
            ends = [] if back.after_s is None else [begin + back.after_s * 1000]
            if back.at_min is not None:
                ends.append(_next_instant(clock, on, back.at_min, begin))
            yield begin, min(ends)


def _next_instant(clock: LocalClock, on: date, minute: int, after_ms: int) -> int:
    at = clock.instant(on, minute)
    return at if at > after_ms else clock.instant(on + timedelta(days=1), minute)


def _turn(home: Home, zone: Zone, clock: LocalClock, asked_c: float, begin: int, end: int) -> Block | None:
    """Return the first block within a span by which the timetable goes against what is asked there."""
    blocks = blocks_between(home, zone, clock, begin, end)
    before = next((b for b in blocks if b.from_ms <= begin < b.until_ms), None)
    if before is None or asked_c == before.setpoint_c:
        return None
    way = 1 if asked_c > before.setpoint_c else -1
    return next((b for b in blocks if begin < b.from_ms < end and way * (before.setpoint_c - b.setpoint_c) > 0), None)


def level_never_set(case: Case) -> Iterator[RuleFinding]:
    """A condition on a level that the timetables of its zone never set."""
    home, rule = case.home, case.rule
    names = {level.id: level.name for level in home.levels}
    for part in ("watch", "only_while", "as_long_as", "when"):
        for place, c in conditions_of(rule, part):
            zone = next((z for z in home.zones if isinstance(c, AtLevel) and z.id == c.zone_id), None)
            if zone is None or not isinstance(c, AtLevel):
                continue
            set_there = tuple(dict.fromkeys(p.level_id for p in zone.all_points))
            if set(c.level_ids) & set(set_there):
                continue
            words = " or ".join(names[i] for i in c.level_ids if i in names)
            yield case.finding(
                "never or always",
                f"{place.path}.levels",
                f"No timetable of {zone.name} ever sets {words or 'this level'}: {'it never' if c.is_at else 'this always'} holds.",
                severity="danger",
                fix=f"Look at {names[set_there[0]]}" if set_there[0] in names else "",
                rule=with_condition(rule, place, replace(c, level_ids=(set_there[0],)))
                if set_there[0] in names
                else None,
            )
