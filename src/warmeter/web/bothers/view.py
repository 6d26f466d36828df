"""What was found of a nuisance, and what the home holds by now, as ready strings."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta

from warmeter.core.home.document import Home
from warmeter.core.nuisances.result import DayBars, FoundNumber, NuisanceResult
from warmeter.core.units import MS_PER_DAY
from warmeter.service.app import App
from warmeter.web import format as show
from warmeter.web.links import link
from warmeter.web.matters.view import STEP, url_of

WIDTH, HEIGHT, GUTTER = 560, 64, 4
MOST_LABELS = 10


@dataclass(frozen=True, slots=True, kw_only=True)
class HaveRow:
    """A number of what the home holds."""

    label: str
    value: str
    unit: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Bar:
    """One day's bar [px], with its words; ``is_known`` is False for a gap."""

    x: float
    y: float
    width: float
    height: float
    words: str
    is_known: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class BarsView:
    """A picture of one bar a day, dates under it, and its highest value."""

    label: str
    unit: str
    bars: list[Bar]
    dates: list[tuple[float, str]]
    top: str
    width: int
    height: int


@dataclass(frozen=True, slots=True, kw_only=True)
class MoreRow:
    """What a next step would add."""

    key: str
    title: str
    text: str
    minutes: int
    url: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FoundView:
    """What came of it."""

    sentence: str
    is_answered: bool
    facts: list[HaveRow]
    bars: BarsView | None
    more: list[MoreRow]
    caution: str
    has_working: bool
    step_url: str
    step_name: str


def found_view(home: Home, found: NuisanceResult, part_id: str, key: str) -> FoundView:
    """Return a result as it is shown."""
    step_url, step_name = _step(home, key, part_id)
    if found.step is not None:
        step_url, step_name = url_of(home, found.step, part_id), STEP[found.step][1]
    return FoundView(
        sentence=found.sentence,
        is_answered=found.is_answered,
        facts=[_fact(home, fact) for fact in found.facts],
        bars=None if found.bars is None else bars_view(home, found.bars),
        more=[
            MoreRow(
                key=STEP[more.step][0],
                title=more.title,
                text=more.text,
                minutes=more.minutes,
                url=url_of(home, more.step, ""),
            )
            for more in found.more
        ],
        caution=found.caution,
        has_working=found.figure is not None,
        step_url=step_url,
        step_name=step_name,
    )


def _step(home: Home, key: str, part_id: str) -> tuple[str, str]:
    """Return the page of the step on which a result is worked on further."""
    if key == "machine":
        return link("signatures", home.id, machine=part_id), "Signatures"
    if key == "cold":
        return link("warmup", home.id, room=part_id), "Warm-up"
    if key in ("water", "window"):
        return link("rules", home.id, rule=part_id), "Rules"
    return link("signatures", home.id, pane="always"), "Signatures"


def _fact(home: Home, fact: FoundNumber) -> HaveRow:
    if fact.unit == "K":
        return HaveRow(
            label=fact.label, value=show.difference(fact.value, home, fact.decimals), unit=show.difference_unit(home)
        )
    return HaveRow(
        label=fact.label,
        value="not known" if fact.value is None else show.number(fact.value, fact.decimals),
        unit="" if fact.value is None else fact.unit,
    )


def bars_view(home: Home, bars: DayBars) -> BarsView:
    """Return one bar a day."""
    top = max((value for value in bars.values if value is not None), default=0.0) or 1.0
    each = WIDTH / max(len(bars.values), 1)
    days = [bars.first + timedelta(days=k) for k in range(len(bars.values))]
    every = max(1, -(-len(days) // MOST_LABELS))
    drawn = []
    for k, (day, value) in enumerate(zip(days, bars.values, strict=True)):
        height = 0.0 if value is None else (HEIGHT - GUTTER) * value / top
        told = "not known" if value is None else f"{_shown(home, bars, value)}"
        drawn.append(
            Bar(
                x=round(k * each + each * 0.15, 1),
                y=round(HEIGHT - height, 1),
                width=round(each * 0.7, 1),
                height=round(height, 1),
                words=f"{show.day_short(day, home.country)}: {told}",
                is_known=value is not None,
            )
        )
    return BarsView(
        label=bars.label,
        unit=_unit(home, bars),
        bars=drawn,
        dates=[
            (round((k + 0.5) * each, 1), show.day_short(day, home.country))
            for k, day in enumerate(days)
            if not k % every
        ],
        top=_shown(home, bars, top),
        width=WIDTH,
        height=HEIGHT,
    )


def _unit(home: Home, bars: DayBars) -> str:
    return {"K": show.difference_unit(home), "K·h": show.degree_hour_unit(home)}.get(bars.unit, bars.unit)


def _shown(home: Home, bars: DayBars, value: float) -> str:
    if bars.unit in ("K", "K·h"):
        return f"{show.difference(value, home, 1)} {_unit(home, bars)}"
    return f"{show.number(value, 1 if value < 10 else 0)} {bars.unit}"


def have_rows(app: App, home: Home) -> list[HaveRow]:
    """Return what the home holds by now: a count of nought is one, not an absence."""
    bounds = app.readings.bounds(home.id)
    days = 0.0 if bounds is None else (bounds[1] - bounds[0]) / MS_PER_DAY
    counts: Sequence[tuple[str, float, str]] = (
        ("Appliances", len(home.appliances), ""),
        ("Rooms", len(home.rooms), ""),
        ("Devices", len(home.devices), ""),
        ("Prices", len(home.tariffs), ""),
        ("Rules", len(home.rules), ""),
        ("Log", days, "days"),
    )
    return [HaveRow(label=label, value=show.number(value, 0), unit=unit) for label, value, unit in counts]
