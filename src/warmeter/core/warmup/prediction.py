"""A room's day under its timetable: temperature, heat, lead times, shortfall and energy, with ranges."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from warmeter.core.claims.arbiter import by_minute
from warmeter.core.home.document import Home
from warmeter.core.thermal.comfort import degree_hours
from warmeter.core.thermal.network import Step
from warmeter.core.thermal.simulate import Drive, OnOff, Run, controlled_run
from warmeter.core.timetable.day import Block, setpoint_decisions
from warmeter.core.units import MS_PER_MIN
from warmeter.core.warmup.lead import Lead, simulated_lead

Floats = NDArray[np.float64]


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

    step: Step
    gain_w: Floats
    sun_m2: Floats
    control: OnOff


@dataclass(frozen=True, slots=True, kw_only=True)
class Stretch:
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
    """

    start_ms: int
    outdoor_c: Floats
    offsets_k: Floats
    certain: int
    clear_sky_w_m2: Floats
    start_c: Floats

    @property
    def minutes(self) -> int:
        """Length [min]."""
        return self.clear_sky_w_m2.size

    @property
    def end_ms(self) -> int:
        """End [ms UTC]."""
        return self.start_ms + self.minutes * MS_PER_MIN


@dataclass(frozen=True, slots=True, kw_only=True)
class BlockLead:
    """The lead of one block."""

    block: Block
    from_c: float
    lead: Lead


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
    """

    setpoint_c: Floats
    wanted_c: Floats
    run: Run
    leads: tuple[BlockLead, ...]

    def shortfall_kh(self, begin: int, end: int) -> Floats:
        """Return K h below the blocks' setpoints over minutes [begin, end), shape (draw,)."""
        return degree_hours(self.run.air_c[:, begin:end], self.wanted_c[begin:end], 60.0)

    def heat_kwh(self, begin: int, end: int) -> Floats:
        """Return heat over minutes [begin, end), shape (draw,) [kWh]."""
        return np.asarray(self.run.heat_w[:, begin:end].sum(axis=1) / 60_000, dtype=np.float64)


def drive_of(model: RoomModel, stretch: Stretch, setpoint_c: Floats) -> Drive:
    """Return what acts on the room, outdoor offsets and gains by draw."""
    outdoor = np.repeat(stretch.outdoor_c[None, :], model.gain_w.size, axis=0)
    outdoor[:, stretch.certain :] += stretch.offsets_k[:, None]
    gain = model.gain_w[:, None] + model.sun_m2[:, None] * stretch.clear_sky_w_m2[None, :]
    return Drive(outdoor_c=outdoor, gain_w=gain, setpoint_c=setpoint_c, start_c=stretch.start_c)


def predict_day(
    home: Home, model: RoomModel, stretch: Stretch, blocks: Sequence[Block], *, with_leads: bool = True
) -> RoomDay:
    """Predict a room under its blocks, each rising block warmed up in time.

    Parameters
    ----------
    blocks : sequence of Block
        All that touch the stretch, in order.
    with_leads : bool
        Whether the heating starts early; without, it starts with the block.

    Notes
    -----
    Blocks are taken in order of time: each lead is found on the run that the earlier ones leave. The
    timetable then claims the block's setpoint from the best estimate's lead on.
    """
    leads: dict[int, float] = {}
    found: list[BlockLead] = []
    wanted = _setpoints(home, blocks, {}, stretch)
    run = controlled_run(model.step, drive_of(model, stretch, wanted), model.control)
    setpoint = wanted
    if with_leads:
        for before, block in itertools.pairwise(blocks):
            due = (block.from_ms - stretch.start_ms) // MS_PER_MIN
            if block.setpoint_c <= before.setpoint_c + 1e-9 or not 0 < due < stretch.minutes:
                continue
            drive = drive_of(model, stretch, setpoint)
            lead = simulated_lead(
                model.step,
                drive,
                run,
                model.control,
                target_c=min(max(block.setpoint_c, home.guard.low_c), home.guard.high_c),
                due=due,
            )
            found.append(BlockLead(block=block, from_c=_from_c(run, due, lead), lead=lead))
            if lead.best:
                leads[block.from_ms] = lead.best
                setpoint = _setpoints(home, blocks, leads, stretch)
                run = controlled_run(model.step, drive_of(model, stretch, setpoint), model.control)
    return RoomDay(setpoint_c=setpoint, wanted_c=wanted, run=run, leads=tuple(found))


def _from_c(run: Run, due: int, lead: Lead) -> float:
    return float(run.air_c[0, max(0, due - round(lead.best or 0))])


def _setpoints(home: Home, blocks: Sequence[Block], leads: dict[int, float], stretch: Stretch) -> Floats:
    asked = setpoint_decisions(home, blocks, leads, stretch.start_ms, stretch.end_ms)
    return by_minute(asked, stretch.start_ms, stretch.end_ms)


def held_setpoint_c(home: Home, blocks: Sequence[Block], minutes: int) -> Floats:
    """Return a day without any setback: its highest setpoint all through, guarded, shape (minute,) [°C]."""
    highest = max(block.setpoint_c for block in blocks)
    return np.full(minutes, min(max(highest, home.guard.low_c), home.guard.high_c))


def settled_heat_w(model: RoomModel, stretch: Stretch, setpoint_c: Floats, *, times: int = 4) -> Floats:
    """Return the heat of a day after several days like it, so that what it took it gives back.

    Parameters
    ----------
    setpoint_c : (minute,) float array
        Asked through the day, the same each time [°C].
    times : int
        How many days are run, each from where the one before ended; the last is returned.

    Returns
    -------
    (draw, minute) float array
        Heat [W].
    """
    run = controlled_run(model.step, drive_of(model, stretch, setpoint_c), model.control)
    for _ in range(times - 1):
        again = replace(stretch, start_c=np.ascontiguousarray(run.states_c[:, -1]))
        run = controlled_run(model.step, drive_of(model, again, setpoint_c), model.control)
    return run.heat_w


def day_with_leads(
    home: Home, model: RoomModel, stretch: Stretch, blocks: Sequence[Block], leads_min: dict[int, float]
) -> RoomDay:
    """Predict a room whose warm-ups begin at given leads [min by block start], as a device would be set."""
    wanted = _setpoints(home, blocks, {}, stretch)
    setpoint = _setpoints(home, blocks, leads_min, stretch)
    run = controlled_run(model.step, drive_of(model, stretch, setpoint), model.control)
    return RoomDay(setpoint_c=setpoint, wanted_c=wanted, run=run, leads=())
