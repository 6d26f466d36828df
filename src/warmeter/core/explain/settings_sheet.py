"""The settings to type: rounded to each device's own steps, what the rounding costs, and the reason."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from warmeter.core.appliance.machine_record import MachineRecord
from warmeter.core.appliance.machine_settings import handed, proposal_of, rounded_setting
from warmeter.core.errors import NotKnowable
from warmeter.core.forecast.day_forecast import DayForecast, RoomForecast, cost_with_leads
from warmeter.core.home.receivers import Typed, receiver_of_heater, typed_setpoint
from warmeter.core.signature.recommending import least_threshold_w
from warmeter.core.signature.tuner import HandedOver, Setting
from warmeter.core.tariff.cheapest_start import RunSchedule
from warmeter.core.thermal.room_fit import DrawnEstimate, total_of
from warmeter.core.timetable.day import Block
from warmeter.core.units import MS_PER_MIN
from warmeter.core.warmup.lead import Lead


@dataclass(frozen=True, slots=True, kw_only=True)
class HeatingStart:
    """One start to type.

    Parameters
    ----------
    start_min : int or None
        Minute of the day on the wall clock, rounded earlier to the device's step; None is too late.
    day_before : bool
        Whether it lies on the evening before.
    exact_min : float or None
        Lead that four of five draws keep [min].
    rounding_cost : float or None
        What starting that much earlier costs a day; None where money is not known.
    typed : Typed
        What is typed into the heater's receiver, and what of it that cannot hold.
    measure_first : bool
        Whether the lead is too little known for any start to be typed.
    """

    room: RoomForecast
    block: Block
    lead: Lead
    measure_first: bool
    start_min: int | None
    day_before: bool
    exact_min: float | None
    rounding_cost: float | None
    typed: Typed


@dataclass(frozen=True, slots=True, kw_only=True)
class FinishLine:
    """A machine's finish setting to type as the sentence that is judged, and the unrounded setting."""

    record: MachineRecord
    sentence: HandedOver
    exact: Setting


@dataclass(frozen=True, slots=True, kw_only=True)
class RunStart:
    """When to start a machine."""

    record: MachineRecord
    schedule: RunSchedule
    saved: Decimal


@dataclass(frozen=True, slots=True, kw_only=True)
class SetbackSaving:
    """What a day's setbacks save against holding: energy [kWh] of one carrier ("electricity" or a fuel), and its money.

    ``cost`` is None where that carrier has no price.
    """

    carrier: str
    kwh: DrawnEstimate
    cost: DrawnEstimate | None


@dataclass(frozen=True, slots=True, kw_only=True)
class SettingsSheet:
    """All settings of a day."""

    starts: tuple[HeatingStart, ...]
    finishes: tuple[FinishLine, ...]
    runs: tuple[RunStart, ...]
    savings: tuple[SetbackSaving, ...]


def sheet_of(forecast: DayForecast, runs: Sequence[tuple[MachineRecord, RunSchedule]]) -> SettingsSheet:
    """Return a day's sheet."""
    starts = one_a_zone([start for room in forecast.rooms for start in _starts(forecast, room)])
    finishes = tuple(line for record, _ in runs if (line := _finish(record)) is not None)
    return SettingsSheet(
        starts=starts,
        finishes=finishes,
        runs=tuple(
            RunStart(record=record, schedule=schedule, saved=schedule.planned.cost - schedule.cheapest.cost)
            for record, schedule in runs
        ),
        savings=setback_savings(forecast),
    )


def setback_savings(forecast: DayForecast) -> tuple[SetbackSaving, ...]:
    """Return what a day's setbacks save of electricity and of each fuel; nothing of rooms whose watts are not known."""
    rooms = [room for room in forecast.rooms if room.is_in_watts]
    found = []
    for fuel in dict.fromkeys(room.costed.fuel for room in rooms):
        own = [room for room in rooms if room.costed.fuel == fuel]
        costs = [room.saving.saved_cost for room in own if room.saving.saved_cost is not None]
        found.append(
            SetbackSaving(
                carrier=fuel or "electricity",
                kwh=total_of([room.saving.saved_kwh for room in own]),
                cost=total_of(costs) if len(costs) == len(own) else None,
            )
        )
    return tuple(found)


def one_a_zone(starts: Sequence[HeatingStart]) -> tuple[HeatingStart, ...]:
    """Return one start for each block of each zone: that of the room that needs it first, too late before all."""
    first: dict[tuple[str, int], HeatingStart] = {}

    def place(start: HeatingStart) -> tuple[bool, bool, int]:
        return start.start_min is not None, not start.day_before, start.start_min or 0

    for start in starts:
        key = start.room.zone.id, start.block.from_ms
        if key not in first or place(start) < place(first[key]):
            first[key] = start
    return tuple(first.values())


def _starts(forecast: DayForecast, room: RoomForecast) -> list[HeatingStart]:
    leads = [x for x in room.leads if forecast.day.start_ms <= x.block.from_ms < forecast.day.end_ms]
    exact = {x.block.from_ms: x.lead.best for x in room.leads if x.lead.best}
    found, receiver = [], receiver_of_heater(forecast.home, room.heater)
    for each in leads:
        step = room.heater.step_min
        cautious = None if each.measure_first else each.lead.cautious
        start_min, before, cost = None, False, None
        if cautious is not None:
            local = forecast.clock.local(each.block.from_ms - round(cautious) * MS_PER_MIN)
            minute = local.hour * 60 + local.minute
            start_min, before = minute // step * step, local.date() < forecast.day.date
            cost = _rounding_cost(forecast, room, exact, each.block, cautious + minute % step)
        found.append(
            HeatingStart(
                room=room,
                block=each.block,
                lead=each.lead,
                measure_first=each.measure_first,
                start_min=start_min,
                day_before=before,
                exact_min=cautious,
                rounding_cost=cost,
                typed=typed_setpoint(receiver, each.block.setpoint_c),
            )
        )
    return found


def _rounding_cost(
    forecast: DayForecast, room: RoomForecast, exact: dict[int, float], block: Block, lead_min: float
) -> float | None:
    """Return what one block's rounded start costs against its best estimate."""
    if not room.is_in_watts:
        return None
    as_best = cost_with_leads(forecast, room, dict(exact))
    as_typed = cost_with_leads(forecast, room, {**exact, block.from_ms: lead_min})
    return None if as_best is None or as_typed is None else as_typed - as_best


def _finish(record: MachineRecord) -> FinishLine | None:
    try:
        exact = proposal_of(record, "finished").setting
    except NotKnowable:
        return None
    machine = record.appliance
    setting = rounded_setting(exact, machine.threshold_step_w, machine.wait_step_min, least_threshold_w(record.found))
    sentence = handed(record, "finished", setting)
    # Rounded to the plug's steps it may see no run at all: then nothing is handed over.
    if sentence.verdict.missed == sentence.verdict.asked:
        return None
    return FinishLine(record=record, sentence=sentence, exact=exact)
