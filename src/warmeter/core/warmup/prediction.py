"""A room's day under its timetable: temperature, heat, lead times, shortfall and energy, with ranges."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.claims.arbiter import Claim, by_minute, decisions
from warmeter.core.home.document import Home
from warmeter.core.home.zones import GuardLimits, Zone
from warmeter.core.thermal.comfort import degree_hours
from warmeter.core.thermal.network import ExactStep
from warmeter.core.thermal.simulate import BoundaryConditions, OnOff, Run, controlled_run, run_on
from warmeter.core.timetable.day import (
    Block,
    cooling_claims,
    guards_of,
    people_ask,
    setpoint_decisions,
    timetable_claims,
    warm_up_claim,
)
from warmeter.core.units import MS_PER_MIN, W_MIN_PER_KWH
from warmeter.core.warmup.lead import Lead, measure_first, simulated_lead


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomModel:
    """A room ready to run at one-minute steps; draws lead every array.

    Parameters
    ----------
    step : Step
        Compiled at 60 s.
    gain_w, sun_m2 : (draw,) float arrays
        Constant gains [W] and sun aperture [m2].
    control : OnOff
        Its heater.
    """

    step: ExactStep
    gain_w: Floats
    sun_m2: Floats
    control: OnOff


@dataclass(frozen=True, slots=True, kw_only=True)
class HeatingStretch:
    """What a day is simulated in.

    Parameters
    ----------
    start_ms : int
        First minute [ms UTC].
    outdoor_c : (minute + 1,) float array
        Expected outdoor temperature [°C].
    offsets_k : (draw,) float array
        By how much each draw's outdoor temperature lies off; 0 for the first [K].
    certain : int
        Minutes at the beginning that were measured, to which no offset applies.
    clear_sky_w_m2 : (minute,) float array
        Clear-sky irradiance [W/m2].
    start_c : (draw, node) float array
        Room's state at the start [°C].
    beside_c : (minute,) float array or None
        The heated rooms beside, weighted by the walls that they share [°C]; None where the room is taken alone.
    """

    start_ms: int
    outdoor_c: Floats
    offsets_k: Floats
    certain: int
    clear_sky_w_m2: Floats
    start_c: Floats
    beside_c: Floats | None = None

    @property
    def minutes(self) -> int:
        """Length [min]."""
        return self.clear_sky_w_m2.size

    @property
    def end_ms(self) -> int:
        """End [ms UTC]."""
        return self.start_ms + self.minutes * MS_PER_MIN

    def part(self, begin: int, end: int, start_c: Floats) -> "HeatingStretch":
        """Return its minutes [begin, end) as a stretch that starts from another state (draw, node) [°C]."""
        return replace(
            self,
            start_ms=self.start_ms + begin * MS_PER_MIN,
            outdoor_c=self.outdoor_c[begin : end + 1],
            certain=max(0, self.certain - begin),
            clear_sky_w_m2=self.clear_sky_w_m2[begin:end],
            beside_c=None if self.beside_c is None else self.beside_c[begin:end],
            start_c=start_c,
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class BlockLead:
    """The lead of one block, and how long the gap before it is in which it was not as warm [min]."""

    block: Block
    from_c: float
    lead: Lead
    gap_min: float

    @property
    def measure_first(self) -> bool:
        """Whether the lead is too little known for a start to be set by it."""
        return measure_first(self.lead, self.gap_min)


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomDay:
    """A room's predicted stretch.

    Parameters
    ----------
    setpoint_c : (minute,) float array
        What is asked, warm-ups and guard included [°C].
    wanted_c : (minute,) float array
        What the blocks ask, without warm-ups [°C].
    run : Run
        What happens, all draws.
    leads : tuple of BlockLead
        Of the blocks that rise.
    limit_c : (minute,) float array or None
        Cooling limit by the blocks, without cool-downs [°C]; None where nothing cools.
    cool_downs : tuple of BlockLead
        Of the blocks whose cooling limit falls.
    """

    setpoint_c: Floats
    wanted_c: Floats
    run: Run
    leads: tuple[BlockLead, ...]
    limit_c: Floats | None = None
    cool_downs: tuple[BlockLead, ...] = ()

    def underheating_kh(self, begin: int, end: int) -> Floats:
        """Return K h below the blocks' setpoints over minutes [begin, end), shape (draw,)."""
        return degree_hours(self.run.air_c[:, begin:end], self.wanted_c[begin:end], 60.0)

    def overheating_kh(self, begin: int, end: int) -> Floats:
        """Return K h above the blocks' cooling limits over minutes [begin, end), shape (draw,)."""
        if self.limit_c is None:
            return np.zeros(self.run.heat_w.shape[0])
        beyond = np.maximum(0.0, self.run.air_c[:, begin:end] - self.limit_c[None, begin:end])
        return np.asarray(beyond.sum(axis=1) / 60, dtype=np.float64)

    def heat_kwh(self, begin: int, end: int) -> Floats:
        """Return heat given over minutes [begin, end), shape (draw,) [kWh]."""
        return np.asarray(np.maximum(self.run.heat_w[:, begin:end], 0.0).sum(axis=1) / W_MIN_PER_KWH, dtype=np.float64)


def boundary_of(
    model: RoomModel, stretch: HeatingStretch, setpoint_c: Floats, cool_c: Floats | None = None
) -> BoundaryConditions:
    """Return what acts on the room, outdoor offsets and gains by draw."""
    outdoor = np.repeat(stretch.outdoor_c[None, :], model.gain_w.size, axis=0)
    outdoor[:, stretch.certain :] += stretch.offsets_k[:, None]
    gain = model.gain_w[:, None] + model.sun_m2[:, None] * stretch.clear_sky_w_m2[None, :]
    return BoundaryConditions(
        outdoor_c=outdoor,
        gain_w=gain,
        setpoint_c=setpoint_c,
        start_c=stretch.start_c,
        cool_c=cool_c,
        beside_c=stretch.beside_c,
    )


def predict_day(
    home: Home,
    zone: Zone,
    model: RoomModel,
    stretch: HeatingStretch,
    blocks: Sequence[Block],
    *,
    others: Sequence[Claim] = (),
    with_leads: bool = True,
) -> RoomDay:
    """Predict a room under its blocks, each rising block warmed up in time.

    Parameters
    ----------
    blocks : sequence of Block
        All that touch the stretch, in order.
    others : sequence of Claim
        Claims on the zone's heating setpoint beside the timetable's, such as changes by hand.
    with_leads : bool
        Whether the heating starts early; without, it starts with the block.

    Notes
    -----
    Blocks are taken in order of time: each lead is found on the run that the earlier ones leave, and the run is
    made again from its first minute on. The timetable claims the block's setpoint from the best estimate's lead on.
    """
    claims = [*timetable_claims(blocks, {}), *others]
    setpoint = _asked_c(home, zone, claims, stretch, 0, stretch.minutes)
    wanted = setpoint.copy()
    if any(block.is_preheat for block in blocks):
        asked = [*timetable_claims([people_ask(block) for block in blocks], {}), *others]
        wanted = _asked_c(home, zone, asked, stretch, 0, stretch.minutes)
    limit = held_limit = None
    if model.control.full_cool_w > 0:
        held_limit = _limit_c(home, zone, blocks, {}, stretch)
        limit = _limit_c(home, zone, [people_ask(block) for block in blocks], {}, stretch)
    boundary = boundary_of(model, stretch, setpoint, held_limit)
    run = controlled_run(model.step, boundary, model.control)
    found: list[BlockLead] = []
    # Minutes up to which the run holds the warm-ups found so far.
    fresh = stretch.minutes
    for before, block in itertools.pairwise(blocks) if with_leads else ():
        due = (block.from_ms - stretch.start_ms) // MS_PER_MIN
        if block.is_preheat or block.setpoint_c <= before.setpoint_c + 1e-9 or not 0 < due < stretch.minutes:
            continue
        if fresh < due:
            run_on(model.step, boundary, model.control, run, fresh, due)
            fresh = due
        lead = simulated_lead(
            model.step, boundary, run, model.control, target_c=guarded_c(home.guard_of(zone), block.setpoint_c), due=due
        )
        gap_min = _gap_min(blocks, block, [b for b in blocks if b.setpoint_c >= block.setpoint_c - 1e-9])
        found.append(BlockLead(block=block, from_c=_from_c(run, due, lead), lead=lead, gap_min=gap_min))
        if lead.best:
            claims.append(warm_up_claim(block, lead.best))
            begin = max(0, due - round(lead.best))
            setpoint[begin:due] = _asked_c(home, zone, claims, stretch, begin, due)
            fresh = begin
    if fresh < stretch.minutes:
        run_on(model.step, boundary, model.control, run, fresh, stretch.minutes)
    downs = _cool_downs(home, zone, model, stretch, blocks, boundary, run) if with_leads and limit is not None else ()
    return RoomDay(setpoint_c=setpoint, wanted_c=wanted, run=run, leads=tuple(found), limit_c=limit, cool_downs=downs)


def _cool_downs(
    home: Home,
    zone: Zone,
    model: RoomModel,
    stretch: HeatingStretch,
    blocks: Sequence[Block],
    boundary: BoundaryConditions,
    run: Run,
) -> tuple[BlockLead, ...]:
    """Cool a room down in time for each block whose limit falls, in place; return how early each begins.

    The room is linear, so cooling to a limit is warming to its negative with all inputs turned round.
    """
    cool_c = boundary.cool_c
    assert cool_c is not None  # only rooms that cool come here
    found = []
    turned = BoundaryConditions(
        outdoor_c=-boundary.outdoor_c,
        gain_w=-boundary.gain_w,
        setpoint_c=cool_c,
        start_c=boundary.start_c,
        beside_c=-boundary.beside,
    )
    for before, block in itertools.pairwise(blocks):
        due = (block.from_ms - stretch.start_ms) // MS_PER_MIN
        falls = block.cooling_c is not None and (before.cooling_c is None or block.cooling_c < before.cooling_c - 1e-9)
        if block.is_preheat or block.cooling_c is None or not falls or not 0 < due < stretch.minutes:
            continue
        target = guarded_c(home.guard_of(zone), block.cooling_c)
        lead = simulated_lead(
            model.step,
            turned,
            Run(-run.states_c, run.heat_w),
            replace(model.control, full_heat_w=model.control.full_cool_w),
            target_c=-target,
            due=due,
        )
        lead = replace(lead, reach_c=None if lead.reach_c is None else -lead.reach_c)
        as_cool = [b for b in blocks if b.cooling_c is not None and b.cooling_c <= block.cooling_c + 1e-9]
        gap_min = _gap_min(blocks, block, as_cool)
        found.append(BlockLead(block=block, from_c=_from_c(run, due, lead), lead=lead, gap_min=gap_min))
        if lead.best:
            begin = max(0, due - round(lead.best))
            cool_c[begin:due] = np.minimum(cool_c[begin:due], target)
            run_on(model.step, boundary, model.control, run, begin, stretch.minutes)
    return tuple(found)


def _gap_min(blocks: Sequence[Block], block: Block, as_good: Sequence[Block]) -> float:
    """Return the time from the end of the last block that was as good to a block's begin, else from the first's [min]."""
    ends = [b.until_ms for b in as_good if b.until_ms <= block.from_ms]
    return (block.from_ms - max(ends, default=blocks[0].from_ms)) / MS_PER_MIN


def _limit_c(
    home: Home, zone: Zone, blocks: Sequence[Block], leads_min: dict[int, float], stretch: HeatingStretch
) -> Floats:
    """Return the cooling limit by minute, guarded; where no block has one, the guard's upper limit [°C]."""
    guard = home.guard_of(zone)
    base = Claim(kind="base", value=guard.high_c, from_ms=stretch.start_ms, reason="protection limit")
    found = decisions(cooling_claims(blocks, leads_min), base, guards_of(home, zone), stretch.start_ms, stretch.end_ms)
    return by_minute(found, stretch.start_ms, stretch.end_ms)


def _from_c(run: Run, due: int, lead: Lead) -> float:
    return float(run.air_c[0, max(0, due - round(lead.best or 0))])


def _asked_c(home: Home, zone: Zone, claims: Sequence[Claim], stretch: HeatingStretch, begin: int, end: int) -> Floats:
    """Return what is asked in minutes [begin, end) of a stretch [°C]."""
    start, until = stretch.start_ms + begin * MS_PER_MIN, stretch.start_ms + end * MS_PER_MIN
    near = [c for c in claims if c.from_ms < until and (c.until_ms is None or c.until_ms > start)]
    return by_minute(setpoint_decisions(home, zone, near, start, until), start, until)


def guarded_c(guard: GuardLimits, setpoint_c: float) -> float:
    """Return a setpoint within guard limits [°C]."""
    return min(max(setpoint_c, guard.low_c), guard.high_c)


def held_setpoint_c(guard: GuardLimits, blocks: Sequence[Block], minutes: int) -> Floats:
    """Return a day without any setback: its highest setpoint all through, guarded, shape (minute,) [°C]."""
    highest = max(block.setpoint_c for block in blocks)
    return np.full(minutes, guarded_c(guard, highest))


def settled_heat_w(
    model: RoomModel, stretch: HeatingStretch, setpoint_c: Floats, *, cool_c: Floats | None = None, times: int = 4
) -> Floats:
    """Return the heat of a day after several days like it, so that what it took it gives back.

    Parameters
    ----------
    setpoint_c : (minute,) float array
        Asked through the day, the same each time [°C].
    cool_c : (minute,) float array or None
        Cooling limit likewise [°C].
    times : int
        How many days are run, each from where the one before ended; the last is returned.

    Returns
    -------
    (draw, minute) float array
        Heat, taken away below zero [W].
    """
    run = controlled_run(model.step, boundary_of(model, stretch, setpoint_c, cool_c), model.control)
    for _ in range(times - 1):
        again = replace(stretch, start_c=np.ascontiguousarray(run.states_c[:, -1]))
        run = controlled_run(model.step, boundary_of(model, again, setpoint_c, cool_c), model.control)
    return run.heat_w


def day_with_leads(
    home: Home,
    zone: Zone,
    model: RoomModel,
    stretch: HeatingStretch,
    blocks: Sequence[Block],
    leads_min: dict[int, float],
) -> RoomDay:
    """Predict a room whose warm-ups begin at given leads [min by block start], as a device would be set."""
    wanted = _asked_c(home, zone, timetable_claims(blocks, {}), stretch, 0, stretch.minutes)
    setpoint = _asked_c(home, zone, timetable_claims(blocks, leads_min), stretch, 0, stretch.minutes)
    run = controlled_run(model.step, boundary_of(model, stretch, setpoint), model.control)
    return RoomDay(setpoint_c=setpoint, wanted_c=wanted, run=run, leads=())
