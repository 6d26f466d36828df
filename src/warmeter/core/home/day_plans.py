"""What a person wants planned on a day: runs of machines, charging, stores of hot water, a battery, and what holds them."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le, Len

from warmeter.core.errors import HomeError
from warmeter.core.home.part import Document, Id, Name, SetpointC, Unit, Word
from warmeter.core.home.preheats import PlannedPreheat, PreheatZone

# Minutes from midnight of the plan's first date; beyond 1440 lies the next day.
PlanMinute = Annotated[int, Ge(0), Le(2880), Unit("time of day")]
StepMin = Literal[5, 15, 30, 60]
# Which is left out first where power must be saved: 1 before 2; nothing of it without one.
ShedRank = Annotated[int, Ge(1), Le(9)]


@dataclass(frozen=True, slots=True, kw_only=True)
class WantedRun(Document):
    """A run of a machine on a date.

    Parameters
    ----------
    appliance_id : str
        Whose; its learnt run is taken, unless energy and length are typed.
    earliest_min, latest_end_min : int
        It lies between these.
    pinned_min : int, optional
        A person set its start.
    after_id : str, optional
        The wanted run that it follows, ``after_within_min`` at most later.
    is_heard : bool
        Whether it keeps the quiet hours.
    never_with_others : bool
        Whether it runs only while no other such run does.
    kwh, minutes : float, int, optional
        Typed where nothing was learnt: spread evenly.
    """

    id: Id
    appliance_id: Id
    on: date
    label: Word = ""
    earliest_min: PlanMinute = 0
    latest_end_min: PlanMinute = 1440
    pinned_min: PlanMinute | None = None
    after_id: Id | None = None
    after_within_min: Annotated[int, Ge(0), Le(1440)] | None = None
    is_heard: bool = True
    never_with_others: bool = False
    kwh: Annotated[float, Gt(0), Le(100)] | None = None
    minutes: Annotated[int, Ge(1), Le(1440)] | None = None

    def __post_init__(self) -> None:
        if self.latest_end_min <= self.earliest_min:
            raise HomeError("a run must be allowed to begin before its deadline")


@dataclass(frozen=True, slots=True, kw_only=True)
class WantedCharge(Document):
    """An amount of energy into something by a time, at one of its powers (a car)."""

    id: Id
    name: Name
    on: date
    kwh: Annotated[float, Gt(0), Le(300)]
    earliest_min: PlanMinute = 0
    latest_end_min: PlanMinute = 1440
    steps_kw: Annotated[tuple[float, ...], Len(1, 12)] = (1.4, 2.3, 3.7)
    shed_rank: ShedRank | None = None

    def __post_init__(self) -> None:
        if self.latest_end_min <= self.earliest_min:
            raise HomeError("charging must be allowed to begin before its deadline")
        if any(not 0 < step <= 350 for step in self.steps_kw):
            raise HomeError("powers of charging lie above 0 and up to 350 kW")


@dataclass(frozen=True, slots=True, kw_only=True)
class WantedHours(Document):
    """So many hours of something on a day, so long at a time at least: a filter pump, a dehumidifier."""

    id: Id
    name: Name
    on: date
    power_w: Annotated[float, Gt(0), Le(100_000)]
    hours: Annotated[float, Gt(0), Le(48)]
    least_min: Annotated[int, Ge(1), Le(1440)] = 60
    earliest_min: PlanMinute = 0
    latest_end_min: PlanMinute = 1440
    is_heard: bool = True
    shed_rank: ShedRank | None = None

    def __post_init__(self) -> None:
        if self.latest_end_min <= self.earliest_min:
            raise HomeError("hours must be allowed to begin before their deadline")


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterStore(Document):
    """A tank or a tub that is heated by electricity and kept ready.

    Parameters
    ----------
    litres, power_w, loss_w_k : float
        Water in it, electric power, and heat lost for each kelvin to its surroundings.
    efficiency : float
        Heat for each kWh of electricity (1 for an element, more for a heat pump).
    surroundings_c : float, optional
        Where it stands; None is outdoors.
    usual_c, low_c, high_c : float
        What it is expected to begin with, and its limits at all times, frost and scalding in them.
    ready_c, ready_min : float, int
        What it must have reached when people want it.
    drawn_kwh : float
        Heat that people take out at that time.
    hygiene_c : float, optional
        Once in the plan it is heated so far; money never drops that.
    """

    id: Id
    name: Name
    kind: Literal["tank", "tub"] = "tank"
    litres: Annotated[float, Gt(0), Le(100_000)] = 200.0
    power_w: Annotated[float, Gt(0), Le(100_000)] = 3000.0
    loss_w_k: Annotated[float, Ge(0), Le(2000)] = 1.8
    efficiency: Annotated[float, Ge(0.5), Le(8)] = 1.0
    surroundings_c: SetpointC | None = 18.0
    usual_c: Annotated[float, Ge(0), Le(95), Unit("°C")] = 50.0
    low_c: Annotated[float, Ge(1), Le(95), Unit("°C")] = 40.0
    high_c: Annotated[float, Ge(5), Le(95), Unit("°C")] = 65.0
    ready_c: Annotated[float, Ge(1), Le(95), Unit("°C")] = 50.0
    ready_min: Annotated[int, Ge(0), Le(1440), Unit("time of day")] = 390
    drawn_kwh: Annotated[float, Ge(0), Le(100)] = 2.0
    hygiene_c: Annotated[float, Ge(40), Le(90), Unit("°C")] | None = None
    shed_rank: ShedRank | None = None

    def __post_init__(self) -> None:
        if not self.low_c <= self.ready_c <= self.high_c:
            raise HomeError("a store is ready between its lowest and its highest temperature")
        if self.hygiene_c is not None and self.hygiene_c > self.high_c:
            raise HomeError("a store cannot reach its hygiene temperature below its highest allowed one")


@dataclass(frozen=True, slots=True, kw_only=True)
class HumidityBand(Document):
    """A room whose relative humidity a dehumidifier keeps within a band.

    Parameters
    ----------
    power_w : float
        Electric power while it runs.
    begin_pct : float
        What the plan is expected to begin with.
    low_pct, high_pct : float
        The band.
    rise_pct_h, fall_pct_h : float
        By how much humidity rises in an hour without it, and falls in an hour with it.
    """

    id: Id
    name: Name
    power_w: Annotated[float, Gt(0), Le(20_000)] = 300.0
    begin_pct: Annotated[float, Ge(0), Le(100)] = 55.0
    low_pct: Annotated[float, Ge(0), Le(100)] = 45.0
    high_pct: Annotated[float, Ge(0), Le(100)] = 60.0
    rise_pct_h: Annotated[float, Ge(0), Le(50)] = 0.5
    fall_pct_h: Annotated[float, Gt(0), Le(100)] = 3.0
    shed_rank: ShedRank | None = None

    def __post_init__(self) -> None:
        if self.low_pct >= self.high_pct:
            raise HomeError("a band of humidity runs from the lower to the higher value")


@dataclass(frozen=True, slots=True, kw_only=True)
class HomeBattery(Document):
    """The home's battery: what of it may be used, its powers, and what is left of a kWh that goes in and comes out."""

    capacity_kwh: Annotated[float, Gt(0), Le(1000)]
    charge_kw: Annotated[float, Gt(0), Le(1000)] = 3.0
    discharge_kw: Annotated[float, Gt(0), Le(1000)] = 3.0
    round_trip: Annotated[float, Ge(0.3), Le(1)] = 0.9
    reserve_pct: Annotated[float, Ge(0), Le(100)] = 10.0
    start_pct: Annotated[float, Ge(0), Le(100)] = 50.0


@dataclass(frozen=True, slots=True, kw_only=True)
class QuietHours(Document):
    """Minutes [from, to) in which what is heard does not run, over midnight where from > to; whose rest it is."""

    from_min: Annotated[int, Ge(0), Le(1440), Unit("time of day")] = 1320
    to_min: Annotated[int, Ge(0), Le(1440), Unit("time of day")] = 420
    room_id: Id | None = None

    def __post_init__(self) -> None:
        if self.from_min == self.to_min:
            raise HomeError("quiet hours run between two different times")


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanPractice(Document):
    """How a home plans its day: the slot, how many days, the main fuse, quiet hours, a battery, zones warmed ahead."""

    step_min: StepMin = 15
    days: Literal[1, 2] = 1
    main_fuse_a: Annotated[float, Gt(0), Le(630)] | None = None
    main_volts_v: Annotated[float, Ge(12), Le(1000)] = 230.0
    main_phases: Literal[1, 3] = 1
    quiet: Annotated[tuple[QuietHours, ...], Len(0, 12)] = ()
    battery: HomeBattery | None = None
    preheats: Annotated[tuple[PreheatZone, ...], Len(0, 40)] = ()


PLAN = PlanPractice()


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedPart(Document):
    """What one part does in a plan: the slot at which a run starts, or the power of each slot [W]."""

    part_id: Id
    slot: Annotated[int, Ge(0), Le(600)] | None = None
    power_w: Annotated[tuple[float, ...], Len(0, 600)] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedRule(Document):
    """A rule of a plan, of which part ("" for the main fuse and the battery), and what the plan would cost less without it."""

    kind: Word
    key: Word = ""
    saves: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedDay(Document):
    """A plan as it was made: what draws when, what that costs, and what held it.

    Parameters
    ----------
    on, days, step_min : date, int, int
        From the beginning of which local date, over how many, in which slots.
    made_ms : int
        When it was made [ms UTC].
    parts : tuple of PlannedPart
        Runs, charges and stores.
    battery_in_wh, battery_out_wh : tuple of float
        By slot.
    cost, habit_cost : float
        Of the plan, and of the same wants as the home does them by habit [currency].
    gap : float
        How far the cost can be from the least (ratio).
    rules : tuple of PlannedRule
        What each rule costs; where there is no plan, the fewest that cannot be kept together.
    is_infeasible : bool
        Whether there is no plan.
    preheats : tuple of PlannedPreheat
        Zones warmed or cooled ahead.
    """

    on: date
    days: Literal[1, 2] = 1
    step_min: StepMin = 15
    made_ms: Annotated[int, Ge(0), Le(2**53)] = 0
    parts: Annotated[tuple[PlannedPart, ...], Len(0, 200)] = ()
    battery_in_wh: Annotated[tuple[float, ...], Len(0, 600)] = ()
    battery_out_wh: Annotated[tuple[float, ...], Len(0, 600)] = ()
    cost: float = 0.0
    habit_cost: float = 0.0
    gap: float = 0.0
    rules: Annotated[tuple[PlannedRule, ...], Len(0, 400)] = ()
    is_infeasible: bool = False
    preheats: Annotated[tuple[PlannedPreheat, ...], Len(0, 40)] = ()
