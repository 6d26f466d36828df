"""Groupings of a home's rooms tried on a typical week: as now, all apart, all together, and one's own."""

from dataclasses import dataclass, replace
from datetime import timedelta

import numpy as np

from warmeter.core.building.compiled import CompiledHome, compile_home
from warmeter.core.building.groupings import RUN_IN_DAYS, GroupingOutcome, Week, ZoneGroup, tried
from warmeter.core.building.room_envelope import floor_area_m2
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.sensing.calibration import CountRule
from warmeter.core.sentence import celsius, kelvin_hours, sentence
from warmeter.core.tariff.prices import minutes_between
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.timetable.day import blocks_of
from warmeter.core.units import MIN_PER_DAY, MS_PER_MIN
from warmeter.service.app import App
from warmeter.service.readings.room_logs import clear_sky, instants, series_of
from warmeter.service.tariffs.pricing import known_prices

WEEK_DAYS = 7
GAIN_W_M2, SUN_M2_M2, CLOUD = 4.0, 0.02, 0.4
MADE_UP_SWING_K = 3.0
SURVEY_DOUBT, LEARNT_DOUBT = 0.25, 0.1
CLOSE_KH = 5.0
STRAINED_H = 12.0  # a warm-up of half a day at full heat that does not arrive is no warm-up


@dataclass(frozen=True, slots=True, kw_only=True)
class GroupingProposal:
    """A grouping to try: groups of rooms, the first of each leading, and how its sensors count."""

    key: str
    name: str
    groups: tuple[tuple[str, ...], ...]
    rule: CountRule
    is_now: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Trial:
    """A proposal after its week, with its cost at losses as low and as high as they may be."""

    proposal: GroupingProposal
    found: GroupingOutcome
    low: GroupingOutcome
    high: GroupingOutcome
    sensors: int
    valve_heads: int
    broken: tuple[str, ...]
    dangers: tuple[str, ...]
    too_small: tuple[str, ...]

    @property
    def underheating_kh(self) -> float:
        """K·h short in all rooms together."""
        return float(self.found.underheating_kh.sum())

    @property
    def overheating_kh(self) -> float:
        """K·h over in all rooms together."""
        return float(self.found.overheating_kh.sum())


@dataclass(frozen=True, slots=True, kw_only=True)
class GroupingComparison:
    """All trials, what week they stand on, and what the numbers favour."""

    home: CompiledHome
    trials: tuple[Trial, ...]
    weather: str
    learnt: int
    doubt: float
    favoured: Trial
    reason: str
    other: str


def proposals_of(
    home: Home, leader: str = "", own: dict[str, str] | None = None, rule: CountRule = "one"
) -> tuple[GroupingProposal, ...]:
    """Return what is worth trying; ``own`` gives each room a letter for a grouping of one's own."""
    rooms = tuple(r.id for r in home.rooms if r.condition == "heated" and home.heaters_of(r.id))
    now = tuple(tuple(k for k in z.room_ids if k in rooms) for z in home.zones)
    lead = leader if leader in rooms else rooms[0] if rooms else ""
    found = [GroupingProposal(key="now", name="As now", groups=tuple(g for g in now if g), rule="one", is_now=True)]
    if any(len(g) > 1 for g in found[0].groups):
        found.append(
            GroupingProposal(key="apart", name="Each room alone", groups=tuple((r,) for r in rooms), rule="one")
        )
    if len(rooms) > 1:
        together = (lead, *(r for r in rooms if r != lead))
        name = f"One zone, {home.room(lead).name} measures" if rule == "one" else f"One zone, {rule} of all"
        found.append(GroupingProposal(key="one", name=name, groups=(together,), rule=rule))
    if own:
        groups: dict[str, list[str]] = {}
        for room in rooms:
            groups.setdefault(own.get(room) or room, []).append(room)
        chosen = tuple(tuple(sorted(g, key=lambda r: r != lead)) for g in groups.values())
        if chosen not in {p.groups for p in found}:
            found.append(GroupingProposal(key="own", name="Your grouping", groups=chosen, rule=rule))
    return tuple(found)


def compare_groupings(app: App, home: Home, proposals: tuple[GroupingProposal, ...]) -> GroupingComparison:
    """Return every proposal's week.

    Raises
    ------
    HomeError
        If there is nothing to heat, or no room in a zone.
    """
    learnt = learnt_rooms(app, home)
    compiled = compile_home(home, learnt)
    if not proposals or not proposals[0].groups:
        raise HomeError("no zone has a heated room yet; draw rooms and place heaters first")
    week, weather = typical_week(app, home, compiled)
    share = sum(key in learnt for key in compiled.room_ids) / len(compiled.room_ids)
    doubt = share * LEARNT_DOUBT + (1 - share) * SURVEY_DOUBT
    light, heavy = (_leakier(compiled, 1 + sign * doubt) for sign in (-1, 1))
    trials = tuple(_trial(home, compiled, light, heavy, week, p) for p in proposals)
    best, reason, other = verdict(home, trials)
    return GroupingComparison(
        home=compiled,
        trials=trials,
        weather=weather,
        learnt=len(learnt),
        doubt=doubt,
        favoured=best,
        reason=reason,
        other=other,
    )


def _leakier(home: CompiledHome, factor: float) -> CompiledHome:
    """Return a home whose rooms lose so much more to outdoors, between rooms as before."""
    a, b = home.a.copy(), home.b.copy()
    outward = b[:, 0] * (factor - 1)
    a[np.diag_indices_from(a)] -= outward
    b[:, 0] += outward
    return replace(home, a=a, b=b)


def _trial(
    home: Home, compiled: CompiledHome, light: CompiledHome, heavy: CompiledHome, week: Week, proposal: GroupingProposal
) -> Trial:
    zones = zone_groups(home, compiled, week, proposal)
    found = tried(compiled, week, zones)
    heads = 0 if len(proposal.groups) == 1 else sum(h.kind == "radiator" for h in home.heaters)
    broken = tuple(sentence for k, key in enumerate(compiled.room_ids) if (sentence := _limits(home, key, found, k)))
    return Trial(
        proposal=proposal,
        found=found,
        low=tried(light, week, zones),
        high=tried(heavy, week, zones),
        sensors=len(proposal.groups),
        valve_heads=heads,
        broken=broken,
        dangers=tuple(_under_guard(home, compiled.room_ids, found)),
        too_small=tuple(
            f"{home.room(key).name}: its heaters gave all they can for {found.strained_h[k]:.0f} h on end and it stayed under "
            "what is asked: they are too small for this week, or their source is"
            for k, key in enumerate(compiled.room_ids)
            if found.strained_h[k] >= STRAINED_H
        ),
    )


def _under_guard(home: Home, room_ids: tuple[str, ...], found: GroupingOutcome) -> list[str]:
    """Return which rooms fall under the home's own guard limit, where pipes and people are at risk."""
    limits = [(k, home.room(key).name, home.guard_of(home.zone_of_room(key)).low_c) for k, key in enumerate(room_ids)]
    return [
        sentence(
            "{} falls to {}, under its protection limit of {}: pipes and people there are at risk",
            name,
            celsius(found.coldest_c[k], 1),
            celsius(low, 1),
        )
        for k, name, low in limits
        if found.coldest_c[k] < low
    ]


def _limits(home: Home, room_id: str, found: GroupingOutcome, k: int) -> str:
    """Return which limit of a room's own zone its week breaks, if one."""
    zone, name = home.zone_of_room(room_id), home.room(room_id).name
    low = home.guard_of(zone).low_c
    if zone is not None and zone.low_c is not None:
        low = max(low, zone.low_c - 0.5)
    if found.coldest_c[k] < low:
        return sentence("{} falls to {}", name, celsius(found.coldest_c[k], 1))
    high = zone.high_c if zone is not None and zone.high_c is not None else home.guard.high_c
    if found.warmest_c[k] > high + 1.0:
        return sentence("{} rises to {}", name, celsius(found.warmest_c[k], 1))
    return ""


def zone_groups(home: Home, compiled: CompiledHome, week: Week, proposal: GroupingProposal) -> tuple[ZoneGroup, ...]:
    """Return a proposal's zones: each asks what the most demanding of its rooms wants at every minute."""
    place = {key: k for k, key in enumerate(compiled.room_ids)}
    plans = []
    for group in proposal.groups:
        rooms = tuple(place[key] for key in group)
        weights, rule = _counted(home, group, proposal)
        plans.append(
            ZoneGroup(
                name=group[0],
                rooms=rooms,
                setpoint_c=np.nanmax(week.needs_c[list(rooms)], axis=0),
                weights=weights,
                rule=rule,
            )
        )
    return tuple(plans)


def _counted(home: Home, group: tuple[str, ...], proposal: GroupingProposal) -> tuple[tuple[float, ...], CountRule]:
    """Return the weight of each room's air and the rule: the zone's own as now, else the proposal's."""
    zone = home.zone_of_room(group[0])
    sensing = zone.sensing_at(None) or (zone.sensing[0] if zone.sensing else None) if zone else None
    if proposal.is_now and sensing is not None:
        by_room = dict.fromkeys(group, 0.0)
        for counted in sensing.sensors:
            room_id = home.device(counted.device_id).room_id
            if room_id in by_room:
                by_room[room_id] += counted.weight if sensing.rule == "weighted" else 1.0
        if sum(by_room.values()) > 0:
            return tuple(by_room.values()), sensing.rule
    if proposal.rule == "one" or proposal.is_now:
        return (1.0, *(0.0 for _ in group[1:])), "one"
    return tuple(1.0 for _ in group), proposal.rule


def typical_week(app: App, home: Home, compiled: CompiledHome) -> tuple[Week, str]:
    """Return the week that groupings are tried on, and in words where its weather comes from.

    The last ten days of the outdoor log, the first three to settle; without a log a made-up stretch half way
    between the design day and 15 °C.
    """
    clock = app.clock(home)
    end_day = clock.day_of(app.as_of_ms(home.id))
    first = end_day.date - timedelta(days=RUN_IN_DAYS + WEEK_DAYS)
    days = [clock.day(first + timedelta(days=k)) for k in range(RUN_IN_DAYS + WEEK_DAYS)]
    start, end = days[0].start_ms, days[-1].end_ms
    grid = np.arange(start, end, MS_PER_MIN, dtype=np.int64)
    measured = instants(app, home, series_of(app, home.id, "outdoor_temperature", ""), grid)
    known = ~np.isnan(measured)
    if known.mean() > 0.8:
        index = np.arange(grid.size)
        outdoor = np.interp(index, index[known], measured[known])
        weather = f"the log's days {days[RUN_IN_DAYS].date:%d %b} to {days[-1].date:%d %b}"
    else:
        middle = (home.design.outdoor_c + 15.0) / 2
        minute = clock.local_minutes(grid)[1]
        outdoor = middle - MADE_UP_SWING_K * np.cos(2 * np.pi * (minute / MIN_PER_DAY - 1 / 6))
        weather = sentence("a made-up week around {}, coldest at 04:00; no log of outdoors yet", celsius(middle, 0))
    sky = clear_sky(home, start, 60.0, grid.size) * CLOUD
    areas = np.array([floor_area_m2(home, home.room(key)) for key in compiled.room_ids])
    gain = areas[:, None] * (GAIN_W_M2 + SUN_M2_M2 * sky[None, :])
    needs = np.full((areas.size, grid.size), np.nan)
    for k, key in enumerate(compiled.room_ids):
        zone = home.zone_of_room(key)
        if zone is None:
            continue
        for day in days:
            for block in blocks_of(home, zone, day, clock):
                low = max(block.setpoint_c, home.guard_of(zone).low_c)
                needs[k, (block.from_ms - start) // MS_PER_MIN : (block.until_ms - start) // MS_PER_MIN] = low
    prices = known_prices(app, home, minutes_between(start, end))
    price = None if prices is None else prices.by_step
    return Week(outdoor_c=outdoor, gain_w=np.ascontiguousarray(gain), needs_c=needs, price=price), weather


def verdict(home: Home, trials: tuple[Trial, ...]) -> tuple[Trial, str, str]:
    """Return what the numbers favour, why, and what speaks for the runner-up.

    A grouping in which a limit breaks is never favoured for what it saves; among those within 5 K·h a room of the
    least shortfall the cheapest (or the one that draws least) is favoured. Where a limit breaks in all, none is: the one that
    is least short is named, and what breaks.
    """
    sound = [t for t in trials if not t.broken]
    if not sound:
        least_short = min(trials, key=lambda t: t.underheating_kh)
        return (
            least_short,
            sentence(
                "None: a limit breaks in each of them, so none is favoured for what it saves. Least short is {} ({}); there: {}",
                least_short.proposal.name,
                kelvin_hours(least_short.underheating_kh),
                least_short.broken[0],
            ),
            "",
        )
    least = min(t.underheating_kh for t in sound)
    warm = [t for t in sound if t.underheating_kh <= least + CLOSE_KH * len(t.found.underheating_kh)]
    best = min(warm, key=lambda t: (_worth(t), t.sensors))
    rest = [t for t in sound if t is not best]
    reason = sentence(
        "{}: {} short in all rooms together, {} over, {:.0f} kWh.",
        best.proposal.name,
        kelvin_hours(best.underheating_kh),
        kelvin_hours(best.overheating_kh),
        best.found.drawn_kwh,
    )
    if not rest:
        return best, reason, ""
    rival = min(rest, key=_worth)
    gap = rival.found.drawn_kwh - best.found.drawn_kwh
    words = []
    if gap < 0:
        words.append(f"it takes {-gap:.0f} kWh less")
    if rival.sensors < best.sensors:
        words.append(f"it needs {_fewer(best.sensors - rival.sensors, 'sensor')}")
    if rival.valve_heads < best.valve_heads:
        words.append(_fewer(best.valve_heads - rival.valve_heads, "valve head"))
    if rival.found.starts < best.found.starts:
        words.append(f"{_fewer(best.found.starts - rival.found.starts, 'start')} of the plant")
    if not words:
        words.append("little: it is no cheaper and no simpler")
    cold = home.room(rival_room(rival, home)).name
    tail = (
        sentence("; against it, {} is {} short", cold, kelvin_hours(float(rival.found.underheating_kh.max())))
        if rival.underheating_kh > 1
        else ""
    )
    return best, reason, sentence("For {}: {}{}.", rival.proposal.name, ", ".join(words), tail)


def _fewer(count: int, word: str) -> str:
    return f"one {word} less" if count == 1 else f"{count} {word}s fewer"


def rival_room(trial: Trial, home: Home) -> str:
    """Return the id of the room that is short the most in a trial."""
    rooms = [r.id for r in home.rooms if r.condition == "heated"]
    return rooms[int(np.argmax(trial.found.underheating_kh))]


def _worth(trial: Trial) -> float:
    return trial.found.cost if trial.found.cost is not None else trial.found.drawn_kwh


def learnt_rooms(app: App, home: Home) -> dict[str, RoomRc]:
    """Return the rooms that logs have taught, in watts."""
    return {
        key: stored.fit.rooms[0]
        for key, stored in app.work.fits(home.id).items()
        if stored.fit.watts_known and stored.fit.is_fit_for_use
    }
