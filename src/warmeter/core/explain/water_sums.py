"""Sums about water that are typed and not kept: a freezing pipe, condensate, an open surface, heating up, a filling."""

from dataclasses import dataclass
from math import isinf
from typing import Annotated

from annotated_types import Ge, Gt, Le

from warmeter.core.figure import Figure, Input
from warmeter.core.home.part import Unit
from warmeter.core.sentence import Measure, Sentence, celsius, sentence
from warmeter.core.units import S_PER_H, S_PER_MIN
from warmeter.core.water.filling import filling
from warmeter.core.water.moist_air import condensate, evaporation
from warmeter.core.water.pipe_freeze import Pipe
from warmeter.core.water.store import WarmWater

MM = 0.001
KWH_A_DAY_PER_W = 0.024
Temperature = Annotated[float, Ge(-60), Le(95), Unit("°C")]
Percent = Annotated[float, Ge(0), Le(100), Unit("%")]


def _typed(symbol: str, name: str, value: float, unit: str, decimals: int = 1) -> Input:
    return Input(symbol=symbol, name=name, value=value, unit=unit, decimals=decimals, origin="typed")


@dataclass(frozen=True, slots=True, kw_only=True)
class PipeSum:
    """A pipe in the cold: diameters and insulation [mm], conductivity, water now and air around it [°C]."""

    outer_mm: Annotated[float, Gt(0), Le(500), Unit("mm")] = 22.0
    inner_mm: Annotated[float, Gt(0), Le(500), Unit("mm")] = 20.0
    insulation_mm: Annotated[float, Ge(0), Le(300), Unit("mm")] = 13.0
    lambda_w_mk: Annotated[float, Ge(0.005), Le(400), Unit("W/mK")] = 0.036
    start_c: Temperature = 10.0
    around_c: Temperature = -10.0

    def figures(self) -> tuple[Figure, ...]:
        """Return how soon it freezes, and what holds it at 5 °C; ``OutOfRange`` where the pipe has no meaning."""
        pipe = Pipe(
            outer_m=MM * self.outer_mm,
            inner_m=MM * self.inner_mm,
            insulation_m=MM * self.insulation_mm,
            lambda_w_mk=self.lambda_w_mk,
        )
        after = pipe.freezes_after_s(self.start_c, self.around_c)
        r, c = pipe.resistance_k_m_w, pipe.heat_capacity_j_mk
        inputs = (
            _typed("R", "from the water to the air, for a metre", r, "K·m/W", 2),
            _typed("C", "of water and pipe, for a metre", c, "J/(m·K)", 0),
            _typed("θ₀", "water now", self.start_c, "°C"),
            _typed("θₑ", "air around it", self.around_c, "°C"),
        )
        return (
            Figure(
                key="freezes",
                title="Still water comes to freezing after",
                unit="min",
                value=None if isinf(after) else after / S_PER_MIN,
                decimals=0,
                formula="t = R · C · ln((θ₀ − θₑ) / (0 − θₑ))",
                substituted="never: it is not freezing around it" if isinf(after) else f"= {after / S_PER_MIN:.0f} min",
                method="L7 freezing pipes",
                inputs=inputs,
                note=_pipe_note(),
            ),
            Figure(
                key="held",
                title="Heat that holds a metre from freezing",
                unit="W",
                value=pipe.held_w_m(self.around_c),
                decimals=1,
                formula=sentence("P = ({} − θₑ) / R", celsius(5)),
                substituted=f"= {pipe.held_w_m(self.around_c):.1f} W a metre",
                method="L7 freezing pipes",
                inputs=inputs,
                note="Trace heating hangs on a protective device of its own; a licensed electrician fits it.",
            ),
        )


def _pipe_note() -> Sentence:
    return sentence(
        "Insulation delays, only heat or draining prevents. Alarm at {}, act at {}. Wind, gaps and clips make it sooner.",
        celsius(5),
        celsius(3),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class CondensateSum:
    """Air over a cold coil: the room's, and as it leaves the coil."""

    room_c: Temperature = 27.0
    room_pct: Percent = 60.0
    coil_c: Temperature = 12.0
    coil_pct: Percent = 95.0
    flow_m3_h: Annotated[float, Gt(0), Le(100_000), Unit("m³/h")] = 450.0

    def figures(self) -> tuple[Figure, ...]:
        """Return what drips off it."""
        found = condensate(
            room_c=self.room_c,
            room_pct=self.room_pct,
            out_c=self.coil_c,
            out_pct=self.coil_pct,
            flow_m3_h=self.flow_m3_h,
        )
        return (
            Figure(
                key="condensate",
                title="Water that drips off the coil",
                unit="kg/h",
                value=found.water_kg_h,
                decimals=2,
                formula="V · ρ · (w₁ − w₂), never below nought",
                substituted=f"w₁ {found.room_g_kg:.1f}, w₂ {found.out_g_kg:.1f} g/kg: {found.water_kg_h:.2f} kg/h",
                method="L8 condensate",
                inputs=(_typed("V", "air over the coil", self.flow_m3_h, "m³/h", 0),),
                note="A drain with a fall and a trap, and a float switch that stops the unit; a leak sensor below it.",
            ),
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class SurfaceSum:
    """An open surface of a pool or tub; ``activity`` 0.5 quiet, 1 used, 1.5 bubbling."""

    area_m2: Annotated[float, Gt(0), Le(10_000), Unit("m²")] = 4.0
    water_c: Temperature = 37.0
    air_c: Temperature = 24.0
    air_pct: Percent = 50.0
    air_m_s: Annotated[float, Ge(0), Le(20), Unit("m/s")] = 0.1
    activity: Annotated[float, Ge(0), Le(3)] = 1.0

    def figures(self) -> tuple[Figure, ...]:
        """Return the water and heat that it gives off."""
        found = evaporation(
            area_m2=self.area_m2,
            water_c=self.water_c,
            air_c=self.air_c,
            humidity_pct=self.air_pct,
            air_m_s=self.air_m_s,
            activity=self.activity,
        )
        return (
            Figure(
                key="evaporation",
                title="Heat that an open surface loses by evaporation",
                unit="W",
                value=found.loss_w,
                decimals=0,
                formula="A · (p_w − p_a) · (0.089 + 0.0782 v) · F, times the heat of evaporation",
                substituted=f"p_w {found.water_kpa:.2f}, p_a {found.air_kpa:.2f} kPa: {found.water_kg_h:.2f} kg/h, {found.loss_w:.0f} W",
                method="L6 evaporation",
                inputs=(_typed("A", "surface", self.area_m2, "m²"), _typed("F", "activity", self.activity, "")),
                note="A cover cuts it by nine tenths. Covers, suction and chemistry of pools are a matter of life: by their makers and local rules.",
            ),
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class HeatUpSum:
    """A tub or store to be heated: volume [L], now, wanted and around it [°C], power [W], loss [W/K]."""

    litres: Annotated[float, Gt(0), Le(1_000_000), Unit("L")] = 1200.0
    now_c: Temperature = 12.0
    wanted_c: Temperature = 38.0
    around_c: Temperature = 4.0
    power_w: Annotated[float, Gt(0), Le(1_000_000), Unit("W")] = 6000.0
    loss_w_k: Annotated[float, Ge(0), Le(10_000), Unit("W/K")] = 25.0

    def figures(self) -> tuple[Figure, ...]:
        """Return how long it takes, and what standing costs in heat."""
        store = WarmWater(volume_l=self.litres, loss_w_k=self.loss_w_k)
        takes = store.heat_up_s(
            start_c=self.now_c, target_c=self.wanted_c, power_w=self.power_w, ambient_c=self.around_c
        )
        standing = store.standing_w(self.wanted_c, self.around_c)
        return (
            Figure(
                key="heat_up",
                title="Heating up takes",
                unit="h",
                value=None if takes is None else takes / S_PER_H,
                decimals=1,
                formula="t = C/UA · ln((θ∞ − θ₀) / (θ∞ − θ)), θ∞ = θₐ + P/UA",
                substituted="never: it loses as much before it is there"
                if takes is None
                else f"= {takes / S_PER_H:.1f} h",
                method="L4, L5 warm water",
                inputs=(_typed("P", "power", self.power_w, "W", 0), _typed("UA", "loss", self.loss_w_k, "W/K")),
                note=sentence(
                    "Scald risk rises steeply above {}; stored water is heated through against legionella, by local rules.",
                    celsius(45),
                ),
            ),
            Figure(
                key="standing",
                title="Kept warm it loses",
                unit="kWh a day",
                value=KWH_A_DAY_PER_W * standing,
                decimals=1,
                formula="UA · (θ − θₐ) · 24 h",
                substituted=f"{self.loss_w_k:g} · {self.wanted_c - self.around_c:.0f} = {standing:.0f} W",
                method="L4, L5 warm water",
                inputs=(),
                note="An open surface loses more by evaporation.",
            ),
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class FillingSum:
    """A filling: volume [L] and flow [L/min]."""

    litres: Annotated[float, Gt(0), Le(1_000_000), Unit("L")] = 150.0
    flow_l_min: Annotated[float, Gt(0), Le(1000), Unit("L/min")] = 12.0

    def figures(self) -> tuple[Figure, ...]:
        """Return how long it takes, and where it is stopped."""
        found = filling(self.litres, self.flow_l_min)
        return (
            Figure(
                key="filling",
                title="Filling takes",
                unit="min",
                value=found.takes_s / S_PER_MIN,
                decimals=0,
                formula="t = V / q; stopped at a tenth over, by litres and by time",
                substituted=sentence(
                    "= {:.0f} min; hard stop at {} or {:.0f} min, whichever comes first",
                    found.takes_s / S_PER_MIN,
                    Measure(found.stop_l, "L", 0),
                    found.stop_s / S_PER_MIN,
                ),
                method="L4, L5 warm water",
                inputs=(_typed("V", "volume", self.litres, "L", 0), _typed("q", "flow", self.flow_l_min, "L/min")),
                note="A filling is never left without its stop; the stop works without internet.",
            ),
        )


WaterSum = PipeSum | CondensateSum | SurfaceSum | HeatUpSum | FillingSum
SUMS: dict[str, type[WaterSum]] = {
    "pipe": PipeSum,
    "condensate": CondensateSum,
    "surface": SurfaceSum,
    "heat_up": HeatUpSum,
    "filling": FillingSum,
}
