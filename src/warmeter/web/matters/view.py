"""The list of what matters as ready strings."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from urllib.parse import quote

from warmeter.core.home.document import Home
from warmeter.core.matters.line import MatterKind, MatterLine, MeasureOffer
from warmeter.core.matters.ranking import Matters, MeasureNext, MoneySum
from warmeter.core.page_step import PageStep
from warmeter.core.units import MIN_PER_H
from warmeter.web import format as show
from warmeter.web.links import link
from warmeter.web.matters.intervals import WIDTH, AmountAxis, AmountTick, Interval, axis_of
from warmeter.web.survey.plan_view import link_to

KIND_WORD: Mapping[MatterKind, str] = {
    "danger": "danger",
    "wrong": "wrong",
    "unknown": "unknown",
    "money": "worth money",
    "waits": "waits",
}
STEP: Mapping[PageStep, tuple[str, str]] = {
    "survey": ("1", "Survey"),
    "heating": ("1", "Survey"),
    "ducts": ("1", "Survey"),
    "sun": ("1", "Survey"),
    "water": ("1", "Survey"),
    "circuits": ("1", "Survey"),
    "devices": ("1", "Survey"),
    "tasks": ("1", "Survey"),
    "zones": ("2", "Zones"),
    "timetable": ("3", "Timetable"),
    "warmup": ("4", "Warm-up"),
    "signatures": ("5", "Signatures"),
    "tariff": ("6", "Tariff"),
    "rules": ("7", "Rules"),
    "import_log": ("i", "Import"),
}
MOST_MEASURES, NARROW_WIDTH = 3, 256


@dataclass(frozen=True, slots=True, kw_only=True)
class MatterRow:
    """A line of the list; ``rank`` is its number, "–" for one put aside."""

    key: str
    rank: str
    kind: str
    word: str
    is_first: bool
    sentence: str
    why: str
    amount: str
    span: str
    interval: Interval | None
    minutes: int
    step_key: str
    step_name: str
    url: str
    has_working: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class AsideRow:
    """A line put aside: whose decision, why, and when it comes back."""

    row: MatterRow
    said: str
    back: str


@dataclass(frozen=True, slots=True, kw_only=True)
class MeasureRow:
    """A measurement: what it is, what it leaves of the sum's range, by how much that is narrower, which lines it feeds."""

    title: str
    how: str
    work: str
    feeds: str
    url: str
    after: str
    narrower: str
    box: Interval


@dataclass(frozen=True, slots=True, kw_only=True)
class MattersView:
    """The page: rows, those put aside, the sum, what to measure next."""

    rows: list[MatterRow]
    aside: list[AsideRow]
    ticks: tuple[AmountTick, ...]
    axis_width: int
    total: str
    total_span: str
    work: str
    minutes: int
    currency: str
    has_money: bool
    now_box: Interval
    now_span: str
    now_width: str
    narrow_ticks: tuple[AmountTick, ...]
    measures: list[MeasureRow]
    together: str


def matters_view(home: Home, found: Matters) -> MattersView:
    """Return the list of a home as it is shown."""
    currency = home.currency
    amounts = [line.money for line in (*found.lines, *found.aside) if line.money]
    axis, narrow = axis_of(amounts), axis_of([found.total], NARROW_WIDTH)
    rows = [_row(home, line, str(place + 1), axis) for place, line in enumerate(found.lines)]
    firsts = {row.kind: row.key for row in reversed(rows)}
    rank_of = {line.key: place + 1 for place, line in enumerate(found.lines)}
    first_measures = found.measures[:MOST_MEASURES]
    return MattersView(
        rows=[replace(row, is_first=firsts[row.kind] == row.key) for row in rows],
        aside=[_aside_row(home, line, axis) for line in found.aside],
        ticks=axis.ticks,
        axis_width=WIDTH,
        total=_whole(found.total.value, currency),
        total_span=_span(found.total),
        work=_work(found.minutes),
        minutes=found.minutes,
        currency=show.currency_sign(currency),
        has_money=bool(amounts),
        now_box=narrow.interval(found.total),
        now_span=_span(found.total),
        now_width=show.number(found.total.width, 0),
        narrow_ticks=narrow.ticks,
        measures=[_measure(home, each, rank_of, narrow) for each in first_measures],
        together=_together(found) if len(first_measures) > 1 else "",
    )


def _whole(value: float, currency: str) -> str:
    return show.money(round(value), currency, 0)


def _span(money: MoneySum) -> str:
    return f"{show.number(money.low, 0)} to {show.number(money.high, 0)}"


def _work(minutes: int) -> str:
    if minutes < MIN_PER_H:
        return f"{minutes} min of work"
    return f"{minutes / MIN_PER_H:.1f} h of work".replace(".0 h", " h")


def _together(found: Matters) -> str:
    minutes = sum(each.offer.minutes for each in found.measures[:MOST_MEASURES])
    narrower = found.total.width - found.together.width
    count = {2: "both", 3: "all three"}[min(len(found.measures), MOST_MEASURES)]
    return f"{count}, {minutes} min: {_span(found.together)}, {show.number(narrower, 0)} narrower"


def _row(home: Home, line: MatterLine, rank: str, axis: AmountAxis) -> MatterRow:
    key, name = STEP[line.step]
    money = line.money
    return MatterRow(
        key=line.key,
        rank=rank,
        kind=line.kind,
        word=KIND_WORD[line.kind],
        is_first=False,
        sentence=line.sentence,
        why=line.why,
        amount="–" if money is None else show.number(money.value, 0),
        span="" if money is None else f"{show.number(money.low, 0)} to {show.number(money.high, 0)}",
        interval=None if money is None else axis.interval(money),
        minutes=line.minutes,
        step_key=key,
        step_name=name,
        url=_with_way_back(home, url_of(home, line.step, line.part_id)),
        has_working=line.figure is not None,
    )


def _aside_row(home: Home, line: MatterLine, axis: AmountAxis) -> AsideRow:
    said = next(each for each in home.put_aside if each.key == line.key)
    who = f"{said.by}, " if said.by else ""
    back = f"back on {show.day_short(said.until, home.country)}" if said.until else "until it is taken up again"
    words = f"{who}{show.day_short(said.on, home.country)}: “{said.reason}” Not in the sum."
    return AsideRow(row=_row(home, line, "–", axis), said=words, back=back)


def _measure(home: Home, each: MeasureNext, rank_of: Mapping[str, int], axis: AmountAxis) -> MeasureRow:
    numbers = [str(rank_of[key]) for key in each.feeds]
    offer = each.offer
    return MeasureRow(
        title=offer.title,
        how=offer.how,
        work=f"{offer.minutes} min" + (f", {offer.days} days" if offer.days else ""),
        feeds=f"feeds line{'s' * (len(numbers) != 1)} {', '.join(numbers)}",
        url=_measure_url(home, offer),
        after=_span(each.after),
        narrower=show.number(each.narrower, 0),
        box=axis.interval(each.after),
    )


def _measure_url(home: Home, offer: MeasureOffer) -> str:
    return _with_way_back(home, url_of(home, offer.step, offer.part_id))


def _with_way_back(home: Home, url: str) -> str:
    """Return an address from whose page a link leads back to the list."""
    if "back=" in url:
        return url
    return f"{url}{'&' if '?' in url else '?'}back={quote(link('matters', home.id), safe='')}"


def url_of(home: Home, step: PageStep, part_id: str) -> str:
    """Return the address of the page where a line is done, at the part that it is about."""
    if step in ("survey", "heating", "devices", "zones"):
        return link_to(home, part_id) if part_id else link(step, home.id)
    if step in ("ducts", "water", "circuits", "sun", "tasks"):
        return link(step, home.id, at=part_id) if part_id else link(step, home.id)
    if step == "timetable":
        zone = next((z.id for z in home.zones if part_id == z.id or part_id in z.room_ids), "")
        return link(step, home.id, zone=zone) if zone else link(step, home.id)
    if step == "import_log":
        return link(step, home.id, back=link("matters", home.id))
    names = {"warmup": "room", "signatures": "machine", "rules": "rule"}
    machines = {machine.id for machine in home.appliances}
    if step == "tariff" and part_id in machines:
        return link("signatures", home.id, machine=part_id)
    return link(step, home.id, **{names[step]: part_id}) if step in names and part_id else link(step, home.id)
