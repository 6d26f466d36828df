"""Figures with their workings: the simulated number, the hand calculation beside it, and why they differ."""

from collections.abc import Sequence
from decimal import Decimal

import numpy as np

from warmeter.core.building.fuel import kwh_per_unit
from warmeter.core.errors import NotKnowable, WarmeterError
from warmeter.core.figure import Figure, Input, Origin, Sensitivity
from warmeter.core.thermal.comfort import hours_beyond
from warmeter.core.thermal.room_fit import DrawnEstimate, RoomFit, narrowed_by, total_of
from warmeter.core.thermal.single_rc import SingleRc
from warmeter.core.units import MS_PER_MIN
from warmeter.core.warmup.lead import CAP_MIN, Lead, lead_table_s, recovery_limit
from warmeter.core.warmup.prediction import BlockLead
from warmeter.core.warmup.setback import SetbackCase, setback_energy
from warmeter.service.forecast import DayForecast, RoomForecast, totals_of
from warmeter.service.machines import MachineRecord
from warmeter.service.run_schedules import RunSchedule

Runs = Sequence[tuple[MachineRecord, RunSchedule]]
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
        return _lead(forecast, zone_id, int(index) if index.isdecimal() else -1)
    if kind == "fuel":
        return _fuel(forecast, rest)
    if kind == "run":
        return _run(forecast, runs, rest)
    makers = {"cost": _cost, "electricity": _electricity, "shortfall": _shortfall, "over": _over, "saving": _saving}
    if kind not in makers:
        raise NotKnowable(f"There is no figure {key!r}.", "Go back to the timetable.")
    return makers[kind](forecast)


def _in_watts(forecast: DayForecast) -> list[RoomForecast]:
    return [room for room in forecast.rooms if room.is_in_watts]


def origin_of(room: RoomForecast) -> Origin:
    """Return where a room's loss and stores come from."""
    return "measured" if room.fit is not None and room.fit.fit.is_fit_for_use else "surveyed"


def loss_and_store(room: RoomForecast) -> tuple[float, float]:
    """Return the loss [W/K] and the whole heat store [J/K] that the model uses."""
    if room.fit is not None and room.fit.fit.is_fit_for_use:
        fit = room.fit.fit
        return fit.loss_w_k.value, fit.air_j_k.value + fit.fabric_j_k.value
    return room.surveyed.loss_w_k, room.surveyed.air_j_k + room.surveyed.fabric_j_k


def _lead(forecast: DayForecast, zone_id: str, index: int) -> Figure:
    room = next((r for r in forecast.rooms if r.zone.id == zone_id), None)
    found = None
    if room is not None:
        wanted = room.blocks[index].from_ms if 0 <= index < len(room.blocks) else -1
        found = next((x for x in room.leads if x.block.from_ms == wanted), None)
    if room is None or found is None:
        raise NotKnowable("This block needs no warm-up.", "Choose one that is warmer than the block before it.")
    loss, store = loss_and_store(room)
    due = (found.block.from_ms - room.stretch.start_ms) // MS_PER_MIN
    start = max(0, due - round(found.lead.best or 0))
    outdoor = float(room.stretch.outdoor_c[start : due + 1].mean())
    gain = float(room.model.gain_w[0])
    inputs = (
        Input(symbol="H", name="heat loss", value=loss, unit="W/K", decimals=1, origin=origin_of(room)),
        Input(symbol="C", name="heat store", value=store / 3600, unit="Wh/K", decimals=0, origin=origin_of(room)),
        Input(symbol="θ₀", name="room at the start", value=found.from_c, unit="°C", decimals=1, origin="forecast"),
        Input(symbol="θset", name="wanted", value=found.block.setpoint_c, unit="°C", decimals=1, origin="typed"),
        Input(symbol="θe", name="outdoor meanwhile", value=outdoor, unit="°C", decimals=1, origin="forecast"),
        Input(symbol="P", name="heater", value=room.full_heat_w, unit="W", decimals=0, origin="typed"),
        Input(symbol="G", name="other gains", value=gain, unit="W", decimals=0, origin=origin_of(room)),
    )
    hand = _hand_lead(loss, store, room.full_heat_w + gain, found, outdoor)
    lead = found.lead
    first = (
        "Measure first: this range is longer than the gap that it serves, so no start is printed. "
        if found.measure_first
        else ""
    )
    late = first if lead.best is not None else _why_none(lead)
    draws = (
        f" In {100 * lead.late_share:.0f} % of the draws no start within 12 h is in time." if lead.late_share else ""
    )
    return Figure(
        key=f"lead.{zone_id}.{index}",
        title=f"Lead time, {room.zone.name}, {found.block.level_name}",
        unit="min",
        value=lead.best,
        low=lead.low,
        high=lead.high,
        decimals=0,
        formula="the latest start from which full heat brings the room to θset in time",
        substituted="stepped minute by minute through the room's model and the outdoor temperature expected",
        method="B5 exact steps, bisected; E1 beside it",
        inputs=inputs,
        alternatives=(hand, *_hand_limit(loss, store, room.full_heat_w + gain, found, outdoor)),
        note=late + "The hand calculation knows one store only: in it, air and walls warm together. The simulated room "
        "warms its air first, through the heater's own lag, so the two differ." + draws,
        sensitivities=_lead_sensitivities(room, found),
    )


def _hand_limit(loss: float, store: float, power: float, found: BlockLead, outdoor: float) -> tuple[Figure, ...]:
    """Return from how cold a room of one store could still be warm in 12 h; nothing where full heat does not hold it."""
    room, target = SingleRc(resistance_k_w=1 / loss, capacity_j_k=store), found.block.setpoint_c
    limit = recovery_limit(room, power_w=power, target_c=target, outdoor_c=outdoor, max_lead_s=CAP_MIN * 60.0)
    if limit.max_drop_k <= 0:
        return ()
    return (
        Figure(
            key="hand.e5",
            title="Coldest start that 12 h can mend",
            unit="°C",
            value=limit.lowest_start_c,
            decimals=1,
            formula="θ₀ = θ∞ − (θ∞ − θset)·exp(t·H/C)",
            substituted=f"{limit.max_drop_k:.1f} K under what is wanted; below {limit.outdoor_limit_c:.0f} °C outdoors it is out of reach",
            method="E5 recovery limit",
        ),
    )


def _why_none(lead: Lead) -> str:
    """Return why no lead is told."""
    if lead.reach_c is None:
        return "Even 12 h of full heat are too late: hold, or let it fall less. "
    return f"The heater is too small: at full heat for ever it would hold {lead.reach_c:.1f} °C in this weather. "


def _hand_lead(loss: float, store: float, power: float, found: BlockLead, outdoor: float) -> Figure:
    rc = SingleRc(resistance_k_w=1 / loss, capacity_j_k=store)
    lead = lead_table_s(rc, power_w=power, target_c=found.block.setpoint_c, start_c=found.from_c, outdoor_c=[outdoor])[
        0
    ]
    end = outdoor + power / loss
    text = (
        f"= {store / 3600:.0f}/{loss:.0f} · ln(({end:.1f} − {found.from_c:.1f})/({end:.1f} − {found.block.setpoint_c:.1f}))"
        if lead is not None
        else f"θ∞ = {end:.1f} °C does not pass {found.block.setpoint_c:.1f} °C"
    )
    return Figure(
        key="hand",
        title="By hand, one store",
        unit="min",
        value=None if lead is None else lead / 60,
        decimals=0,
        formula="lead = C/H · ln((θ∞ − θ₀)/(θ∞ − θset)),  θ∞ = θe + (P + G)/H",
        substituted=text,
        method="E1 lead table",
    )


def _lead_sensitivities(room: RoomForecast, found: BlockLead) -> tuple[Sensitivity, ...]:
    """Return what the closed form says of three usual doubts, as changes of the lead [min]."""
    loss, store = loss_and_store(room)
    power = room.full_heat_w + float(room.model.gain_w[0])
    due = (found.block.from_ms - room.stretch.start_ms) // MS_PER_MIN
    outdoor = float(room.stretch.outdoor_c[max(0, due - 60) : due + 1].mean())

    def lead(power_w: float, start_c: float, outdoor_c: float) -> float | None:
        rc = SingleRc(resistance_k_w=1 / loss, capacity_j_k=store)
        return lead_table_s(
            rc, power_w=power_w, target_c=found.block.setpoint_c, start_c=start_c, outdoor_c=[outdoor_c]
        )[0]

    base = lead(power, found.from_c, outdoor)
    if base is None:
        return ()
    cases = (
        ("outdoor 3 K colder", lead(power, found.from_c, outdoor - 3)),
        ("room 1 K colder at the start", lead(power, found.from_c - 1, outdoor)),
        ("heater gives 15 % less", lead(0.85 * power, found.from_c, outdoor)),
    )
    # The closed form's share of change, laid on the simulated lead.
    scale = (found.lead.best or 0) / base if base else 0
    sensitivities = [
        Sensitivity(assumption=name, change=(value - base) * scale) for name, value in cases if value is not None
    ]
    return tuple(sorted(sensitivities, key=lambda s: -abs(s.change)))


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
        Sensitivity(assumption="outdoor 3 K colder", change=3 * per_kelvin),
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
    hours = (longest.until_ms - longest.from_ms) / 3_600_000
    if longest == room.blocks[0] and room.blocks[-1].setpoint_c < highest - 1e-9:
        last = room.blocks[-1]
        hours += (last.until_ms - last.from_ms) / 3_600_000
    loss, store = loss_and_store(room)
    try:
        case = SetbackCase(
            loss_w_k=loss,
            capacity_j_k=store,
            full_heat_w=room.full_heat_w,
            setpoint_c=highest,
            setback_c=longest.setpoint_c,
            outdoor_c=float(forecast.outdoor_expected_c.mean()),
            period_s=hours * 3600,
        )
    except WarmeterError:
        return None
    energy = setback_energy(case)
    return Figure(
        key="hand",
        title=f"{room.zone.name} by hand, {hours:.1f} h at {longest.setpoint_c:.1f} °C",
        unit="kWh heat",
        value=energy.saving_kwh,
        decimals=2,
        formula="H x₀ T − (H x_s t_hold + P t_reheat)",
        substituted=f"= {energy.hold_kwh:.2f} − {energy.setback_kwh:.2f}, lowest {energy.lowest_c:.1f} °C",
        method="E3 setback energy",
    )


def _run(forecast: DayForecast, runs: Runs, appliance_id: str) -> Figure:
    found = next(((r, p) for r, p in runs if r.appliance.id == appliance_id), None)
    if found is None:
        raise NotKnowable("This run cannot be priced.", "Read in the machine's log and type a tariff.")
    record, plan = found
    energies = [record.features(cycle).energy_kwh for cycle in record.found.whole]
    spread = (min(energies) / float(np.median(energies)), max(energies) / float(np.median(energies)))
    value, currency = float(plan.planned.cost), forecast.home.currency
    return Figure(
        key=f"run.{appliance_id}",
        title=f"{record.appliance.name}, one run",
        unit=currency,
        value=value,
        low=value * spread[0],
        high=value * spread[1],
        decimals=2,
        formula="cost = Σ minute energy · price then",
        substituted=f"= {plan.profile_kwh.sum():.2f} kWh over {plan.profile_kwh.size} min",
        method="I8 cheapest window",
        inputs=(
            Input(
                symbol="E",
                name="typical run",
                value=float(plan.profile_kwh.sum()),
                unit="kWh",
                decimals=2,
                origin="measured",
            ),
            Input(
                symbol="n", name="whole runs heard", value=float(len(energies)), unit="", decimals=0, origin="measured"
            ),
        ),
        note=f"The profile is that of the run of middle energy; the range is that of all {len(energies)} runs heard.",
        sensitivities=(
            Sensitivity(
                assumption=f"cheapest start, {_clock(plan.cheapest.start_min)}",
                change=float(plan.cheapest.cost) - value,
            ),
            Sensitivity(
                assumption=f"dearest start, {_clock(plan.dearest.start_min)}", change=float(plan.dearest.cost) - value
            ),
        ),
    )


def _clock(minute: int) -> str:
    return f"{minute // 60 % 24:02d}:{minute % 60:02d}"


def loss_figure(fit: RoomFit, room_name: str) -> Figure:
    """Return the fitted heat loss with the plain balance beside it."""
    balance = fit.balance
    hand = Figure(
        key="hand",
        title="By hand, plain balance",
        unit="W/K",
        value=balance.loss_w_k,
        low=balance.low_w_k,
        high=balance.high_w_k,
        decimals=1,
        formula="H = (mean heat + usual gains)/(θ̄i − θ̄e)",
        substituted=f"= ({balance.mean_heat_w:.0f} + {balance.usual_gain_w:.0f})/{balance.mean_excess_k:.1f}",
        method="B1 steady balance",
    )
    return Figure(
        key="loss",
        title=f"Heat loss, {room_name}",
        unit="W/K",
        value=fit.loss_w_k.value,
        low=fit.loss_w_k.low,
        high=fit.loss_w_k.high,
        decimals=1,
        formula="the H with which the modelled temperature runs closest to the measured one",
        substituted=f"{fit.model}, error {fit.rmse_k:.2f} K over {fit.hours:.0f} h of readings",
        method="multi-step output error; B8 is not used",
        inputs=(
            Input(symbol="Φ", name="mean heat", value=balance.mean_heat_w, unit="W", decimals=0, origin="measured"),
            Input(
                symbol="G",
                name="gains nobody logged",
                value=fit.gain_w.value,
                unit="W",
                decimals=0,
                origin="worked out",
            ),
            Input(
                symbol="ΔT", name="mean excess", value=balance.mean_excess_k, unit="K", decimals=1, origin="measured"
            ),
        ),
        alternatives=(hand,),
        note="The balance must guess what people, machines and sun gave; its range runs from none to twice the usual. The "
        "fit sees them in the shape of the days, and counts stored heat.",
        sensitivities=(
            Sensitivity(assumption="100 W more of unlogged gains", change=100 / balance.mean_excess_k),
            Sensitivity(
                assumption="room sensor 0.5 K too high", change=-0.5 * fit.loss_w_k.value / balance.mean_excess_k
            ),
        ),
    )
