"""Money in heat: deeper setbacks, zones that are never set back, rooms above what is asked, sensors nobody checked."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace

from warmeter.core.figure import Figure, Input
from warmeter.core.matters.evidence import ClimateYear, HeatedRoom, HomeEvidence, IdleHours, WeekGap
from warmeter.core.matters.heat_year import gap_cost_year, kelvin_costs, lower_saves, with_loss, with_store
from warmeter.core.matters.line import MatterLine, MeasureOffer, MoneyDoubt, YearlyMoney
from warmeter.core.sentence import celsius, kelvin, sentence
from warmeter.core.units import J_PER_WH, S_PER_H, S_PER_MIN

DEEPER_K, FIRST_SETBACK_K = 1.0, 3.0
NIGHT_MIN = 480.0
WEEK_DAYS, TWO_SIDED, STILL_DOUBT = 7, 1.96, 0.3
# 95 % half widths over the amount: what one year differs from the next in degree days, and the closed form of one
# store from a room of two stores (tests/core/matters hold it to a simulated season).
YEAR_DOUBT, MADE_UP_DOUBT, FORM_DOUBT = 0.12, 0.20, 0.30
SENSOR_DOUBT_K = 0.5  # a room sensor that nobody checked, as its maker promises
LEAST_EXCESS_K = 0.7
LEAST_MONEY = 1.0  # of the home's currency a year
# A fit of a fortnight knows the loss to ±20 % in the middle (docs/figures); with ±22 % as many widths come out under the
# promise as over it (`promise-agree`, seeds 6000 to 6019). A checked thermometer knows a sensor to 0.15 K.
FITTED_HALF, CHECKED_FACTOR = 0.22, 0.3
FIT_DAYS = 14

Worth = Callable[[HeatedRoom], float]


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
    yield from _unchecked_sensors(evidence, evidence.climate)


def _deeper(climate: ClimateYear, zone_id: str, name: str, rooms: Sequence[HeatedRoom]) -> Iterator[MatterLine]:
    gaps = rooms[0].gaps
    money = _money(climate, rooms, lambda room: lower_saves(room, climate, DEEPER_K))
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
        figure=_setback_figure(f"deeper:{zone_id}", f"{name}, set back further", climate, rooms, money),
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
            level_name="",
            price_held=room.night_price,
            price_reheat=room.morning_price,
        )
        return gap_cost_year(room, climate, gap, gap.held_c) - gap_cost_year(room, climate, gap, gap.low_c)

    money = _money(climate, rooms, saved)
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
        figure=_setback_figure(f"set-back:{zone_id}", f"{name}, set back at night", climate, rooms, money),
    )


def _second_zone(climate: ClimateYear, zone_id: str, name: str, rooms: Sequence[HeatedRoom]) -> Iterator[MatterLine]:
    """Yield the rooms of a zone of several that their log shows above what the zone asks."""
    for room in rooms if len(rooms) > 1 else ():
        excess = room.excess_k
        if excess is None or excess.value < LEAST_EXCESS_K:
            continue

        def worth(one: HeatedRoom, times_k: float = excess.value) -> float:
            return times_k * kelvin_costs(one, climate)

        money = _money(climate, (room,), worth, form=0.0)
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
            figure=_kelvin_figure(f"second-zone:{room.room_id}", room, climate, excess.value, money),
        )


def _idle_hours(climate: ClimateYear, idle: IdleHours, name: str, rooms: Sequence[HeatedRoom]) -> Iterator[MatterLine]:
    a_week, hours = idle.count / idle.weeks, idle.minutes * S_PER_MIN / S_PER_H

    def saved(room: HeatedRoom) -> float:
        gap = WeekGap(
            times_a_week=a_week,
            minutes=idle.minutes,
            held_c=idle.held_c,
            low_c=idle.low_c,
            level_name="",
            price_held=room.price,
            price_reheat=room.price,
        )
        return gap_cost_year(room, climate, gap, gap.held_c) - gap_cost_year(room, climate, gap, gap.low_c)

    money = _money(climate, rooms, saved)
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
        figure=_setback_figure(f"idle:{idle.zone_id}", f"{name}, idle while nobody is there", climate, rooms, money),
    )


def _unchecked_sensors(evidence: HomeEvidence, climate: ClimateYear) -> Iterator[MatterLine]:
    doubts, names, whole = [], [], 0.0
    for zone in evidence.home.zones:
        devices = [evidence.home.device(key) for key in zone.counted_ids]
        rooms = [room for room in evidence.rooms if room.zone_id == zone.id]
        unchecked = [d for d in devices if not d.calibrations]
        if not unchecked or not rooms:
            continue
        per_k = sum(kelvin_costs(room, climate) for room in rooms)
        half = per_k * SENSOR_DOUBT_K * len(unchecked) ** 0.5 / len(devices)
        doubts.append(MoneyDoubt(cause=f"sensor:{zone.id}", down=half, up=half))
        names += [d.name for d in unchecked]
        whole += per_k
    if whole * SENSOR_DOUBT_K < LEAST_MONEY:
        return
    money = YearlyMoney(value=0.0, doubts=tuple(doubts))
    yield MatterLine(
        key="sensors",
        kind="unknown",
        sentence=f"{len(names)} sensor{'s' * (len(names) != 1)} that decide{'s' * (len(names) == 1)} "
        f"{'were' if len(names) != 1 else 'was'} never checked",
        why=sentence(
            "{}: each may be {} off either way, which costs heat or comfort.", ", ".join(names), kelvin(SENSOR_DOUBT_K)
        ),
        minutes=10 + 5 * len(names),
        step="devices",
        money=money,
        figure=Figure(
            key="sensors",
            title="What sensors nobody checked may cost",
            unit=f"{evidence.home.currency} a year",
            value=0.0,
            low=money.low,
            high=money.high,
            decimals=0,
            formula="± 0.5 K/√n · Σ rooms (H · 8760 h · share of heated days · price/efficiency)",
            substituted=sentence("{} of all rooms cost {:.0f} a year", kelvin(1), whole),
            method="steady loss over the year's days; sensors err each by itself",
            note="Best is none: a sensor that nobody checked is as likely too high as too low.",
        ),
    )


def heat_offers(evidence: HomeEvidence) -> Iterator[MeasureOffer]:
    """Yield what can be measured of the heat: rooms logged, or logged for longer, and sensors checked."""
    for room in evidence.rooms:
        if not room.is_fitted:
            yield MeasureOffer(
                key=f"log:{room.room_id}",
                title=f"Log {room.name} for a fortnight",
                how="a logger at 1.5 m on an inside wall, and its heat; then fit it",
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
    unchecked = [
        zone for zone in evidence.home.zones if any(not evidence.home.device(d).calibrations for d in zone.counted_ids)
    ]
    if unchecked:
        yield MeasureOffer(
            key="check-sensors",
            title="Lay the sensors that decide beside a checked thermometer",
            how="an hour in one place out of the sun; write what each shows",
            causes=tuple(f"sensor:{zone.id}" for zone in unchecked),
            factor=CHECKED_FACTOR,
            minutes=10 + 5 * len(unchecked),
            step="devices",
        )


def _money(climate: ClimateYear, rooms: Sequence[HeatedRoom], worth: Worth, form: float = FORM_DOUBT) -> YearlyMoney:
    """Return what something is worth in some rooms, with the doubt of each room's loss and mass, the year and the form."""
    values = [worth(room) for room in rooms]
    value = sum(values)
    doubts = []
    for room, best in zip(rooms, values, strict=True):
        loss, store = room.loss_w_k, room.store_j_k
        doubts.append(_doubt(f"loss:{room.room_id}", best, [worth(with_loss(room, x)) for x in (loss.low, loss.high)]))
        ends = [worth(with_store(room, x)) for x in (store.low, store.high)]
        doubts.append(_doubt(f"store:{room.room_id}", best, ends))
    year = YEAR_DOUBT if climate.logged_days > 300 else MADE_UP_DOUBT
    doubts.append(MoneyDoubt(cause="weather", down=year * abs(value), up=year * abs(value)))
    if form:
        doubts.append(MoneyDoubt(cause="one store", down=form * abs(value), up=form * abs(value)))
    return YearlyMoney(value=value, doubts=tuple(doubts))


def _doubt(cause: str, best: float, ends: Sequence[float]) -> MoneyDoubt:
    return MoneyDoubt(cause=cause, down=max(0.0, best - min(ends)), up=max(0.0, max(ends) - best))


def _setback_figure(
    key: str, title: str, climate: ClimateYear, rooms: Sequence[HeatedRoom], money: YearlyMoney
) -> Figure:
    lead = max(rooms, key=lambda room: room.loss_w_k.value)
    return Figure(
        key=key,
        title=title,
        unit=f"{lead.currency} a year",
        value=money.value,
        low=money.low,
        high=money.high,
        decimals=0,
        formula="Σ days Σ periods: cost(now) − cost(lower), each by E4 with outdoors raised by gains/H",
        substituted=f"{len(rooms)} room{'s' * (len(rooms) != 1)}, {climate.outdoor_c.size} bins of the year's days, "
        f"{climate.logged_days} of them logged",
        method="E4 cost of a setback, one store",
        inputs=_room_inputs(lead),
        note="The largest room's numbers are shown. The range holds each room's loss and mass, what one year differs from "
        "the next, and what one store differs from a room of two.",
    )


def _kelvin_figure(key: str, room: HeatedRoom, climate: ClimateYear, excess_k: float, money: YearlyMoney) -> Figure:
    return Figure(
        key=key,
        title=f"{room.name}, warmer than asked",
        unit=f"{room.currency} a year",
        value=money.value,
        low=money.low,
        high=money.high,
        decimals=0,
        formula="excess · H · 8760 h · share of heated days · price/efficiency",
        substituted=sentence("{} · {:.1f} a year for each", kelvin(excess_k, 2), kelvin_costs(room, climate)),
        method="steady loss over the year's days",
        inputs=_room_inputs(room),
    )


def _room_inputs(room: HeatedRoom) -> tuple[Input, ...]:
    return (
        Input(
            symbol="H",
            name=f"heat loss, {room.name}",
            value=room.loss_w_k.value,
            unit="W/K",
            decimals=1,
            origin="measured" if room.is_fitted else "surveyed",
        ),
        Input(
            symbol="C",
            name="thermal mass",
            value=room.store_j_k.value / J_PER_WH,
            unit="Wh/K",
            decimals=0,
            origin="measured" if room.is_fitted else "surveyed",
        ),
        Input(symbol="G", name="gains", value=room.gain_w, unit="W", decimals=0, origin="assumed"),
        Input(symbol="p", name="price, mean of a week", value=room.price, unit="/kWh", decimals=3, origin="typed"),
    )
