"""Forms of the plan of the day, read as commands: wants, pins, zones warmed ahead, how the home plans."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le, Len

from warmeter.core.edits.edit import Command
from warmeter.core.edits.ids import new_id
from warmeter.core.edits.plan_commands import (
    PinRun,
    PlanZone,
    PutHumidityBand,
    PutWantedCharge,
    PutWantedHours,
    PutWantedRun,
    PutWaterStore,
    RemoveWanted,
    SetPlanPractice,
    TakePreheats,
)
from warmeter.core.errors import HomeError
from warmeter.core.home.day_plans import (
    HomeBattery,
    HumidityBand,
    PlanPractice,
    QuietHours,
    ShedRank,
    WantedCharge,
    WantedHours,
    WantedRun,
    WaterStore,
)
from warmeter.core.home.document import Home
from warmeter.core.home.part import Name, TimeOfDay, Unit, Word
from warmeter.core.home.preheats import PreheatZone
from warmeter.core.units import MIN_PER_DAY
from warmeter.web.form_reader import Texts, read_form

POWERS_WORDS = "write the powers of charging in kW with commas between, such as 1.4, 2.3, 3.7"


@dataclass(frozen=True, slots=True, kw_only=True)
class _RunForm:
    """A run as it is wanted."""

    appliance_id: str
    label: Word = ""
    earliest: TimeOfDay = 0
    latest: TimeOfDay = 1440
    after_id: str = ""
    after_within_min: Annotated[int, Ge(0), Le(1440)] | None = None
    heard: bool = False
    alone: bool = False
    kwh: Annotated[float, Gt(0), Le(100)] | None = None
    minutes: Annotated[int, Ge(1), Le(1440)] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class _ChargeForm:
    name: Name
    kwh: Annotated[float, Gt(0), Le(300)]
    earliest: TimeOfDay = 0
    latest: TimeOfDay = 1440
    steps: Annotated[str, Len(0, 80)] = "1.4, 2.3, 3.7"
    shed_rank: ShedRank | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class _HoursForm:
    name: Name
    power_w: Annotated[float, Gt(0), Le(100_000)]
    hours: Annotated[float, Gt(0), Le(48)]
    least_min: Annotated[int, Ge(1), Le(1440)] = 60
    earliest: TimeOfDay = 0
    latest: TimeOfDay = 1440
    heard: bool = False
    shed_rank: ShedRank | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class _BandForm:
    name: Name
    power_w: Annotated[float, Gt(0), Le(20_000)] = 300.0
    begin_pct: Annotated[float, Ge(0), Le(100)] = 55.0
    low_pct: Annotated[float, Ge(0), Le(100)] = 45.0
    high_pct: Annotated[float, Ge(0), Le(100)] = 60.0
    rise_pct: Annotated[float, Ge(0), Le(50)] = 0.5
    fall_pct: Annotated[float, Gt(0), Le(100)] = 3.0
    shed_rank: ShedRank | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class _StoreForm:
    name: Name
    kind: Literal["tank", "tub"] = "tank"
    litres: Annotated[float, Gt(0), Le(100_000), Unit("L")] = 200.0
    power_w: Annotated[float, Gt(0), Le(100_000)] = 3000.0
    loss_w_k: Annotated[float, Ge(0), Le(2000)] = 1.8
    efficiency: Annotated[float, Ge(0.5), Le(8)] = 1.0
    outdoors: bool = False
    usual_c: Annotated[float, Ge(0), Le(95), Unit("°C")] = 50.0
    low_c: Annotated[float, Ge(1), Le(95), Unit("°C")] = 40.0
    high_c: Annotated[float, Ge(5), Le(95), Unit("°C")] = 65.0
    ready_c: Annotated[float, Ge(1), Le(95), Unit("°C")] = 50.0
    ready_min: TimeOfDay = 390
    drawn_kwh: Annotated[float, Ge(0), Le(100)] = 2.0
    hygiene_c: Annotated[float, Ge(40), Le(90), Unit("°C")] | None = None
    shed_rank: ShedRank | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class _PracticeForm:
    step: Literal["5", "15", "30", "60"] = "15"
    days: Literal["1", "2"] = "1"
    main_fuse_a: Annotated[float, Gt(0), Le(630)] | None = None
    main_volts_v: Annotated[float, Ge(12), Le(1000)] = 230.0
    main_phases: Literal["1", "3"] = "1"
    quiet_from: TimeOfDay | None = None
    quiet_to: TimeOfDay | None = None
    quiet_room: str = ""
    battery_kwh: Annotated[float, Gt(0), Le(1000)] | None = None
    battery_kw: Annotated[float, Gt(0), Le(1000)] = 3.0
    round_trip_pct: Annotated[float, Ge(30), Le(100)] = 90.0
    reserve_pct: Annotated[float, Ge(0), Le(100)] = 10.0
    start_pct: Annotated[float, Ge(0), Le(100)] = 50.0


@dataclass(frozen=True, slots=True, kw_only=True)
class _ZoneForm:
    zone_id: str
    beyond_k: Annotated[float, Ge(0), Le(6), Unit("K")] = 2.0
    most_changes: Annotated[int, Ge(2), Le(48)] = 12
    planned: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class _PinForm:
    id: str
    minute: Annotated[int, Ge(0), Le(2880)] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class _Which:
    id: str


def _end(earliest: int, latest: int) -> int:
    """Return a deadline on the plan's time: before its beginning it is of the next day."""
    return latest if latest > earliest else latest + MIN_PER_DAY


def plan_command(name: str, texts: Texts, home: Home, on: date) -> Command:
    """Return the command of a form on the plan of a date; ``HomeError`` for a name that is none."""
    if name == "run":
        form = read_form(_RunForm, texts, home.units)
        run = WantedRun(
            id=new_id(),
            appliance_id=form.appliance_id,
            on=on,
            label=form.label,
            earliest_min=form.earliest,
            latest_end_min=_end(form.earliest, form.latest),
            after_id=form.after_id or None,
            after_within_min=form.after_within_min,
            is_heard=form.heard,
            never_with_others=form.alone,
            kwh=form.kwh,
            minutes=form.minutes,
        )
        return PutWantedRun(run=run)
    if name == "charge":
        return _charge(texts, home, on)
    if name == "hours":
        hours = read_form(_HoursForm, texts, home.units)
        wanted = WantedHours(
            id=new_id(),
            name=hours.name,
            on=on,
            power_w=hours.power_w,
            hours=hours.hours,
            least_min=hours.least_min,
            earliest_min=hours.earliest,
            latest_end_min=_end(hours.earliest, hours.latest),
            is_heard=hours.heard,
            shed_rank=hours.shed_rank,
        )
        return PutWantedHours(hours=wanted)
    if name == "store":
        return _store(texts, home)
    if name == "band":
        return _band(texts, home)
    if name == "practice":
        return SetPlanPractice(practice=_practice(texts, home))
    if name == "pin":
        pinned = read_form(_PinForm, texts, home.units)
        return PinRun(run_id=pinned.id, minute=pinned.minute)
    if name == "zone":
        return _zone(texts, home)
    if name in ("take", "lift"):
        return TakePreheats(on=on, is_lifted=name == "lift")
    if name == "remove":
        return RemoveWanted(part_id=read_form(_Which, texts).id)
    raise HomeError("there is no such act")


def _charge(texts: Texts, home: Home, on: date) -> PutWantedCharge:
    form = read_form(_ChargeForm, texts, home.units)
    try:
        steps = tuple(float(part) for part in form.steps.split(",") if part.strip())
    except ValueError as error:
        raise HomeError(POWERS_WORDS) from error
    if not steps:
        raise HomeError(POWERS_WORDS)
    charge = WantedCharge(
        id=new_id(),
        name=form.name,
        on=on,
        kwh=form.kwh,
        earliest_min=form.earliest,
        latest_end_min=_end(form.earliest, form.latest),
        steps_kw=steps,
        shed_rank=form.shed_rank,
    )
    return PutWantedCharge(charge=charge)


def _store(texts: Texts, home: Home) -> PutWaterStore:
    form = read_form(_StoreForm, texts, home.units)
    return PutWaterStore(
        store=WaterStore(
            id=new_id(),
            name=form.name,
            kind=form.kind,
            litres=form.litres,
            power_w=form.power_w,
            loss_w_k=form.loss_w_k,
            efficiency=form.efficiency,
            surroundings_c=None if form.outdoors else 18.0,
            usual_c=form.usual_c,
            low_c=form.low_c,
            high_c=form.high_c,
            ready_c=form.ready_c,
            ready_min=form.ready_min,
            drawn_kwh=form.drawn_kwh,
            hygiene_c=form.hygiene_c,
            shed_rank=form.shed_rank,
        )
    )


def _band(texts: Texts, home: Home) -> PutHumidityBand:
    form = read_form(_BandForm, texts, home.units)
    return PutHumidityBand(
        band=HumidityBand(
            id=new_id(),
            name=form.name,
            power_w=form.power_w,
            begin_pct=form.begin_pct,
            low_pct=form.low_pct,
            high_pct=form.high_pct,
            rise_pct_h=form.rise_pct,
            fall_pct_h=form.fall_pct,
            shed_rank=form.shed_rank,
        )
    )


def _practice(texts: Texts, home: Home) -> PlanPractice:
    form = read_form(_PracticeForm, texts, home.units)
    quiet: tuple[QuietHours, ...] = ()
    if form.quiet_from is not None and form.quiet_to is not None:
        quiet = (QuietHours(from_min=form.quiet_from, to_min=form.quiet_to, room_id=form.quiet_room or None),)
    battery = None
    if form.battery_kwh is not None:
        battery = HomeBattery(
            capacity_kwh=form.battery_kwh,
            charge_kw=form.battery_kw,
            discharge_kw=form.battery_kw,
            round_trip=form.round_trip_pct / 100,
            reserve_pct=form.reserve_pct,
            start_pct=form.start_pct,
        )
    return PlanPractice(
        step_min={"5": 5, "15": 15, "30": 30, "60": 60}[form.step],  # type: ignore[arg-type]
        days=2 if form.days == "2" else 1,
        main_fuse_a=form.main_fuse_a,
        main_volts_v=form.main_volts_v,
        main_phases=3 if form.main_phases == "3" else 1,
        quiet=quiet,
        battery=battery,
        preheats=home.plan_practice.preheats,
    )


def _zone(texts: Texts, home: Home) -> PlanZone:
    form = read_form(_ZoneForm, texts, home.units)
    zone = PreheatZone(zone_id=form.zone_id, beyond_k=form.beyond_k, most_changes=form.most_changes)
    return PlanZone(zone=zone, is_planned=form.planned)
