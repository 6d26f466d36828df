"""What a plan of the day is made from: slots with prices, what may be moved, what holds it (docs/methods I9).

Slots are even and count from 0; a stretch of slots is [from, until). Energies are kWh a slot.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from warmeter.core.arrays import Flags, Floats
from warmeter.core.day_plan.planned_room import RoomHeat
from warmeter.core.errors import OutOfRange, TariffError, within
from warmeter.core.units import MIN_PER_H

MOST_SLOTS = 600
LONGEST_STEP_MIN = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedRun:
    """A machine's run, from start to end without a break.

    Parameters
    ----------
    key, name : str
        Its id, and what people call it.
    profile_kwh, peak_w : (slot of the run,) float arrays
        Energy of each slot, and the highest power within it.
    earliest, latest_end : int
        Slots between which it lies.
    quiet : (slot,) bool array or None
        When it may not be heard.
    pinned : int or None
        The start that a person set.
    after : str
        Key of the run that it follows, "" for none; ``after_within``: at most so many slots later.
    apart : tuple of str
        Names of groups of which only one runs at a time.
    """

    key: str
    name: str
    profile_kwh: Floats
    peak_w: Floats
    earliest: int
    latest_end: int
    quiet: Flags | None = None
    pinned: int | None = None
    after: str = ""
    after_within: int | None = None
    apart: tuple[str, ...] = ()

    @property
    def slots(self) -> int:
        """How long it runs."""
        return int(self.profile_kwh.size)


@dataclass(frozen=True, slots=True, kw_only=True)
class SlotLoad:
    """A load that needs so many slots, on for ``min_run`` of them at least each time (a dehumidifier, a filter pump)."""

    key: str
    name: str
    slot_kwh: float
    slots: int
    earliest: int
    latest_end: int
    min_run: int = 1
    quiet: Flags | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Charge:
    """An amount of energy by a time, at one of some powers or not at all (a car)."""

    key: str
    name: str
    amount_kwh: float
    steps_kw: tuple[float, ...]
    earliest: int
    latest_end: int


@dataclass(frozen=True, slots=True, kw_only=True)
class HeatStore:
    """Water that is kept within limits and ready by a time, a tank or a tub; or dry air of a room (``dry_air.dry_air``).

    Parameters
    ----------
    kwh_per_k, loss_kw_k : float
        Heat that it holds, and loses to its surroundings.
    surroundings_c : (slot,) float array
    power_kw, efficiency : float
        Electric power when it heats, and heat for each kWh of it.
    start_c : float
    low_c, high_c : (slot,) float arrays
        Limits at the end of each slot, demand for use and frost in them.
    drawn_kwh : (slot,) float array
        Heat that people take out.
    hygiene_c : float or None
        Once in the plan it must reach this; ``hygiene_by`` the slot at whose end at the latest.
    """

    key: str
    name: str
    kwh_per_k: float
    loss_kw_k: float
    surroundings_c: Floats
    power_kw: float
    start_c: float
    low_c: Floats
    high_c: Floats
    drawn_kwh: Floats
    efficiency: float = 1.0
    hygiene_c: float | None = None
    hygiene_by: int | None = None
    holds: Literal["water", "dry air"] = "water"


@dataclass(frozen=True, slots=True, kw_only=True)
class Battery:
    """A battery with losses: what is put in counts times ``efficiency_in``, what comes out times ``efficiency_out``."""

    capacity_kwh: float
    charge_kw: float
    discharge_kw: float
    efficiency_in: float = 0.95
    efficiency_out: float = 0.95
    start_kwh: float = 0.0
    end_kwh: float = 0.0
    reserve_kwh: float = 0.0

    def __post_init__(self) -> None:
        within("size of the battery", self.capacity_kwh, 0.01, 1000.0, "kWh")
        within("charging power", self.charge_kw, 0.01, 1000.0, "kW")
        within("discharging power", self.discharge_kw, 0.01, 1000.0, "kW")
        for name, share in (("efficiency in", self.efficiency_in), ("efficiency out", self.efficiency_out)):
            within(name, share, 0.3, 1.0)
        for name, kwh in (("start", self.start_kwh), ("end", self.end_kwh), ("reserve", self.reserve_kwh)):
            within(f"the battery's {name}", kwh, 0.0, self.capacity_kwh, "kWh")


@dataclass(frozen=True, slots=True, kw_only=True)
class PowerLimit:
    """A circuit's limit [W] with the keys of what hangs on it."""

    key: str
    name: str
    limit_w: float
    members: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class PeakPrice:
    """What a kW more of demand costs above the month's peak so far [currency/kW], in the slots that count."""

    price_per_kw: float
    so_far_kw: float
    counted: Flags


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanProblem:
    """A plan to be made.

    Parameters
    ----------
    import_price, export_price : (slot,) float arrays
        [currency/kWh]
    base_kwh, sun_kwh : (slot,) float arrays
        What runs anyway, and what the sun is expected to give.
    import_cap_kwh : float or None
        What the main fuse lets through in a slot.
    """

    step_min: int
    import_price: Floats
    export_price: Floats
    base_kwh: Floats
    sun_kwh: Floats
    runs: tuple[PlannedRun, ...] = ()
    loads: tuple[SlotLoad, ...] = ()
    charges: tuple[Charge, ...] = ()
    stores: tuple[HeatStore, ...] = ()
    rooms: tuple[RoomHeat, ...] = ()
    battery: Battery | None = None
    limits: tuple[PowerLimit, ...] = ()
    peak: PeakPrice | None = None
    import_cap_kwh: float | None = None

    def __post_init__(self) -> None:
        within("slots of a plan", self.slots, 1, MOST_SLOTS)
        within("length of a slot", self.step_min, 1, LONGEST_STEP_MIN, "min")
        for name, each in (("export prices", self.export_price), ("base load", self.base_kwh), ("sun", self.sun_kwh)):
            if each.size != self.slots:
                raise OutOfRange(f"slots of {name}", each.size, self.slots, self.slots)
        for values in (self.import_price, self.export_price, self.base_kwh, self.sun_kwh):
            if np.isnan(values).any():
                raise TariffError("a slot of the plan has no price, or no load: plan as far as they are known")
        keys = [each.key for each in self.parts()]
        if len(set(keys)) < len(keys):
            raise TariffError("two parts of a plan have one key")
        windowed: tuple[PlannedRun | SlotLoad | Charge, ...] = (*self.runs, *self.loads, *self.charges)
        for part in windowed:
            if not 0 <= part.earliest < part.latest_end <= self.slots:
                raise TariffError(
                    f"{part.name} must end after it may begin, within the plan "
                    f"(slots {part.earliest} to {part.latest_end} of {self.slots})"
                )
        for room in self.rooms:
            if room.most_kw.size != self.slots:
                raise OutOfRange(f"slots of {room.name}", room.most_kw.size, self.slots, self.slots)
        runs = {run.key for run in self.runs}
        for run in self.runs:
            if run.after and (run.after not in runs or run.after == run.key):
                raise TariffError(f"{run.name} follows a run that is not in the plan")

    @property
    def slots(self) -> int:
        """How many slots it has."""
        return int(self.import_price.size)

    @property
    def hours(self) -> float:
        """Length of a slot [h]."""
        return self.step_min / MIN_PER_H

    def parts(self) -> Iterator[PlannedRun | SlotLoad | Charge | HeatStore | RoomHeat]:
        """Yield everything that can be moved."""
        yield from self.runs
        yield from self.loads
        yield from self.charges
        yield from self.stores
        yield from self.rooms

    def run(self, key: str) -> PlannedRun:
        """Return a run by its key; ``TariffError`` if it is not there."""
        for run in self.runs:
            if run.key == key:
                return run
        raise TariffError(f"there is no run {key!r} in this plan")


@dataclass(frozen=True, slots=True, kw_only=True)
class DayPlan:
    """What draws when.

    Parameters
    ----------
    starts : dict of str to int
        Slot at which each run starts.
    on : dict of str to (slot,) bool array
        Slots in which each slot load is on.
    charge_kw : dict of str to (slot,) float array
        Power of each charge.
    store_kw : dict of str to (slot,) float array
        Electric power of each store, a mean over the slot.
    room_kw : dict of str to (slot,) float array
        Heat of each room, a mean over the slot; cold below zero.
    battery_in_kwh, battery_out_kwh : (slot,) float arrays
        Into and out of the battery at its terminals.
    """

    starts: dict[str, int]
    on: dict[str, Flags]
    charge_kw: dict[str, Floats]
    store_kw: dict[str, Floats]
    room_kw: dict[str, Floats]
    battery_in_kwh: Floats
    battery_out_kwh: Floats
