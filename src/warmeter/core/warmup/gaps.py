"""What each gap between warm blocks costs: held, set back, or off; and from which length a setback pays."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.thermal.proportional import Proportional, proportional_run, settled_c
from warmeter.core.thermal.room_fit import Estimate
from warmeter.core.thermal.simulate import BoundaryConditions, Run
from warmeter.core.timetable.day import Block, people_ask
from warmeter.core.units import MIN_PER_DAY, MS_PER_MIN, W_MIN_PER_KWH
from warmeter.core.warmup.lead import CAP_MIN, Lead, simulated_lead
from warmeter.core.warmup.prediction import RoomModel

# After a gap so much time is counted with it, in which the walls take back what they gave.
AFTER_MIN = 1440
BAND_K = 0.5
# Lengths of absence that are tried for the one from which a setback pays [min].
LENGTHS_MIN = (30, 60, 90, 120, 180, 240, 300, 360, 480, 600, 720, 960, 1200, 1440, 2160, 2880, 4320)


@dataclass(frozen=True, slots=True, kw_only=True)
class Gap:
    """A stretch between two warmer blocks, in real time [ms UTC].

    Parameters
    ----------
    warm_c : float
        Setpoint to be reached when it ends [°C].
    before_c : float
        Setpoint before it begins [°C].
    low_c : float
        What is asked in it, its lowest block [°C].
    level_name : str
        Level of its first block.
    """

    from_ms: int
    until_ms: int
    warm_c: float
    before_c: float
    low_c: float
    level_name: str

    @property
    def minutes(self) -> int:
        """Length [min]."""
        return (self.until_ms - self.from_ms) // MS_PER_MIN

    @property
    def held_c(self) -> float:
        """What holding asks: the lower of the setpoints before and after [°C]."""
        return min(self.before_c, self.warm_c)


def gaps_of(blocks: Sequence[Block], start_ms: int, end_ms: int) -> list[Gap]:
    """Return the gaps that end within [start, end): from a fall of the setpoint to the next rise."""
    found: list[Gap] = []
    begun: int | None = None
    blocks = [people_ask(block) for block in blocks]
    for place in range(1, len(blocks)):
        before, block = blocks[place - 1], blocks[place]
        if block.setpoint_c < before.setpoint_c - 1e-9:
            begun = place if begun is None else begun
        elif block.setpoint_c > before.setpoint_c + 1e-9:
            if begun is not None and start_ms <= block.from_ms < end_ms:
                inside = blocks[begun:place]
                found.append(
                    Gap(
                        from_ms=inside[0].from_ms,
                        until_ms=block.from_ms,
                        warm_c=block.setpoint_c,
                        before_c=blocks[begun - 1].setpoint_c,
                        low_c=min(b.setpoint_c for b in inside),
                        level_name=inside[0].level_name,
                    )
                )
            begun = None
    return found


@dataclass(frozen=True, slots=True, kw_only=True)
class GapWeather:
    """What a gap is tried in, from its beginning on by minute: at least its length and a day after it.

    Parameters
    ----------
    outdoor_c : (minute + 1,) float array
        Outdoor temperature [°C].
    offsets_k : (draw,) float array
        By how much each draw's lies off [K].
    sun_w_m2 : (minute,) float array
        Clear-sky irradiance [W/m2].
    per_heat : (minute,) float array
        Electricity over heat (ratio): one over the source's COP or efficiency.
    price : (minute,) float array or None
        Price [currency/kWh].
    beside_c : (minute,) float array or None
        The heated rooms beside, as they are whatever this gap does [°C].
    """

    outdoor_c: Floats
    offsets_k: Floats
    sun_w_m2: Floats
    per_heat: Floats
    price: Floats | None
    beside_c: Floats | None = None

    @property
    def minutes(self) -> int:
        """Length [min]."""
        return int(self.sun_w_m2.size)


@dataclass(frozen=True, slots=True, kw_only=True)
class Way:
    """One way through a gap: energies over gap and the day after it [kWh], arrays by draw.

    Parameters
    ----------
    asked_c : float
        Setpoint in the gap [°C].
    lead : Lead or None
        Warm-up before its end; None where nothing was let fall.
    lowest_c : float
        Lowest air temperature of the best estimate [°C].
    short_kh : float
        K h under the warm setpoint after the gap, best estimate.
    """

    asked_c: float
    heat_kwh: Floats
    drawn_kwh: Floats
    cost: Floats | None
    lead: Lead | None
    lowest_c: float
    underheating_kh: float


@dataclass(frozen=True, slots=True, kw_only=True)
class GapFigures:
    """A gap held, set back and off, and the length from which a setback is cheaper [min]; None within three days."""

    gap: Gap
    hold: Way
    setback: Way
    off: Way
    pays_from_min: int | None

    def saved_kwh(self, way: Way) -> Estimate:
        """Return the electricity that a way saves against holding."""
        return _range(self.hold.drawn_kwh - way.drawn_kwh)

    def saved_cost(self, way: Way) -> Estimate | None:
        """Return the money that a way saves against holding, None without prices."""
        if self.hold.cost is None or way.cost is None:
            return None
        return _range(self.hold.cost - way.cost)


def _range(values: Floats) -> Estimate:
    low, high = np.quantile(values, [0.025, 0.975])
    return Estimate(value=float(values[0]), low=float(min(low, values[0])), high=float(max(high, values[0])))


@dataclass(frozen=True, slots=True)
class _Case:
    """A room ready for a gap."""

    model: RoomModel
    heater: Proportional
    weather: GapWeather

    def boundary(self, setpoint_c: Floats, start_c: Floats) -> BoundaryConditions:
        steps = setpoint_c.size
        outdoor = self.weather.outdoor_c[None, : steps + 1] + self.weather.offsets_k[:, None]
        gain = self.model.gain_w[:, None] + self.model.sun_m2[:, None] * self.weather.sun_w_m2[None, :steps]
        beside = None if self.weather.beside_c is None else self.weather.beside_c[:steps]
        return BoundaryConditions(
            outdoor_c=outdoor,
            gain_w=np.ascontiguousarray(gain),
            setpoint_c=setpoint_c,
            start_c=start_c,
            beside_c=beside,
        )

    def start_c(self, setpoint_c: float) -> Floats:
        """Return the states of a room long held at what was asked before the gap."""
        return settled_c(
            self.model.step,
            outdoor_c=self.weather.outdoor_c[0] + self.weather.offsets_k,
            gain_w=self.model.gain_w,
            setpoint_c=setpoint_c,
            heater=self.heater,
            beside_c=0.0 if self.weather.beside_c is None else float(self.weather.beside_c[0]),
        )

    def run(self, setpoint_c: Floats, start_c: Floats) -> Run:
        return proportional_run(self.model.step, self.boundary(setpoint_c, start_c), self.heater)


def _way(case: _Case, gap: Gap, asked_c: float, start_c: Floats, minutes: int) -> Way:
    """Return one way through a gap: asked until the latest start that is in time, then the warm setpoint."""
    total = minutes + AFTER_MIN
    setpoint = np.full(total, gap.warm_c)
    setpoint[:minutes] = asked_c
    lead = None
    if asked_c < gap.warm_c - 1e-9:
        free = setpoint.copy()
        run = case.run(free, start_c)
        # Full heat lasts until half a band under the setpoint; there the room counts as ready.
        lead = simulated_lead(
            case.model.step,
            case.boundary(free, start_c),
            run,
            case.model.control,
            target_c=gap.warm_c - case.heater.band_k / 2,
            due=minutes,
        )
        setpoint[max(0, minutes - round(CAP_MIN if lead.best is None else lead.best)) : minutes] = gap.warm_c
    run = case.run(setpoint, start_c)
    electric = run.heat_w * case.weather.per_heat[None, :total] / W_MIN_PER_KWH
    after = run.air_c[0, minutes:total]
    return Way(
        asked_c=asked_c,
        heat_kwh=run.heat_w.sum(axis=1) / W_MIN_PER_KWH,
        drawn_kwh=electric.sum(axis=1),
        cost=None if case.weather.price is None else electric @ case.weather.price[:total],
        lead=lead,
        lowest_c=float(run.air_c[0, : minutes + 1].min()),
        underheating_kh=float(np.maximum(0.0, gap.warm_c - case.heater.band_k / 2 - after).sum() / 60),
    )


def gap_figures(model: RoomModel, gap: Gap, weather: GapWeather, *, off_c: float) -> GapFigures:
    """Return a gap's three ways, and from which length of absence a setback pays.

    Parameters
    ----------
    model : RoomModel
        The room as surveyed or as fitted; its heater is taken as one that gives heat in proportion.
    weather : GapWeather
        From the gap's beginning on.
    off_c : float
        What "off" keeps: the guard limit, or what the device keeps [°C].

    Notes
    -----
    Each way begins in a room long held at what was asked before, and is counted over the gap and the day after it,
    so that heat taken from the walls is given back.
    The length is tried with the gap's end kept, at the gap's mean outdoor temperature and at the prices before its
    end; the setback pays from the shortest length on from which it is cheaper at all longer ones tried.
    """
    case = _Case(model, Proportional(full_heat_w=model.control.full_heat_w, band_k=BAND_K), weather)
    start = case.start_c(gap.before_c)
    ways = [_way(case, gap, asked, start, gap.minutes) for asked in (gap.held_c, gap.low_c, min(off_c, gap.low_c))]
    return GapFigures(gap=gap, hold=ways[0], setback=ways[1], off=ways[2], pays_from_min=_pays_from(case, gap))


def _pays_from(case: _Case, gap: Gap) -> int | None:
    """Return the shortest length tried from which a setback is cheaper, or takes less where there are no prices."""
    best = _best_only(case, gap)
    last: int | None = None
    for minutes in reversed(LENGTHS_MIN):
        tried = _shortened(best, gap, minutes)
        start = tried.start_c(gap.before_c)
        hold, back = (_way(tried, gap, asked, start, minutes) for asked in (gap.held_c, gap.low_c))
        saved = hold.drawn_kwh[0] - back.drawn_kwh[0]
        if hold.cost is not None and back.cost is not None:
            saved = hold.cost[0] - back.cost[0]
        if saved <= 1e-9:
            break
        last = minutes
    return last


def _best_only(case: _Case, gap: Gap) -> _Case:
    """Return a case of the best estimate alone, at the gap's mean outdoor temperature."""
    model, weather = case.model, case.weather
    step = replace(model.step, state=model.step.state[:1], now=model.step.now[:1], then=model.step.then[:1])
    mean = float(weather.outdoor_c[: gap.minutes + 1].mean())
    steady = replace(weather, outdoor_c=np.full(weather.outdoor_c.size, mean), offsets_k=weather.offsets_k[:1])
    small = replace(model, step=step, gain_w=model.gain_w[:1], sun_m2=model.sun_m2[:1])
    return _Case(small, case.heater, steady)


def _shortened(case: _Case, gap: Gap, minutes: int) -> _Case:
    """Return a case whose gap has another length and the same end; what comes before is repeated day by day."""
    weather = case.weather
    at = (np.arange(minutes + AFTER_MIN) + gap.minutes - minutes) % MIN_PER_DAY
    daily = _by_minute_of_day(weather)
    mean = float(weather.outdoor_c[0])
    return _Case(
        case.model,
        case.heater,
        replace(
            weather,
            outdoor_c=np.full(minutes + AFTER_MIN + 1, mean),
            sun_w_m2=np.zeros(minutes + AFTER_MIN),
            per_heat=np.full(minutes + AFTER_MIN, float(weather.per_heat[: gap.minutes].mean())),
            price=None if daily is None else daily[at],
            beside_c=None
            if weather.beside_c is None
            else np.full(minutes + AFTER_MIN, float(weather.beside_c[: gap.minutes].mean())),
        ),
    )


def _by_minute_of_day(weather: GapWeather) -> Floats | None:
    """Return the price by minute after the gap's beginning, a day long: the last 24 hours that are known."""
    if weather.price is None:
        return None
    day = weather.price[-1440:]
    first = (weather.price.size - day.size) % MIN_PER_DAY
    return np.roll(day, first) if day.size == 1440 else np.resize(weather.price, 1440)
