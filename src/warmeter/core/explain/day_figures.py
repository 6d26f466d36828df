"""Figures with their workings: the simulated number, the hand calculation beside it, and why they differ."""

from collections.abc import Sequence
from decimal import Decimal

import numpy as np

from warmeter.core.building.fuel import kwh_per_unit
from warmeter.core.errors import NotKnowable, WarmeterError
from warmeter.core.explain.lead_figure import lead_figure, loss_and_store, origin_of
from warmeter.core.explain.run_figure import Runs, run_figure
from warmeter.core.figure import Figure, Input, Sensitivity
from warmeter.core.forecast.day_forecast import DayForecast, RoomForecast, totals_of
from warmeter.core.sentence import celsius, kelvin, sentence
from warmeter.core.thermal.comfort import hours_beyond
from warmeter.core.thermal.room_fit import DrawnEstimate, narrowed_by, total_of
from warmeter.core.units import MS_PER_H, S_PER_H
from warmeter.core.warmup.setback import SetbackCase, setback_energy

LEAST_NARROWING = 0.05  # of the half width: less is not worth a log


def figure_of_day(forecast: DayForecast, runs: Runs, key: str) -> Figure:
    """Return a figure of a day by its key.

    Raises
    ------
    NotKnowable
        If the day has no such figure.
    """
    kind, _, rest = key.partition(".")
    if kind == "lead":
        zone_id, _, index = rest.rpartition(".")
        return lead_figure(forecast, zone_id, int(index) if index.isdecimal() else -1)
    if kind == "fuel":
        return _fuel(forecast, rest)
    if kind == "run":
        return run_figure(forecast, runs, rest)
    makers = {"cost": _cost, "electricity": _electricity, "shortfall": _shortfall, "over": _over, "saving": _saving}
    if kind not in makers:
        raise NotKnowable(f"There is no figure {key!r}.", "Go back to the timetable.")
    return makers[kind](forecast)


def _in_watts(forecast: DayForecast) -> list[RoomForecast]:
    return [room for room in forecast.rooms if room.is_in_watts]


def _check_priced(forecast: DayForecast, rooms: Sequence[RoomForecast]) -> None:
    """Refuse money where what is drawn has no price."""
    if not rooms:
        raise NotKnowable("There are no prices for this day.", forecast.price_note or "Type a tariff.")
    for room in rooms:
        if room.costed.cost is None and room.costed.fuel:
            raise NotKnowable(
                f"{room.costed.fuel.capitalize()} has no price, so the heat of {room.room.name} has no money.",
                "Type what a unit of it costs under Survey, Heating.",
            )
        if room.costed.cost is None:
            raise NotKnowable("There are no prices for this day.", forecast.price_note or "Type a tariff.")


def _cost(forecast: DayForecast) -> Figure:
    rooms = _in_watts(forecast)
    _check_priced(forecast, rooms)
    costs = [room.costed.cost for room in rooms if room.costed.cost is not None]
    total = total_of(costs)
    sums: dict[str, tuple[float, float]] = {}
    price: dict[str, Decimal] = {}
    for room in rooms:
        for name, kwh, cost, each in room.costed.by_rate:
            price[name] = each
            before = sums.get(name, (0.0, 0.0))
            sums[name] = (before[0] + float(kwh), before[1] + float(cost))
    currency = forecast.home.currency
    return Figure(
        key="cost",
        title="Heating, whole day",
        unit=currency,
        value=total.value,
        low=total.low,
        high=total.high,
        decimals=2,
        formula="cost = Σ over rates and fuels of energy drawn · price",
        substituted="= " + " + ".join(f"{kwh:.2f} kWh · {price[name]:g}" for name, (kwh, _) in sums.items()),
        method="I2 time of use",
        inputs=tuple(
            Input(symbol="E", name=name, value=kwh, unit="kWh", decimals=2, origin="forecast")
            for name, (kwh, _) in sums.items()
        ),
        note="Weather, prices and people are the same for all rooms; each room's loss errs in its own way, so the rooms even "
        f"out in part. {_measure_next(rooms, costs, currency)}Standing charge is left out: it is the same whatever you do.",
        sensitivities=_cost_sensitivities(forecast, rooms),
    )


def _measure_next(rooms: Sequence[RoomForecast], costs: Sequence[DrawnEstimate], currency: str) -> str:
    """Return which room's measuring would narrow the day's cost most, in words; nothing where none would."""
    if len(costs) < 2:
        return ""
    narrowed = narrowed_by(costs)
    most = max(range(len(costs)), key=lambda k: narrowed[k])
    total = total_of(costs)
    half = (total.high - total.low) / 2
    if half <= 0 or narrowed[most] < LEAST_NARROWING * half:
        return ""
    room = rooms[most]
    how = "is only surveyed" if origin_of(room) == "surveyed" else "is known least well"
    return (
        f"Measure {room.room.name} next: it {how}, and knowing it would narrow ±{half:.2f} {currency} to "
        f"±{half - narrowed[most]:.2f}. "
    )


def _cost_sensitivities(forecast: DayForecast, rooms: Sequence[RoomForecast]) -> tuple[Sensitivity, ...]:
    """Return what a kelvin outdoors and a tenth of loss would change, by the heat balance."""
    hours = forecast.minutes / 60
    per_kelvin = per_tenth = 0.0
    for room in rooms:
        loss, _ = loss_and_store(room)
        cop = room.costed.heat_kwh.value / room.costed.drawn_kwh.value if room.costed.drawn_kwh.value else 1.0
        drawn = room.costed.drawn_kwh.value
        price = room.costed.cost.value / drawn if room.costed.cost and drawn else 0.0
        per_kelvin += loss * hours / 1000 / cop * price
        per_tenth += 0.1 * (room.costed.cost.value if room.costed.cost else 0.0)
    return (
        Sensitivity(assumption=sentence("outdoor {} colder", kelvin(3)), change=3 * per_kelvin),
        Sensitivity(assumption="heat loss 10 % higher", change=per_tenth),
    )


def _fuel(forecast: DayForecast, source_id: str) -> Figure:
    use = next((f for f in totals_of(forecast).fuels if f.source.id == source_id), None)
    if use is None:
        raise NotKnowable("This source burns nothing on this day.", "Go back to the timetable.")
    heat = total_of(
        [r.costed.heat_kwh for r in _in_watts(forecast) if r.costed.fuel and r.heater.source_id == source_id]
    )
    content, share = kwh_per_unit(use.source), heat.value / use.drawn_kwh.value if use.drawn_kwh.value else 1.0
    return Figure(
        key=f"fuel.{source_id}",
        title=f"{use.name.capitalize()} for heating, {use.source.name}",
        unit=use.unit,
        value=use.amount.value,
        low=use.amount.low,
        high=use.amount.high,
        decimals=2,
        formula="V = Q / (η · e)",
        substituted=f"= {heat.value:.1f} kWh heat / ({share:.3f} · {content:g} kWh/{use.unit})",
        method="B5, C10",
        inputs=(
            Input(symbol="Q", name="heat", value=heat.value, unit="kWh", decimals=1, origin="forecast"),
            Input(symbol="η", name="heat over what is burnt", value=share, unit="", decimals=3, origin="typed"),
            Input(
                symbol="e",
                name=f"energy of {use.name}",
                value=content,
                unit=f"kWh/{use.unit}",
                decimals=2,
                origin="assumed" if use.source.fuel_kwh is None else "typed",
            ),
        ),
    )


def _electricity(forecast: DayForecast) -> Figure:
    rooms = _in_watts(forecast)
    rooms = [room for room in rooms if not room.costed.fuel]
    if not rooms:
        raise NotKnowable("No room of this home is heated by electricity.", "Look at the fuel under Survey, Heating.")
    heat = total_of([room.costed.heat_kwh for room in rooms])
    electric = total_of([room.costed.drawn_kwh for room in rooms])
    cop = heat.value / electric.value if electric.value else 1.0
    loss = sum(loss_and_store(room)[0] for room in rooms)
    excess = float(np.mean([room.predicted_c.mean() for room in rooms]) - forecast.outdoor_expected_c.mean())
    gains = sum(float(room.model.gain_w[0]) for room in rooms)
    balance = max(0.0, (loss * excess - gains) * forecast.minutes / 60 / 1000)
    hand = Figure(
        key="hand",
        title="Heat by hand, plain balance",
        unit="kWh",
        value=balance,
        decimals=1,
        formula="Q = (H · (θ̄i − θ̄e) − G) · t",
        substituted=f"= ({loss:.0f} · {excess:.1f} − {gains:.0f}) · {forecast.minutes / 60:.0f} h/1000",
        method="B1 steady balance",
    )
    return Figure(
        key="electricity",
        title="Electricity for heating",
        unit="kWh",
        value=electric.value,
        low=electric.low,
        high=electric.high,
        decimals=1,
        formula="E = Σ heat/COP, minute by minute",
        substituted=f"= {heat.value:.1f} kWh heat / {cop:.2f}",
        method="B5, C8",
        inputs=(
            Input(symbol="Q", name="heat", value=heat.value, unit="kWh", decimals=1, origin="forecast"),
            Input(symbol="COP", name="mean, by outdoor temperature", value=cop, unit="", decimals=2, origin="typed"),
        ),
        alternatives=(hand,),
        note="The balance knows no stores: a day that ends warmer than it began needed more heat than it says.",
    )


def _shortfall(forecast: DayForecast) -> Figure:
    total = total_of([room.underheating_kh for room in forecast.rooms])
    return Figure(
        key="shortfall",
        title="Short of setpoint",
        unit="K·h",
        value=total.value,
        low=total.low,
        high=total.high,
        decimals=1,
        formula="Σ max(0, θset − θ) · Δt over the day",
        substituted=" + ".join(f"{room.zone.name} {room.underheating_kh.value:.1f}" for room in forecast.rooms),
        method="F5 degree-hours",
        note=f"Short for {_hours_short(forecast)}. A thermostat's band alone makes a little: half the band below the setpoint for "
        "half of the time.",
    )


def _hours_short(forecast: DayForecast) -> str:
    """Return for how many hours each room is short of its setpoint, in words."""
    hours = [(r.zone.name, hours_beyond(r.predicted_c, r.wanted_c, 60.0)) for r in forecast.rooms if r.wanted_c.size]
    return ", ".join(f"{each:.1f} h in {name}" for name, each in hours) or "no time"


def _over(forecast: DayForecast) -> Figure:
    rooms = [(room.zone.name, room.overheating_kh) for room in forecast.rooms if room.overheating_kh is not None]
    if not rooms:
        raise NotKnowable("Nothing cools in this home.", "Describe a split unit that cools.")
    total = total_of([over for _, over in rooms])
    return Figure(
        key="over",
        title="Over the cooling limit",
        unit="K·h",
        value=total.value,
        low=total.low,
        high=total.high,
        decimals=1,
        formula="Σ max(0, θ − θcool) · Δt over the day",
        substituted=" + ".join(f"{name} {over.value:.1f}" for name, over in rooms),
        method="F5 degree-hours",
        note="A thermostat's band alone makes a little: half the band over the limit for half of the time.",
    )


def _saving(forecast: DayForecast) -> Figure:
    rooms = _in_watts(forecast)
    _check_priced(forecast, rooms)
    total = total_of([room.saving.saved_cost for room in rooms if room.saving.saved_cost is not None])
    kwh = total_of([room.saving.saved_kwh for room in rooms])
    hands = tuple(hand for room in rooms if (hand := _hand_saving(forecast, room)) is not None)
    return Figure(
        key="saving",
        title="What the setbacks save",
        unit=f"{forecast.home.currency} a day",
        value=total.value,
        low=total.low,
        high=total.high,
        decimals=2,
        formula="cost of a day held at its highest setpoint − cost of the day as written",
        substituted="; ".join(
            f"{room.zone.name} {room.saving.held.cost.value:.2f} − {room.saving.written.cost.value:.2f}"
            for room in rooms
            if room.saving.held.cost and room.saving.written.cost
        ),
        method="B5 both ways, four like days; E3 beside it",
        inputs=(
            Input(symbol="ΔE", name="electricity saved", value=kwh.value, unit="kWh", decimals=2, origin="forecast"),
        ),
        alternatives=hands,
        note="Each variant is run through four days like this one, so that heat taken from the walls is given back. The "
        "hand calculation counts heat, one store and one steady outdoor temperature; the simulation counts money: heat "
        "saved at night is partly bought back in the morning, at that hour's price and COP.",
    )


def _hand_saving(forecast: DayForecast, room: RoomForecast) -> Figure | None:
    """Return E3 for a room's longest setback, None where it does not apply."""
    highest = max(block.setpoint_c for block in room.blocks)
    lower = [b for b in room.blocks if b.setpoint_c < highest - 1e-9]
    if not lower:
        return None
    longest = max(lower, key=lambda b: b.until_ms - b.from_ms)
    hours = (longest.until_ms - longest.from_ms) / MS_PER_H
    if longest == room.blocks[0] and room.blocks[-1].setpoint_c < highest - 1e-9:
        last = room.blocks[-1]
        hours += (last.until_ms - last.from_ms) / MS_PER_H
    loss, store = loss_and_store(room)
    try:
        case = SetbackCase(
            loss_w_k=loss,
            capacity_j_k=store,
            full_heat_w=room.full_heat_w,
            setpoint_c=highest,
            setback_c=longest.setpoint_c,
            outdoor_c=float(forecast.outdoor_expected_c.mean()),
            period_s=hours * S_PER_H,
        )
    except WarmeterError:
        return None
    energy = setback_energy(case)
    return Figure(
        key="hand",
        title=sentence("{} by hand, {:.1f} h at {}", room.zone.name, hours, celsius(longest.setpoint_c, 1)),
        unit="kWh heat",
        value=energy.saving_kwh,
        decimals=2,
        formula="H x₀ T − (H x_s t_hold + P t_reheat)",
        substituted=sentence(
            "= {:.2f} − {:.2f}, lowest {}", energy.hold_kwh, energy.setback_kwh, celsius(energy.lowest_c, 1)
        ),
        method="E3 setback energy",
    )
