"""Figures of the survey with their working: a room's loss, what its heaters give, the flow it needs."""

import numpy as np

from warmeter.core.building.heating import RoomHeating, heating_of, water_radiators
from warmeter.core.emitters.heating_curve import heating_curve_c, required_flow_c
from warmeter.core.emitters.radiator import WaterTemperatures, output_by_mean_w, rated_at_50_w
from warmeter.core.errors import NotKnowable, OutOfRange
from warmeter.core.figure import Figure, Input, Sensitivity
from warmeter.core.home.document import Home
from warmeter.core.sentence import celsius, joined, kelvin, sentence


def figure_of_room(home: Home, key: str) -> Figure:
    """Return a figure by key: ``loss.``, ``load.``, ``output.``, ``flow.`` or ``copes.`` and a room's id.

    Raises
    ------
    NotKnowable
        If the room has no such figure.
    """
    sort, _, room_id = key.partition(".")
    heating = heating_of(home, home.room(room_id))
    makers = {"loss": _loss, "load": _load, "output": _output, "flow": _flow, "copes": _copes}
    if sort not in makers:
        raise NotKnowable("There is no such figure.", "Choose one on the page.")
    return makers[sort](home, heating, key)


def _loss(_: Home, h: RoomHeating, key: str) -> Figure:
    loss = h.loss
    terms = _sum([row.watts for row in loss.rows])
    inputs = [
        Input(symbol="θi", name="room", value=loss.indoor_c, unit="°C", decimals=1, origin="typed"),
        Input(symbol="θe", name="design day outdoors", value=loss.outdoor_c, unit="°C", decimals=1, origin="typed"),
    ]
    for row in loss.rows:
        symbol, unit = ("n", "1/h") if row.group == "air" else ("U", "W/(m² K)")
        inputs.append(Input(symbol=symbol, name=row.label, value=row.u, unit=unit, decimals=2, origin=row.origin))
        inputs.append(
            Input(
                symbol="V" if row.group == "air" else "A",
                name="its volume" if row.group == "air" else "its area",
                value=row.size,
                unit=row.unit,
                decimals=1,
                origin="surveyed",
            )
        )
    sensitivities = sorted(
        (
            Sensitivity(assumption=f"{row.label}: upper end of its range", change=row.high_w - row.watts)
            for row in loss.rows
            if row.high_w > row.watts
        ),
        key=lambda s: -abs(s.change),
    )
    note = (
        "Heat to outdoors counts A (U + ΔU) Δθ, to unheated rooms a share of it, to the ground 1.45 of the fall "
        "to the year's mean, to heated rooms only their difference. Ranges of one U-value add up, others in quadrature."
    )
    if loss.safe_w > loss.total_w + 0.5:
        note += (
            f" Without heat from warmer neighbours it is {loss.safe_w:.0f} W: that is what heaters are held against."
        )
    return Figure(
        key=key,
        title=f"Loss of {h.room.name} on the design day",
        unit="W",
        value=loss.total_w,
        decimals=0,
        formula="Φ = Σ A (U + ΔU) share Δθ + 0.34 n V Δθ",
        substituted=sentence("{} = {:.0f} W at Δθ = {}", terms, loss.total_w, kelvin(loss.fall_k, 0)),
        method="A3 room design load",
        inputs=tuple(inputs),
        low=loss.low_w,
        high=loss.high_w,
        note=note,
        sensitivities=tuple(sensitivities[:3]),
    )


def _sum(watts: list[float]) -> str:
    """Return numbers as a sum in words, taken away where they are negative."""
    text = " ".join(f"{'−' if w < 0 else '+'} {abs(w):.0f}" for w in watts)
    return text.removeprefix("+ ")


def _load(home: Home, h: RoomHeating, key: str) -> Figure:
    """Return what a room's heaters are held against: its loss without gains from warmer rooms."""
    loss = h.loss
    return Figure(
        key=key,
        title=f"Load of {h.room.name} on the design day",
        unit="W",
        value=loss.safe_w,
        decimals=0,
        formula="Φ = Σ max(0, loss of each element), so that no warmer neighbour is counted on",
        substituted=f"{_sum([row.watts for row in loss.rows if row.watts > 0])} = {loss.safe_w:.0f} W",
        method="A3 room design load",
        inputs=tuple(
            Input(symbol="Φ", name=row.label, value=row.watts, unit="W", decimals=0, origin=row.origin)
            for row in loss.rows
        ),
        low=loss.safe_w - (loss.total_w - loss.low_w),
        high=loss.safe_w + (loss.high_w - loss.total_w),
        alternatives=(_loss(home, h, key),),
        note="Beside it stands the loss with the heat that warmer neighbours would give: it holds while they are heated.",
    )


def _output(home: Home, h: RoomHeating, key: str) -> Figure:
    inputs, words = [], []
    for heater in home.heaters_of(h.room.id):
        inputs.append(
            Input(symbol="ΦN", name=heater.name, value=heater.rated_heat_w, unit="W", decimals=0, origin="typed")
        )
        source = home.source(heater.source_id)
        if heater.kind == "radiator" and source.flow_c is not None:
            back = source.flow_c - source.spread_k
            words.append(
                f"{heater.rated_heat_w:.0f} × (Δθlog({source.flow_c:g}/{back:g}/{h.loss.indoor_c:g}) / 49.8)^{heater.exponent:g}"
            )
            inputs.append(Input(symbol="θf", name="flow", value=source.flow_c, unit="°C", decimals=1, origin="typed"))
        else:
            words.append(f"{heater.rated_heat_w:.0f}")
    return Figure(
        key=key,
        title=f"What {h.room.name}'s heaters give",
        unit="W",
        value=h.output_w,
        decimals=0,
        formula="Φ = Σ ΦN (Δθlog / 49.8 K)^n for radiators, limits for floors, capacity for split units",
        substituted=f"{' + '.join(words) or '0'} = {h.output_w:.0f} W",
        method="C1 radiator output, C6 floor check, C7 split unit",
        inputs=tuple(inputs),
        alternatives=_output_by_mean(home, h),
        note="Paint, shelves and curtains take 5 to 25 % from a radiator; the rated output knows nothing of them.",
    )


def _output_by_mean(home: Home, h: RoomHeating) -> tuple[Figure, ...]:
    """Return what radiators would give by the arithmetic mean, which overstates; nothing without radiators on water."""
    total, words = 0.0, []
    for heater, source in water_radiators(home, h.room.id):
        flow = source.flow_c or 0.0
        try:
            at = WaterTemperatures(flow, flow - source.spread_k, h.loss.indoor_c)
        except OutOfRange:
            return ()
        rated = rated_at_50_w(heater.rated_heat_w, heater.rated_excess_k, exponent=heater.exponent)
        watts = output_by_mean_w(rated, at, exponent=heater.exponent)
        total += watts
        words.append(f"{rated:.0f} × ({at.mean_excess_k:.1f} / 50)^{heater.exponent:g}")
    if not words:
        return ()
    return (
        Figure(
            key="hand.c1",
            title="By the arithmetic mean",
            unit="W",
            value=total,
            decimals=0,
            formula="Φ = Σ ΦN (Δθmean / 50 K)^n",
            substituted=f"{' + '.join(words)} = {total:.0f} W of the radiators",
            method="C1 radiator output; it overstates where the return is cool",
        ),
    )


def _flow(home: Home, h: RoomHeating, key: str) -> Figure:
    radiators = water_radiators(home, h.room.id)
    if not radiators or h.flow_needed_c is None:
        raise NotKnowable(
            f"{h.room.name} has no radiator on water of a known flow.", "Type the source's flow temperature."
        )
    source = radiators[0][1]
    return Figure(
        key=key,
        title=f"Flow that {h.room.name} needs",
        unit="°C",
        value=None if h.is_out_of_reach else h.flow_needed_c,
        decimals=1,
        formula="θf so that Σ ΦN (Δθlog(θf) / 49.8 K)^n = loss",
        substituted=sentence(
            "{:.0f} W at {} flow, {} flow to return",
            h.loss.safe_w,
            celsius(h.flow_needed_c, 1),
            kelvin(source.spread_k),
        ),
        method="C1 radiator output solved for the flow; C3 by hand",
        inputs=(
            Input(symbol="Φ", name="loss", value=h.loss.safe_w, unit="W", decimals=0, origin="worked out"),
            Input(symbol="σ", name="spread", value=source.spread_k, unit="K", decimals=1, origin="typed"),
            Input(symbol="θi", name="room", value=h.loss.indoor_c, unit="°C", decimals=1, origin="typed"),
        ),
        alternatives=_flow_by_hand(home, h, source.spread_k),
        note=sentence("Above {} is no answer: a longer radiator is.", celsius(90))
        if h.is_out_of_reach
        else "The room that needs most sets the curve.",
    )


def _flow_by_hand(home: Home, h: RoomHeating, spread_k: float) -> tuple[Figure, ...]:
    """Return the flow by the arithmetic mean and the heating curve of one radiator as large as all of the room's; C3, C4."""
    radiators = [heater for heater, _ in water_radiators(home, h.room.id)]
    exponent = radiators[0].exponent
    rated = sum(rated_at_50_w(r.rated_heat_w, r.rated_excess_k, exponent=exponent) for r in radiators)
    indoor, coldest = h.loss.indoor_c, h.loss.outdoor_c
    flow, excess = required_flow_c(rated, h.loss.safe_w, room_c=indoor, spread_k=spread_k, exponent=exponent)
    outdoors = np.array([coldest, (coldest + indoor) / 2, indoor - 5.0])
    curve = heating_curve_c(
        rated,
        outdoors,
        loss_w_k=h.loss.safe_w / h.loss.fall_k,
        room_c=indoor,
        design_outdoor_c=coldest,
        spread_k=spread_k,
        limits_c=(indoor, 90.0),
        exponent=exponent,
    )
    points = joined(
        ", ",
        (sentence("{} at {} outdoors", celsius(c, 0), celsius(o, 0)) for o, c in zip(outdoors, curve, strict=True)),
    )
    return (
        Figure(
            key="hand.c3",
            title="By the arithmetic mean",
            unit="°C",
            value=flow,
            decimals=1,
            formula="θf = θi + 50 K (Φ/ΦN)^(1/n) + σ/2",
            substituted=f"{indoor:g} + {excess:.1f} + {spread_k / 2:g}",
            method="C3 required flow",
        ),
        Figure(
            key="hand.c4",
            title="Heating curve, half way up",
            unit="°C",
            value=float(curve[1]),
            decimals=1,
            formula="C3 at each outdoor temperature, the flow to return difference falling with the load",
            substituted=points,
            method="C4 heating curve",
        ),
    )


def _copes(_: Home, h: RoomHeating, key: str) -> Figure:
    return Figure(
        key=key,
        title=f"How cold {h.room.name} copes with",
        unit="°C",
        value=h.copes_to_c,
        decimals=1,
        formula="θe so that output(θe) = loss(θe)",
        substituted=sentence("{:.0f} W against {:.0f} W at {}", h.output_w, h.loss.safe_w, celsius(h.loss.outdoor_c)),
        method="A3 room design load, C1, C6, C7 solved for the outdoor temperature",
        inputs=(
            Input(symbol="Φ", name="heaters", value=h.output_w, unit="W", decimals=0, origin="worked out"),
            Input(symbol="H", name="loss", value=h.loss.loss_w_k, unit="W/K", decimals=1, origin="surveyed"),
        ),
        note="Sun and people are left out: it copes with a little more.",
    )
