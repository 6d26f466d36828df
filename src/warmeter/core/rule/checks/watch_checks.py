"""Checks of what is watched: hysteresis, waits, crossing or state, what can never be, what is urgent."""

from collections.abc import Iterator
from dataclasses import replace
from datetime import date, datetime, timedelta
from functools import lru_cache
from math import ceil, log10

from warmeter.core.home.conditions.at_level import AtLevel
from warmeter.core.home.conditions.at_time import AtTime
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.dark import Dark
from warmeter.core.home.conditions.dates import Dates
from warmeter.core.home.conditions.evening import Evening
from warmeter.core.home.conditions.hours import Hours
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.conditions.moving import Moving
from warmeter.core.home.rules import Ask, Rule, SetLevel, Tell, TimedRun
from warmeter.core.quantity import QUANTITIES
from warmeter.core.rule.checks.rule_finding import Case, RuleFinding
from warmeter.core.rule.parts import ConditionPlace, conditions_of, with_condition
from warmeter.core.rule.signals import DERIVED, main_signal
from warmeter.core.sentence import Measure, kelvin, sentence
from warmeter.core.timegrid import LocalClock

WIDTHS_OF_NOISE = 3.0
OPENING_WAIT_S, ABSENCE_WAIT_S, BACK_WAIT_S = 60, 300, 30
WET_LATEST_S, FROST_LATEST_S = 60, 600
FROST_C = 6.0
_EVEN = 1e-9


def no_hysteresis(case: Case) -> Iterator[RuleFinding]:
    """A comparison whose beginning and end lie closer than three times the sensor's noise (J1)."""
    rule = case.rule
    for place, c in conditions_of(rule, "watch"):
        if not isinstance(c, Compared):
            continue
        noise = case.evidence.noise_of(c.of)
        need = WIDTHS_OF_NOISE * noise
        pair = _put_back_pair(rule, c)
        scatter = _scatter(c.of.quantity, noise, is_measured=c.of in case.evidence.noise)
        if pair is not None:
            back_place, back = pair
            gap = abs(c.value - back.value)
            if gap < need - _EVEN:
                wide = _rounded_up(need, c.of.quantity)
                value = c.value - wide if c.how == "over" else c.value + wide
                yield case.finding(
                    "no hysteresis",
                    f"{back_place.path}.value",
                    sentence(
                        "It begins and ends {} apart; {}, so it would switch to and fro. Leave {} between.",
                        _width(gap, c.of.quantity),
                        scatter,
                        _width(wide, c.of.quantity),
                    ),
                    fix=sentence("Leave {} between", _width(wide, c.of.quantity)),
                    rule=with_condition(rule, back_place, replace(back, value=round(value, 6))),
                )
        elif c.hysteresis < need - _EVEN:
            wide = _rounded_up(need, c.of.quantity)
            yield case.finding(
                "no hysteresis",
                f"{place.path}.hysteresis",
                sentence(
                    "Its hysteresis is {}; {}, and three times that is needed: near the value it would come and go.",
                    _width(c.hysteresis, c.of.quantity),
                    scatter,
                ),
                fix=sentence("Take {} of hysteresis", _width(wide, c.of.quantity)),
                rule=with_condition(rule, place, replace(c, hysteresis=wide)),
            )


def _put_back_pair(rule: Rule, watched: Compared) -> tuple[ConditionPlace, Compared] | None:
    """Return what puts back on the same signal from the other side."""
    for place, c in conditions_of(rule, "when"):
        if isinstance(c, Compared) and (c.of, c.minus) == (watched.of, watched.minus) and c.how != watched.how:
            return place, c
    return None


def _rounded_up(width: float, quantity: str) -> float:
    """Return a width rounded up to a step that a person would type."""
    step = 10.0 ** (ceil(log10(width)) - 1) if width > 0 else 0.1
    step = 0.1 if QUANTITIES.get(quantity) and QUANTITIES[quantity].unit == "°C" else step
    return round(ceil(width / step - _EVEN) * step, 6)


def _scatter(quantity: str, noise: float, *, is_measured: bool) -> str:
    """Return in words how far reports lie apart while nothing changes, as measured or as usual."""
    width = _width(float(f"{noise:.2g}"), quantity)
    if is_measured:
        return sentence("in the log its reports scatter by about {} from one to the next", width)
    name = QUANTITIES[quantity].label if quantity in QUANTITIES else quantity.replace("_", " ")
    return sentence("{} is usually told with a noise of about {}", name, width)


def _width(value: float, quantity: str) -> Measure:
    """Return a difference of a quantity with its unit; kelvins with a tenth, to stay true in another unit."""
    unit = QUANTITIES[quantity].unit if quantity in QUANTITIES else DERIVED.get(quantity, ("", ""))[1]
    if unit == "°C":
        return kelvin(value, 1 if value == round(value) else None)
    return Measure(value, unit.replace("m3", "m³"))


def no_wait(case: Case) -> Iterator[RuleFinding]:
    """A contact or motion sensor believed at once, or put back at once: bounce and passing through fire it (J2)."""
    rule, evidence = case.rule, case.evidence
    for _, c in conditions_of(rule, "watch"):
        least = _least_wait_s(c)
        signal = main_signal(c)
        if least == 0 or signal is None or (rule.reading == "is" and _is_rested(rule)):
            continue
        bounce = ceil(evidence.bounce_s.get(signal, 0.0))
        least = max(least, bounce)
        if rule.for_s < least:
            wait = _usual_wait(least)
            seen = f" In the log it bounces for up to {_long(bounce)}." if bounce else ""
            yield case.finding(
                "no wait",
                "for",
                f"It waits {_long(rule.for_s)}: {_state(c)} of less than {_long(least)} would trigger it.{seen}",
                fix=f"Wait {_long(wait)}",
                rule=replace(rule, for_s=wait),
            )
            break
    back = rule.put_back
    contacts = [c for _, c in conditions_of(rule, "when") if isinstance(c, InState) and c.of.quantity in _BOUNCING]
    bounce = max((ceil(evidence.bounce_s.get(c.of, 0.0)) for c in contacts), default=0)
    if (
        back is not None
        and contacts
        and back.for_s < max(BACK_WAIT_S, bounce)
        and not any(c.is_moment for _, c in conditions_of(rule, "when"))
    ):
        yield case.finding(
            "no wait",
            "back_for",
            f"It is put back {_long(back.for_s)} after the sensor says so: a contact that bounces, or somebody who looks out once more, triggers it again.",
            fix=f"Put back after {_long(_usual_wait(max(BACK_WAIT_S, bounce)))}",
            rule=replace(rule, put_back=replace(back, for_s=_usual_wait(max(BACK_WAIT_S, bounce)))),
        )


_BOUNCING = ("is_open", "is_moving", "is_in")


def _is_rested(rule: Rule) -> bool:
    """Whether the rule's own limits keep it from firing by bounce."""
    return rule.limits.min_on_s >= OPENING_WAIT_S and rule.limits.min_off_s >= OPENING_WAIT_S


def _least_wait_s(condition: object) -> int:
    if not isinstance(condition, InState):
        return 0
    if condition.of.quantity == "is_open":
        return OPENING_WAIT_S
    return ABSENCE_WAIT_S if condition.of.quantity in ("is_moving", "is_in") and not condition.is_on else 0


def _usual_wait(least: int) -> int:
    return next((s for s in (120, 180, 300, 600, 900, 1500, 1800) if s >= 2 * least), least)


def _state(condition: object) -> str:
    return "an opening" if isinstance(condition, InState) and condition.of.quantity == "is_open" else "a pause"


def _long(seconds: int) -> str:
    return f"{seconds // 60} min" if seconds % 60 == 0 and seconds >= 60 else f"{seconds} s"


def crossing_or_state(case: Case) -> Iterator[RuleFinding]:
    """A crossing that can come while the guard does not hold is lost; a state without an end fires again and again."""
    rule = case.rule
    timed = [c for _, c in conditions_of(rule, "only_while") if isinstance(c, Hours | AtLevel | Dark | Evening | Dates)]
    lasting = [c for _, c in conditions_of(rule, "watch") if not c.is_moment and not isinstance(c, Moving)]
    # A run that ends by itself answers the moment itself: light for whoever comes home in the dark.
    is_moment_meant = all(isinstance(step, TimedRun) for step in rule.then)
    if rule.reading == "becomes" and timed and lasting and not is_moment_meant:
        yield case.finding(
            "crossing or state",
            "watch.0.0.how",
            "It triggers when the watch comes true, and only if its condition holds at that moment: what came true before the condition does is lost.",
            fix="Mean the state",
            rule=replace(rule, reading="is"),
        )
    ends = rule.put_back is not None or rule.as_long_as
    if rule.reading == "is" and not ends and lasting and any(isinstance(s, Tell | Ask) for s in rule.then):
        yield case.finding(
            "crossing or state",
            "watch.0.0.how",
            "The state is meant and nothing ends it: it would trigger again every minute as long as it lasts.",
            fix="Mean the crossing",
            rule=replace(rule, reading="becomes"),
        )


def never_heard(case: Case) -> Iterator[RuleFinding]:
    """A sensor of which the log has nothing: nobody knows whether the rule would ever hear it."""
    told: set[Signal] = set()
    for part in ("watch", "only_while", "as_long_as", "when"):
        for place, c in conditions_of(case.rule, part):
            for signal in (s for s in c.signals if s in case.evidence.unheard and s not in told):
                told.add(signal)
                yield case.finding(
                    "never received",
                    f"{place.path}.of",
                    "The log holds nothing of what it looks at here: while no data comes, this does not count as so, and the rule "
                    "cannot be tried. Import a log of it, or choose what sends data.",
                )


def never_or_always(case: Case) -> Iterator[RuleFinding]:
    """A condition that can never be true, or always is; a part that is gone; a wait on a moment."""
    rule, home = case.rule, case.home
    ids = {part.id for part in home.parts()}
    for part in ("watch", "only_while", "as_long_as", "when"):
        for place, c in conditions_of(rule, part):
            gone = [s for s in c.signals if s not in case.known]
            named = (getattr(c, name, None) for name in ("appliance_id", "zone_id", "occasion_id"))
            others = [i for i in named if i and i not in ids]
            if gone or others:
                yield case.finding(
                    "never or always",
                    f"{place.path}.of",
                    "What it looks at is not in this home any more: nothing is ever known of it, so it never holds. Choose another.",
                    severity="danger",
                )
            if isinstance(c, Compared):
                yield from _beyond(case, place, c)
            if isinstance(c, Hours) and c.from_min == c.until_min and not c.weekdays and part == "only_while":
                yield case.finding(
                    "never or always",
                    f"{place.path}.from",
                    "These hours are the whole day: the condition always holds.",
                    fix="From 07:00 to 22:00",
                    rule=with_condition(rule, place, replace(c, from_min=420, until_min=1320)),
                )
    moments = [c for _, c in conditions_of(rule, "watch") if c.is_moment]
    if moments and rule.for_s:
        yield case.finding(
            "never or always",
            "for",
            "What it watches is over in a moment, so it never holds for any time.",
            severity="danger",
            fix="Do not wait",
            rule=replace(rule, for_s=0),
        )
    yield from _outside_hours(case)
    levels = [step.level_id for step in rule.then if isinstance(step, SetLevel)]
    missing = [i for i in (*rule.target_ids, *levels) if i not in ids]
    if missing:
        yield case.finding(
            "never or always",
            "then.0.targets",
            "Something that it acts on is not in this home any more. Choose another.",
            severity="danger",
        )
    if rule.id in case.evidence.never:
        yield case.finding("never or always", "watch.0.0.of", case.evidence.never[rule.id], severity="note")


def _beyond(case: Case, place: ConditionPlace, c: Compared) -> Iterator[RuleFinding]:
    quantity = QUANTITIES.get(c.of.quantity)
    if quantity is None or c.minus is not None:
        return
    never = (c.how == "over" and c.value > quantity.high) or (c.how == "under" and c.value < quantity.low)
    always = (c.how == "over" and c.value <= quantity.low) or (c.how == "under" and c.value >= quantity.high)
    if never or always:
        value = quantity.low + 0.6 * (quantity.high - quantity.low) if quantity.unit == "%" else 20.0
        yield case.finding(
            "never or always",
            f"{place.path}.value",
            sentence(
                "{} lies between {}: this {} holds.",
                quantity.label.capitalize(),
                Measure(quantity.low, quantity.unit, until=quantity.high),
                "never" if never else "always",
            ),
            severity="danger",
            fix=sentence("Take {}", Measure(value, quantity.unit)),
            rule=with_condition(case.rule, place, replace(c, value=value)),
        )


def _outside_hours(case: Case) -> Iterator[RuleFinding]:
    """A clock time in the watch that the hours of the guard leave out."""
    rule = case.rule
    for _, at in conditions_of(rule, "watch"):
        for place, hours in conditions_of(rule, "only_while"):
            if not isinstance(at, AtTime) or not isinstance(hours, Hours) or len(rule.only_while[place.clause]) > 1:
                continue
            wraps = hours.until_min <= hours.from_min
            inside = hours.from_min <= at.at_min < hours.until_min
            if wraps:
                inside = at.at_min >= hours.from_min or at.at_min < hours.until_min
            if not inside:
                clause = place.clause
                kept = rule.only_while[:clause] + rule.only_while[clause + 1 :]
                yield case.finding(
                    "never or always",
                    f"{place.path}.from",
                    "The clock strikes outside the hours of its condition: it never triggers.",
                    severity="danger",
                    fix="Remove the hours",
                    rule=replace(rule, only_while=kept),
                )


def clock_change(case: Case) -> Iterator[RuleFinding]:
    """A time of day that does not exist, or comes twice, on a day on which the home's clock changes."""
    rule, clock = case.rule, LocalClock(case.home.time_zone)
    minutes = [(f"{place.path}.at", c.at_min) for place, c in conditions_of(rule, "watch") if isinstance(c, AtTime)]
    if rule.put_back is not None and rule.put_back.at_min is not None:
        minutes.append(("back_at", rule.put_back.at_min))
    for part, minute in minutes:
        for on, hours in _changing_days(clock.zone, case.evidence.today.year):
            wall = datetime(on.year, on.month, on.day) + timedelta(minutes=minute)
            count = len(clock.instants_of(wall))
            if count != 1:
                when = clock.local(clock.instant(on, minute))
                what = "does not exist" if count == 0 else "comes twice"
                yield case.finding(
                    "clock change",
                    part,
                    f"On {on.isoformat()}, a day of {hours:g} hours, {wall:%H:%M} {what}: it is taken "
                    f"{'at ' + format(when, '%H:%M') if count == 0 else 'the first time'}.",
                    severity="note",
                )
                break


@lru_cache(maxsize=64)
def _changing_days(zone: str, year: int) -> tuple[tuple[date, float], ...]:
    """Return the days of a year on which a clock changes, with their hours."""
    clock = LocalClock(zone)
    days = (date(year, 1, 1) + timedelta(days=k) for k in range(366))
    return tuple((day.date, day.hours) for day in map(clock.day, days) if day.hours != 24 and day.date.year == year)


def urgent_but_late(case: Case) -> Iterator[RuleFinding]:
    """Water or frost behind a long wait, or behind a wait before the first step."""
    rule = case.rule
    latest = _latest_s(rule)
    if latest is None:
        return
    if rule.for_s > latest:
        yield case.finding(
            "urgent but late",
            "for",
            f"It is urgent, and waits {_long(rule.for_s)} before it does anything.",
            severity="danger",
            fix=f"Wait {_long(latest // 2) if latest > WET_LATEST_S else '0 s'}",
            rule=replace(rule, for_s=latest // 2 if latest > WET_LATEST_S else 0),
        )
    late = next((k for k, step in enumerate(rule.then) if step.wait_s > latest), None)
    if late is not None:
        steps = tuple(replace(step, wait_s=0) if k == late else step for k, step in enumerate(rule.then))
        yield case.finding(
            "urgent but late",
            f"then.{late}.wait",
            f"It is urgent, and a step waits {_long(rule.then[late].wait_s)}.",
            severity="danger",
            fix="Do it at once",
            rule=replace(rule, then=steps),
        )


def _latest_s(rule: Rule) -> int | None:
    """Return within how long an urgent rule must act, None for one that is not urgent [s]."""
    for _, c in conditions_of(rule, "watch"):
        if isinstance(c, InState) and c.of.quantity == "is_wet" and c.is_on:
            return WET_LATEST_S
        if isinstance(c, Compared) and c.how == "under" and c.value <= FROST_C and c.of.quantity == "room_temperature":
            return FROST_LATEST_S
    return None


def is_urgent(rule: Rule) -> bool:
    """Whether a rule watches water where none should be, or frost."""
    return _latest_s(rule) is not None
