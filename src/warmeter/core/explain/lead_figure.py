"""A lead time with its working: simulated, by hand, and what would change it."""

from warmeter.core.errors import NotKnowable
from warmeter.core.figure import Figure, Input, Origin, Sensitivity
from warmeter.core.forecast.day_forecast import DayForecast, RoomForecast
from warmeter.core.sentence import celsius, kelvin, sentence
from warmeter.core.thermal.single_rc import SingleRc
from warmeter.core.units import J_PER_WH, MS_PER_MIN
from warmeter.core.warmup.lead import CAP_MIN, Lead, lead_table_s, recovery_limit
from warmeter.core.warmup.prediction import BlockLead


def origin_of(room: RoomForecast) -> Origin:
    """Return where a room's loss and stores come from."""
    return "measured" if room.fit is not None and room.fit.fit.is_fit_for_use else "surveyed"


def loss_and_store(room: RoomForecast) -> tuple[float, float]:
    """Return the loss [W/K] and the whole heat store [J/K] that the model uses."""
    if room.fit is not None and room.fit.fit.is_fit_for_use:
        fit = room.fit.fit
        return fit.loss_w_k.value, fit.air_j_k.value + fit.fabric_j_k.value
    return room.surveyed.loss_w_k, room.surveyed.air_j_k + room.surveyed.fabric_j_k


def lead_figure(forecast: DayForecast, zone_id: str, index: int) -> Figure:
    """Return a block's lead time with its working; ``NotKnowable`` if the zone has no such block that warms up."""
    room = next((r for r in forecast.rooms if r.zone.id == zone_id), None)
    found = None
    if room is not None:
        wanted = room.blocks[index].from_ms if 0 <= index < len(room.blocks) else -1
        found = next((x for x in room.leads if x.block.from_ms == wanted), None)
    if room is None or found is None:
        raise NotKnowable("This period needs no warm-up.", "Choose one that is warmer than the period before it.")
    loss, store = loss_and_store(room)
    due = (found.block.from_ms - room.stretch.start_ms) // MS_PER_MIN
    start = max(0, due - round(found.lead.best or 0))
    outdoor = float(room.stretch.outdoor_c[start : due + 1].mean())
    gain = float(room.model.gain_w[0])
    inputs = (
        Input(symbol="H", name="heat loss", value=loss, unit="W/K", decimals=1, origin=origin_of(room)),
        Input(symbol="C", name="thermal mass", value=store / J_PER_WH, unit="Wh/K", decimals=0, origin=origin_of(room)),
        Input(symbol="θ₀", name="room at the start", value=found.from_c, unit="°C", decimals=1, origin="forecast"),
        Input(symbol="θset", name="wanted", value=found.block.setpoint_c, unit="°C", decimals=1, origin="typed"),
        Input(symbol="θe", name="outdoor meanwhile", value=outdoor, unit="°C", decimals=1, origin="forecast"),
        Input(symbol="P", name="heater", value=room.full_heat_w, unit="W", decimals=0, origin="typed"),
        Input(symbol="G", name="other gains", value=gain, unit="W", decimals=0, origin=origin_of(room)),
    )
    hand = _hand_lead(loss, store, room.full_heat_w + gain, found, outdoor)
    lead = found.lead
    first = (
        "Measure first: this range is longer than the setback period that it serves, so no start is printed. "
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
            title="Coldest start that 12 h can make up",
            unit="°C",
            value=limit.lowest_start_c,
            decimals=1,
            formula="θ₀ = θ∞ − (θ∞ − θset)·exp(t·H/C)",
            substituted=sentence(
                "{} under what is wanted; below {} outdoors it is out of reach",
                kelvin(limit.max_drop_k, 1),
                celsius(limit.outdoor_limit_c, 0),
            ),
            method="E5 recovery limit",
        ),
    )


def _why_none(lead: Lead) -> str:
    """Return why no lead is told."""
    if lead.reach_c is None:
        return "Even 12 h of full heat do not reach it in time: hold, or let it fall less. "
    return sentence(
        "The heater is too small: at full heat for ever it would hold {} in this weather. ", celsius(lead.reach_c, 1)
    )


def _hand_lead(loss: float, store: float, power: float, found: BlockLead, outdoor: float) -> Figure:
    rc = SingleRc(resistance_k_w=1 / loss, capacity_j_k=store)
    lead = lead_table_s(rc, power_w=power, target_c=found.block.setpoint_c, start_c=found.from_c, outdoor_c=[outdoor])[
        0
    ]
    end = outdoor + power / loss
    text = (
        f"= {store / J_PER_WH:.0f}/{loss:.0f} · ln(({end:.1f} − {found.from_c:.1f})/({end:.1f} − {found.block.setpoint_c:.1f}))"
        if lead is not None
        else sentence("θ∞ = {} does not pass {}", celsius(end, 1), celsius(found.block.setpoint_c, 1))
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
        (sentence("outdoor {} colder", kelvin(3)), lead(power, found.from_c, outdoor - 3)),
        (sentence("room {} colder at the start", kelvin(1)), lead(power, found.from_c - 1, outdoor)),
        ("heater gives 15 % less", lead(0.85 * power, found.from_c, outdoor)),
    )
    # The closed form's share of change, laid on the simulated lead.
    scale = (found.lead.best or 0) / base if base else 0
    sensitivities = [
        Sensitivity(assumption=name, change=(value - base) * scale) for name, value in cases if value is not None
    ]
    return tuple(sorted(sensitivities, key=lambda s: -abs(s.change)))
