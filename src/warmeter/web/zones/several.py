"""One zone or several, as ready strings: every grouping's week on one axis, one of them room by room."""

from dataclasses import dataclass
from typing import Literal

from warmeter.core.home.document import Home
from warmeter.core.sentence import joined, sentence
from warmeter.service.zones.grouping import GroupingComparison, Trial
from warmeter.web import format as show

AXIS_PX = 150


@dataclass(frozen=True, slots=True, kw_only=True)
class TrialRow:
    """A grouping's week."""

    key: str
    name: str
    zones: str
    heat: str
    drawn: str
    cost: str
    low_x: float
    x: float
    high_x: float
    short: str
    over: str
    starts: str
    needs: str
    is_favoured: bool
    is_short: bool
    broken: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomWeek:
    """One room under the grouping shown."""

    name: str
    heat: str
    mean: str
    coldest: str
    warmest: str
    short: str
    over: str
    is_worst: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class SeveralView:
    """The whole pane."""

    rows: list[TrialRow]
    rooms: list[RoomWeek]
    shown: str
    weather: str
    learnt: str
    doubt: str
    reason: str
    other: str
    ends: tuple[str, str]
    dangers: list[str]
    too_small: list[str]


def _worth(trial: Trial, which: str) -> float:
    found = {"low": trial.low, "is": trial.found, "high": trial.high}[which]
    return found.drawn_kwh if found.cost is None else found.cost


def _rooms(home: Home, found: GroupingComparison, shown: Trial) -> list[RoomWeek]:
    worst = int(shown.found.underheating_kh.argmax())
    return [
        RoomWeek(
            name=home.room(key).name,
            heat=show.number(float(shown.found.room_heat_kwh[k])),
            mean=show.temperature(float(shown.found.mean_c[k]), home),
            coldest=show.temperature(float(shown.found.coldest_c[k]), home),
            warmest=show.temperature(float(shown.found.warmest_c[k]), home),
            short=show.difference(float(shown.found.underheating_kh[k]), home, 1),
            over=show.difference(float(shown.found.overheating_kh[k]), home, 0),
            is_worst=k == worst and float(shown.found.underheating_kh[k]) > 0.5,
        )
        for k, key in enumerate(found.home.room_ids)
    ]


def _told(found: GroupingComparison, what: Literal["dangers", "too_small"]) -> list[str]:
    """Return what every grouping's week warns of, each sentence once with the groupings in which it holds."""
    by_line: dict[str, list[str]] = {}
    for trial in found.trials:
        for line in trial.dangers if what == "dangers" else trial.too_small:
            by_line.setdefault(line, []).append(trial.proposal.name)
    return [sentence("{}: {}.", ", ".join(names), line) for line, names in by_line.items()]


def several_view(home: Home, found: GroupingComparison, shown: Trial) -> SeveralView:
    """Return the comparison with one grouping in full."""
    low = min(_worth(t, "low") for t in found.trials)
    high = max(_worth(t, "high") for t in found.trials)
    span = max(high - low, 1e-9)

    def x(value: float) -> float:
        return round(6 + (value - low) / span * (AXIS_PX - 12), 1)

    def row(t: Trial) -> TrialRow:
        heads = f"{t.valve_heads} valve heads" if t.valve_heads else "no valve heads"
        return TrialRow(
            key=t.proposal.key,
            name=t.proposal.name,
            zones=f"{len(t.proposal.groups)} zone{'s' * (len(t.proposal.groups) != 1)}",
            heat=show.number(t.found.heat_kwh),
            drawn=show.number(t.found.drawn_kwh, 1),
            cost="–" if t.found.cost is None else show.money(t.found.cost, home.currency),
            low_x=x(_worth(t, "low")),
            x=x(_worth(t, "is")),
            high_x=x(_worth(t, "high")),
            short=show.difference(t.underheating_kh, home, 1),
            over=show.difference(t.overheating_kh, home, 0),
            starts=show.number(t.found.starts / 7, 1),
            needs=f"{t.sensors} sensor{'s' * (t.sensors != 1)}, {heads}",
            is_favoured=t is found.favoured and not t.broken,
            is_short=t.underheating_kh > found.favoured.underheating_kh + 5,
            broken=joined("; ", t.broken),
        )

    priced = found.trials[0].found.cost is not None
    return SeveralView(
        rows=[row(t) for t in found.trials],
        rooms=_rooms(home, found, shown),
        shown=shown.proposal.name,
        weather=found.weather,
        learnt=f"{found.learnt} of {len(found.home.room_ids)} rooms learnt from logs, the others surveyed",
        doubt=f"{100 * found.doubt:.0f} %",
        reason=found.reason,
        other=found.other,
        ends=(
            show.money(low, home.currency) if priced else show.number(low),
            show.money(high, home.currency) if priced else show.number(high),
        ),
        dangers=_told(found, "dangers"),
        too_small=_told(found, "too_small"),
    )
