"""Water as ready strings: cases of a point, the next sensor, tests of alarm paths, ways of noticing."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from warmeter.core.explain.home_water import HomeWater, PathWater, PointWater
from warmeter.core.explain.water_figures import CASE_WORDS
from warmeter.core.home.devices import SafetyChain
from warmeter.core.home.document import Home
from warmeter.core.units import S_PER_MIN, litres_to
from warmeter.core.water.alarm_path import ShutTrend
from warmeter.core.water.detection_ways import DRIP_L_DAY, DRIP_L_MIN, FalseAlarms, WayLitres
from warmeter.core.water.usual_points import USUAL_POINT
from warmeter.core.wording import day_short
from warmeter.store.photos import PhotoLine
from warmeter.web import format as show
from warmeter.web.work.checklist_view import ChecklistView, checklists_about

BAR_PX, SECONDS_BELOW, FEW_GAL = 60.0, 120.0, 20.0
TESTS_SHOWN, TEST_STEP_PX, TREND_HEIGHT_PX = 14, 18, 60
WAY_WORDS = {"point": "leak sensor at the point", "flow": "flow through the meter", "pressure": "pressure, at night"}


@dataclass(frozen=True, slots=True, kw_only=True)
class CaseRow:
    """A case of a burst: seconds to told and to shut, litres with range, and a bar of them."""

    key: str
    words: str
    who: str
    told: str
    shut: str
    litres: str
    range: str
    bar_px: float
    is_much: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceRow:
    """A place for another leak sensor."""

    point_id: str
    words: str
    flow: str
    now: str
    then: str
    saved: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SensorRow:
    """A leak sensor: how it is fed, what it covers first and what of its room it does not."""

    id: str
    name: str
    fed: str
    covers: str
    wet: str
    misses: str


@dataclass(frozen=True, slots=True, kw_only=True)
class WayRow:
    """A way of noticing: for a burst and for a drip, when it is noticed and how many litres that takes."""

    words: str
    burst: str
    burst_litres: str
    drip: str
    drip_litres: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PathView:
    """An alarm path with its tests: bars of seconds to shut, the limit, the growth in words, and when it is due."""

    chain: SafetyChain
    bars: list[tuple[float, float, float, str]]
    width: int
    limit_y: float
    growth: str
    due: str
    is_due: bool
    checklists: list[ChecklistView]


def seconds(value: float) -> str:
    """Return seconds, from two minutes on as a duration."""
    return f"{show.number(value)} s" if value < SECONDS_BELOW else show.duration(value / S_PER_MIN)


def _plain(home: Home, litres: float, decimals: int = 0) -> str:
    """Return a volume in the home's unit without its sign; a few gallons have a decimal."""
    shown = litres_to(litres, home.length_unit)
    return show.number(shown, 1 if home.length_unit == "ft" and shown < FEW_GAL else decimals)


def case_rows(home: Home, own: PointWater) -> list[CaseRow]:
    """Return the six cases of a point's burst."""
    found = own.failures
    most = max((each.litres for each in found), default=0.0) or 1.0
    least = min(each.litres for each in found)
    return [
        CaseRow(
            key=f"case.{each.case}.{own.point.id}",
            words=CASE_WORDS[each.case],
            who=f"{each.sensed_by or 'seen by chance'}, shut by {each.shut_by or 'a person'}",
            told="" if each.told_s is None else seconds(each.told_s),
            shut=seconds(each.shut_at_s),
            litres=_plain(home, each.litres),
            range=f"{_plain(home, each.low_l)} to {_plain(home, each.high_l)}",
            bar_px=round(max(1.0, BAR_PX * each.litres / most), 1),
            is_much=each.litres > 10 * least,
        )
        for each in found
    ]


def place_rows(home: Home, water: HomeWater) -> list[PlaceRow]:
    """Return where another leak sensor would save most, in the order of choosing."""
    return [
        PlaceRow(
            point_id=each.point.id,
            words=f"Beside {each.point.name}",
            flow=_plain(home, each.flow_l_min, 1),
            now=_plain(home, each.now_l),
            then=_plain(home, each.then_l),
            saved=_plain(home, each.saved_next_l),
        )
        for each in water.offer.places
    ]


def pair_note(home: Home, water: HomeWater) -> str:
    """Return what two sensors bought at once should be, where choosing one by one misses it; "" where it does not."""
    found = water.offer.found
    if found.best_pair is None or not found.greedy_pair_short_l or found.greedy_pair_short_l < 1:
        return ""
    first, second = (home.water_point(key).name for key in found.best_pair.ids)
    more = show.volume(found.greedy_pair_short_l, home)
    return f"Buying two at once: beside {first} and {second}, {more} a year more than the first two here."


def sensor_rows(home: Home, water: HomeWater) -> list[SensorRow]:
    """Return the leak sensors in service with what they cover."""
    rows = []
    for device in home.devices:
        if device.kind != "leak_sensor" or not device.is_in_service:
            continue
        reached = [
            (reach, point) for point in home.water_points for reach in point.reaches if reach.device_id == device.id
        ]
        bare = (p for p in home.water_points if p.room_id == device.room_id and not water.is_covered(p.id))
        missed = [p.name for p in bare if p.room_id]
        battery = f", {device.battery_pct} %" if device.battery_pct is not None else ""
        rows.append(
            SensorRow(
                id=device.id,
                name=device.name,
                fed=f"{device.power.replace('_', ' ')}{battery}",
                covers=", ".join(point.name for _, point in reached),
                wet=", ".join("usual" if reach.wet_s is None else f"{reach.wet_s:g} s" for reach, _ in reached),
                misses=", ".join(missed),
            )
        )
    return rows


def way_rows(home: Home, own: PointWater) -> list[WayRow]:
    """Return the ways of noticing a burst and a drip at a point."""
    found = own.ways
    half = len(found) // 2

    def noticed(each: WayLitres) -> str:
        return "never" if each.noticed_s is None else seconds(each.noticed_s)

    def volume(each: WayLitres) -> str:
        return "" if each.litres is None else _plain(home, each.litres)

    return [
        WayRow(
            words=WAY_WORDS[burst.way],
            burst=noticed(burst),
            burst_litres=volume(burst),
            drip=noticed(drip),
            drip_litres=volume(drip),
        )
        for burst, drip in zip(found[:half], found[half:], strict=True)
    ]


def drip_words(home: Home) -> str:
    """Return what flows from a drip that no way notices, a day."""
    return f"a drip of {show.volume(DRIP_L_MIN, home, 2)} a minute is {show.volume(DRIP_L_DAY, home)} a day"


def false_alarm_words(home: Home, found: FalseAlarms | None) -> str:
    """Return what a flow sensor would have told of usual use."""
    practice = home.water_practice
    if found is None:
        return "How often usual use would be told as a leak is not known: no log of the water's flow is there."
    if not found.count:
        return (
            f"On {found.days:.0f} days of the meter's log usual use never ran {practice.flow_min:g} min without a pause; "
            f"the longest was {found.longest_min:.0f} min."
        )
    return (
        f"On {found.days:.0f} days of the meter's log usual use ran longer than {practice.flow_min:g} min {found.count} "
        f"times, so about {found.per_year:.0f} false alarms a year; the longest was {found.longest_min:.0f} min."
    )


def path_views(home: Home, water: HomeWater, today: date, photos: Sequence[PhotoLine]) -> list[PathView]:
    """Return the alarm paths of water with their tests."""
    return [_path(home, path, today, photos) for path in water.paths]


def _path(home: Home, path: PathWater, today: date, photos: Sequence[PhotoLine]) -> PathView:
    chain, due, limit = path.chain, path.next_test, home.water_practice.shut_limit_s
    shown = [t for t in sorted(chain.tests, key=lambda t: t.on) if t.shut_s is not None][-TESTS_SHOWN:]
    top = max(limit, *(t.shut_s or 0.0 for t in shown)) * 1.1 if shown else limit * 1.1
    per_s = TREND_HEIGHT_PX / top
    return PathView(
        chain=chain,
        bars=[
            (
                8 + TEST_STEP_PX * place,
                round(TREND_HEIGHT_PX - (t.shut_s or 0.0) * per_s, 1),
                round((t.shut_s or 0.0) * per_s, 1),
                f"{day_short(t.on, home.country)}: {t.shut_s:g} s",
            )
            for place, t in enumerate(shown)
        ],
        width=16 + TEST_STEP_PX * max(len(shown), 6),
        limit_y=round(TREND_HEIGHT_PX - limit * per_s, 1),
        growth=_growth(path.trend, limit),
        due="never tested" if due is None else f"next on {day_short(due, home.country)}",
        is_due=due is None or due < today,
        checklists=checklists_about(home, chain.id, "leak_test", photos),
    )


def _growth(trend: ShutTrend | None, limit_s: float) -> str:
    if trend is None:
        return "Three tests with their seconds tell whether it grows slow."
    if not trend.is_clear or trend.reaches is None:
        return f"No clear growth: {trend.growth_30_days_s:+.1f} s every 30 days.".replace("-", show.MINUS)
    ends = f"{trend.earliest:%B %Y} to {trend.latest:%B %Y}" if trend.earliest and trend.latest else ""
    return (
        f"Grows {trend.growth_30_days_s:.1f} s every 30 days; {limit_s:g} s about {trend.reaches:%B %Y}, {ends}. Work it "
        "by hand each month; descale or change it."
    )


def point_words(home: Home, own: PointWater) -> str:
    """Return a point's kind and flow."""
    usual = "" if own.point.flow_l_min else ", as usual"
    return f"{USUAL_POINT[own.point.kind].word}, {show.volume(own.flow_l_min, home, 1)} a minute{usual}"
