"""Money in heat: deeper setbacks, zones that are never set back, rooms above what is asked, hours with nobody there."""

from collections.abc import Iterator, Sequence
from dataclasses import replace

from warmeter.core.matters.evidence import ClimateYear, HeatedRoom, HomeEvidence, IdleHours, WeekGap
from warmeter.core.matters.heat_money import kelvin_figure, rooms_money, setback_figure
from warmeter.core.matters.heat_year import gap_cost_year, kelvin_costs, lower_saves
from warmeter.core.matters.line import LEAST_MONEY, MatterLine, MeasureOffer, MoneyDoubt
from warmeter.core.sentence import Measure, celsius, kelvin, sentence
from warmeter.core.units import S_PER_H, S_PER_MIN

DEEPER_K, FIRST_SETBACK_K = 1.0, 3.0
NIGHT_MIN = 480.0
WEEK_DAYS, TWO_SIDED, STILL_DOUBT = 7, 1.96, 0.3
LEAST_EXCESS_K = 0.7
# A fit of a fortnight knows the loss to ±20 % in the middle (docs/figures); with ±22 % as many widths come out under the
# promise as over it (`promise-agree`, seeds 6000 to 6019).
FITTED_HALF = 0.22
FIT_DAYS, LOGGER_M = 14, 1.5


def heat_lines(evidence: HomeEvidence) -> Iterator[MatterLine]:
    """Yield the lines on the heat of rooms; none without a year of weather and a price."""
    if evidence.climate is None:
        return
    for zone in evidence.home.zones:
        rooms = tuple(room for room in evidence.rooms if room.zone_id == zone.id)
        if rooms:
            yield from _deeper(evidence.climate, zone.id, zone.name, rooms)
            yield from _first_setback(evidence.climate, zone.id, zone.name, rooms)
            yield from _second_zone(evidence.climate, zone.id, zone.name, rooms)
            for idle in evidence.idle:
                if idle.zone_id == zone.id:
                    yield from _idle_hours(evidence.climate, idle, zone.name, rooms)


def _deeper(climate: ClimateYear, zone_id: str, name: str, rooms: Sequence[HeatedRoom]) -> Iterator[MatterLine]:
    gaps = rooms[0].gaps
    money = rooms_money(climate, rooms, lambda room: lower_saves(room, climate, DEEPER_K))
    if not gaps or money.value < LEAST_MONEY:
        return
    hours = sum(gap.times_a_week * gap.minutes for gap in gaps) * S_PER_MIN / S_PER_H
    deepest = min(gap.low_c for gap in gaps)
    yield MatterLine(
        key=f"deeper:{zone_id}",
        kind="money",
        sentence=sentence("{} could be {} cooler while nobody needs it warm", name, kelvin(DEEPER_K)),
        why=sentence(
            "Its setback periods, {:.0f} h a week, go down to {} now; the protection limit is {}.",
            hours,
            celsius(deepest),
            celsius(rooms[0].lowest_guard_c),
        ),
        minutes=5,
        step="timetable",
        part_id=zone_id,
        money=money,
        figure=setback_figure(f"deeper:{zone_id}", f"{name}, set back further", climate, rooms, money),
    )


def _first_setback(climate: ClimateYear, zone_id: str, name: str, rooms: Sequence[HeatedRoom]) -> Iterator[MatterLine]:
    lead = rooms[0]
    if lead.gaps or lead.mean_c - FIRST_SETBACK_K < lead.lowest_guard_c:
        return

    def saved(room: HeatedRoom) -> float:
        gap = WeekGap(
            times_a_week=7,
            minutes=NIGHT_MIN,
            held_c=room.mean_c,
            low_c=room.mean_c - FIRST_SETBACK_K,
            price_held=room.night_price,
            price_reheat=room.morning_price,
        )
        return gap_cost_year(room, climate, gap, gap.held_c) - gap_cost_year(room, climate, gap, gap.low_c)

    money = rooms_money(climate, rooms, saved)
    if money.value < LEAST_MONEY:
        return
    yield MatterLine(
        key=f"set-back:{zone_id}",
        kind="money",
        sentence=sentence("{} is held at {} day and night", name, celsius(lead.mean_c, 1)),
        why=sentence("Eight hours of each night {} lower are reckoned with.", kelvin(FIRST_SETBACK_K)),
        minutes=10,
        step="timetable",
        part_id=zone_id,
        money=money,
        figure=setback_figure(f"set-back:{zone_id}", f"{name}, set back at night", climate, rooms, money),
    )


def _second_zone(climate: ClimateYear, zone_id: str, name: str, rooms: Sequence[HeatedRoom]) -> Iterator[MatterLine]:
    """Yield the rooms of a zone of several that their log shows above what the zone asks."""
    for room in rooms if len(rooms) > 1 else ():
        excess = room.excess_k
        if excess is None or excess.value < LEAST_EXCESS_K:
            continue

        def worth(one: HeatedRoom, times_k: float = excess.value) -> float:
            return times_k * kelvin_costs(one, climate)

        money = rooms_money(climate, (room,), worth, form=0.0)
        each_k = kelvin_costs(room, climate)
        measured = MoneyDoubt(
            cause=f"excess:{room.room_id}",
            down=each_k * (excess.value - excess.low),
            up=each_k * (excess.high - excess.value),
        )
        money = replace(money, doubts=(*money.doubts, measured))
        if money.value < LEAST_MONEY:
            continue
        yield MatterLine(
            key=f"second-zone:{room.room_id}",
            kind="money",
            sentence=sentence("{} is {} warmer than {} asks", room.name, kelvin(excess.value, 1), name),
            why="Measured in the dark on cold days; a zone and a valve of its own would end it.",
            minutes=20,
            step="zones",
            part_id=zone_id,
            money=money,
            figure=kelvin_figure(f"second-zone:{room.room_id}", room, climate, excess.value, money),
        )


def _idle_hours(climate: ClimateYear, idle: IdleHours, name: str, rooms: Sequence[HeatedRoom]) -> Iterator[MatterLine]:
    a_week, hours = idle.count / idle.weeks, idle.minutes * S_PER_MIN / S_PER_H

    def saved(room: HeatedRoom) -> float:
        gap = WeekGap(
            times_a_week=a_week,
            minutes=idle.minutes,
            held_c=idle.held_c,
            low_c=idle.low_c,
            price_held=room.price,
            price_reheat=room.price,
        )
        return gap_cost_year(room, climate, gap, gap.held_c) - gap_cost_year(room, climate, gap, gap.low_c)

    money = rooms_money(climate, rooms, saved)
    if money.value < LEAST_MONEY:
        return
    # So many stretches in a log came by chance; and of a witness that says nobody some are somebody who sits still.
    chance = TWO_SIDED * money.value / max(idle.count, 1) ** 0.5
    seen = MoneyDoubt(
        cause=f"presence:{idle.zone_id}", down=(chance**2 + (STILL_DOUBT * money.value) ** 2) ** 0.5, up=chance
    )
    money = replace(money, doubts=(*money.doubts, seen))
    yield MatterLine(
        key=f"idle:{idle.zone_id}",
        kind="money",
        sentence=sentence(
            "{} was asked to hold {} for {:.0f} h a week with nobody there",
            name,
            celsius(idle.held_c, 1),
            a_week * hours,
        ),
        why=sentence(
            "{} stretches of an hour or more in {:.0f} days; {} would do meanwhile. Who sits still may not be seen.",
            str(idle.count),
            idle.weeks * WEEK_DAYS,
            celsius(idle.low_c),
        ),
        minutes=10,
        step="rules",
        money=money,
        figure=setback_figure(f"idle:{idle.zone_id}", f"{name}, idle while nobody is there", climate, rooms, money),
    )


def heat_offers(evidence: HomeEvidence) -> Iterator[MeasureOffer]:
    """Yield what can be measured of the heat: rooms logged, or logged for longer, and sensors checked."""
    for room in evidence.rooms:
        if not room.is_fitted:
            yield MeasureOffer(
                key=f"log:{room.room_id}",
                title=f"Log {room.name} for a fortnight",
                how=sentence("a logger at {} on an inside wall, and its heat; then fit it", Measure(LOGGER_M, "m")),
                causes=(f"loss:{room.room_id}", f"store:{room.room_id}"),
                factor=min(1.0, FITTED_HALF / max(room.loss_w_k.half_width, FITTED_HALF)),
                minutes=10,
                days=FIT_DAYS,
                step="warmup",
                part_id=room.room_id,
            )
        elif room.more_days is not None and room.half_width_then is not None:
            yield MeasureOffer(
                key=f"log:{room.room_id}",
                title=f"Log {room.name} for {room.more_days:.0f} days more",
                how="leave the logger where it is, then fit it anew",
                causes=(f"loss:{room.room_id}", f"store:{room.room_id}"),
                factor=min(1.0, room.half_width_then / room.loss_w_k.half_width),
                minutes=5,
                days=round(room.more_days),
                step="warmup",
                part_id=room.room_id,
            )
