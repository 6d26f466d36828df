"""Ways to do what a starter does, side by side on this log, as ready strings."""

from dataclasses import dataclass

from warmeter.core.home.document import Home
from warmeter.core.rule.signals import offered
from warmeter.core.rule.way_outcome import WayOutcome, missed_without_internet
from warmeter.core.sentence import in_unit
from warmeter.core.starters.way_needs import WayNeeds
from warmeter.core.thermal.room_fit import Estimate
from warmeter.core.units import S_PER_MIN
from warmeter.service.rules.rule_ways import WayReplay, WaysReplay
from warmeter.web import format as show

MOST_NAMED = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleWayRow:
    """A way with what it missed and did for nothing, its delay, energy and money less, and what it hangs on.

    ``why_not`` stands instead of the figures where there are none.
    """

    name: str
    why_not: str = ""
    missed: str = ""
    needless: str = ""
    delay: str = ""
    goes_on: str = ""
    held: str = ""
    kwh: str = ""
    kwh_range: str = ""
    money: str = ""
    batteries: str = ""
    hangs_on: str = ""
    is_worst: tuple[bool, bool] = (False, False)


@dataclass(frozen=True, slots=True, kw_only=True)
class WaysView:
    """The ways, what they are held against, and what the internet would change."""

    rows: list[RuleWayRow]
    against: str
    why_not: str
    stretch: str
    internet: str


def ways_view(home: Home, found: WaysReplay, away_h: float, link_s: float) -> WaysView:
    """Return the table of ways; ``away_h`` is how long the internet is away a month, ``link_s`` its delay [s]."""
    outcomes = [each.outcome for each in found.ways if each.outcome is not None]
    worst = (max((o.missed for o in outcomes), default=0), max((o.needless for o in outcomes), default=0))
    count = found.events.count
    times = "never" if not count else f"{count} time{'s' * (count != 1)}"
    return WaysView(
        rows=[_row(home, each, count, worst) for each in found.ways],
        against="" if found.target is None else in_unit(found.target.words, home.units),
        why_not=in_unit(found.why_not, home.units) if found.why_not else f"It was so {times} in these days.",
        stretch=f"{show.number(found.days, 0)} days replayed",
        internet=_internet(home, found, away_h, link_s),
    )


def _row(home: Home, each: WayReplay, count: int, worst: tuple[int, int]) -> RuleWayRow:
    name = _name(home, each)
    if each.needs is None:
        return RuleWayRow(name=name, why_not=f"not here: {in_unit(each.way.cannot, home.units)}")
    hangs_on, batteries = _hangs_on(home, each.needs), str(each.needs.batteries)
    if each.outcome is None:
        names = {choice.signal: choice.name for choice in offered(home)}
        unheard = " and ".join(names.get(signal, signal.quantity) for signal in each.unheard)
        why = f"no data was received of {unheard}: what it would have done is not known" if unheard else "not known"
        return RuleWayRow(name=name, why_not=why, batteries=batteries, hangs_on=hangs_on)
    outcome = each.outcome
    return RuleWayRow(
        name=name,
        missed=f"{outcome.missed} of {count}",
        needless=str(outcome.needless),
        delay=_delay(outcome.delay_s),
        goes_on="–" if outcome.goes_on_s is None else show.duration(outcome.goes_on_s / S_PER_MIN),
        held=_held(outcome),
        kwh="–"
        if each.kwh_less is None
        else show.number(each.kwh_less.value, 2 if abs(each.kwh_less.value) < 1 else 1),
        kwh_range=_range(each.kwh_less),
        money=show.money(None if each.money is None else each.money.value, home.currency),
        batteries=batteries,
        hangs_on=hangs_on,
        is_worst=_is_worst(outcome, worst),
    )


def _name(home: Home, each: WayReplay) -> str:
    said = in_unit(each.way.name, home.units)
    return said[:1].upper() + said[1:]


def _held(outcome: WayOutcome) -> str:
    if not outcome.acts:
        return "only says so"
    return "stays off" if outcome.held_h is None else show.number(outcome.held_h, 1)


def _is_worst(outcome: WayOutcome, worst: tuple[int, int]) -> tuple[bool, bool]:
    return outcome.missed == worst[0] > 0, outcome.needless == worst[1] > 0


def _range(estimate: Estimate | None) -> str:
    return "" if estimate is None or estimate.low == estimate.high else show.span(estimate, 1)


def _delay(seconds: float | None) -> str:
    if seconds is None:
        return "–"
    before = " before" if seconds < 0 else ""
    return show.duration(abs(seconds) / S_PER_MIN) + before


def _hangs_on(home: Home, needs: WayNeeds) -> str:
    """Return what a way hangs on in words: devices by name, the internet, a controller, people."""
    names = [device.name for device in needs.devices]
    names += [f"the plug of {home.appliance(machine_id).name}" for machine_id in needs.machine_ids]
    words = names[:MOST_NAMED] + ([f"{len(names) - MOST_NAMED} more"] if len(names) > MOST_NAMED else [])
    if needs.by_internet:
        words.append(f"the internet ({_few(needs.by_internet)})")
    if needs.by_controller:
        words.append("the controller")
    words += ["somebody who answers"] if needs.needs_answer else []
    words += ["somebody who comes"] if needs.needs_somebody else []
    return ", ".join(words) or "nothing in the survey"


def _few(names: tuple[str, ...]) -> str:
    return names[0] if len(names) == 1 else f"{names[0]} and {len(names) - 1} more"


def _internet(home: Home, found: WaysReplay, away_h: float, link_s: float) -> str:
    """Return what the first way would miss through the internet, against on the spot."""
    first = next((each for each in found.ways if each.outcome is not None), None)
    if first is None or first.outcome is None or not found.events.count:
        return ""
    missed = missed_without_internet(first.outcome.missed, found.events.count, away_h)
    local, far = show.number(first.outcome.missed, 0), show.number(missed, 2)
    delay = "" if first.outcome.delay_s is None else f", each {show.number(link_s, 0)} s later"
    needs = first.needs
    already = (
        "" if needs is None or not needs.by_internet else f" It goes through it already: {_few(needs.by_internet)}."
    )
    return f"{_name(home, first)}: on the spot {local} missed, through the internet {far} of {found.events.count}{delay}.{already}"
