"""What is known of a home when its list is made: rooms with their year of heat, machines, the meter, what stands open."""

from dataclasses import dataclass
from datetime import date

from warmeter.core.arrays import Floats
from warmeter.core.finding import Finding
from warmeter.core.home.document import Home
from warmeter.core.rule.checks.rule_finding import RuleFinding
from warmeter.core.thermal.room_fit import Estimate


@dataclass(frozen=True, slots=True, kw_only=True)
class ClimateYear:
    """A year's days by their mean outdoor temperature: shape (bin,) [°C], and the share of days in each; shares sum to 1.

    ``logged_days`` of them were logged, the others are made up of the place's mean and design day.
    """

    outdoor_c: Floats
    share: Floats
    logged_days: int


@dataclass(frozen=True, slots=True, kw_only=True)
class WeekGap:
    """Stretches between two warmer periods that are alike in a week.

    Parameters
    ----------
    times_a_week : float
        How often a week holds one.
    minutes : float
        Length [min].
    held_c, low_c : float
        What holding would ask, and what is asked in it [°C].
    price_held, price_reheat : float
        Mean price over it and over its last hours, in which the room warms up again [currency/kWh drawn].
    """

    times_a_week: float
    minutes: float
    held_c: float
    low_c: float
    price_held: float
    price_reheat: float


@dataclass(frozen=True, slots=True, kw_only=True)
class HeatedRoom:
    """A heated room whose heat has a price.

    Parameters
    ----------
    loss_w_k, store_j_k : Estimate
        Steady loss [W/K] and thermal mass [J/K], as fitted or as surveyed.
    gain_w, full_heat_w : float
        Usual gains and the heater's full heat [W].
    is_fitted : bool
        Whether a log taught both.
    more_days, half_width_then : float or None
        For a fitted room: so many more days of its log would bring such a half width of the loss (ratio).
    mean_c, lowest_guard_c : float
        What its zone asks on the mean of a week, and its protection limit [°C].
    gaps : tuple of WeekGap
        Its zone's setback periods.
    heat_over_draw : (bin,) float array
        Heat for each unit drawn, by the climate's bins (ratio).
    price, currency : float, str
        Mean price over the week [currency/kWh drawn], and its currency.
    night_price, morning_price : float
        Mean price of the night hours and of those before the day begins [currency/kWh drawn].
    excess_k : Estimate or None
        How far its log lies over what its zone asks, in the dark and the cold [K].
    """

    room_id: str
    name: str
    zone_id: str
    loss_w_k: Estimate
    store_j_k: Estimate
    gain_w: float
    full_heat_w: float
    is_fitted: bool
    mean_c: float
    lowest_guard_c: float
    gaps: tuple[WeekGap, ...]
    heat_over_draw: Floats
    price: float
    currency: str
    night_price: float
    morning_price: float
    more_days: float | None = None
    half_width_then: float | None = None
    excess_k: Estimate | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class IdleHours:
    """Stretches in which a zone asked for warmth and nobody was in any of its rooms.

    ``count`` of them in ``weeks`` of log, ``minutes`` long on the mean; ``held_c`` was asked then on the mean, ``low_c`` is
    asked where nobody needs the zone [°C].
    """

    zone_id: str
    count: int
    weeks: float
    minutes: float
    held_c: float
    low_c: float


@dataclass(frozen=True, slots=True, kw_only=True)
class RestingMachine:
    """A machine at rest: level [W] with the spread of its days, days logged, what cutting would save [money a year].

    ``kwh_year`` is drawn at rest in a year; ``saved_money`` is less what the switching plug itself draws.
    ``rose_w`` is by how much its rest rose since it was last steady, 0 if it did not [W].
    """

    appliance_id: str
    name: str
    rest_w: float
    daily_sd_w: float
    days: float
    kwh_year: float
    money_year: float
    saved_money: float
    plug_own_w: float
    rose_w: float


@dataclass(frozen=True, slots=True, kw_only=True)
class StartedMachine:
    """Runs that a person starts: what each cost, and would have cost at the cheapest allowed start of its day.

    ``cost`` and ``cheapest`` have one value a run [currency]; ``days`` is the length of the log [d].
    """

    appliance_id: str
    name: str
    cost: tuple[float, ...]
    cheapest: tuple[float, ...]
    days: float


@dataclass(frozen=True, slots=True, kw_only=True)
class NightBase:
    """What the meter draws in every night: floor [W], spread of the nights' floors [W], nights, what the plugs explain [W].

    ``price`` is the mean over a year [currency/kWh]. ``heating_down_w`` and ``heating_up_w`` are how far electric heating
    in it may make it less or more [W]. ``hidden`` says why heating hides the floor, "" where it does not.
    """

    floor_w: float
    night_sd_w: float
    nights: int
    plugs_w: float
    price: float
    heating_down_w: float = 0.0
    heating_up_w: float = 0.0
    hidden: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class PredictedCold:
    """A room predicted under its protection limit: limit and lowest [°C], share of outcomes (ratio)."""

    room_id: str
    room_name: str
    limit_c: float
    lowest_c: float
    share: float


@dataclass(frozen=True, slots=True, kw_only=True)
class HomeEvidence:
    """All that the kinds of lines look at.

    ``fit_problems`` are sentences of fits that are not fit for use, by room id; ``unfitted`` ids of rooms whose log waits for
    a fit; ``logged`` subjects of which anything was heard; ``price_gap`` says which minute of the coming year has no
    price first, "" for none.
    """

    home: Home
    today: date
    findings: tuple[Finding, ...] = ()
    rule_findings: tuple[RuleFinding, ...] = ()
    cold: tuple[PredictedCold, ...] = ()
    climate: ClimateYear | None = None
    rooms: tuple[HeatedRoom, ...] = ()
    idle: tuple[IdleHours, ...] = ()
    resting: tuple[RestingMachine, ...] = ()
    started: tuple[StartedMachine, ...] = ()
    night: NightBase | None = None
    fit_problems: tuple[tuple[str, str], ...] = ()
    unfitted: tuple[str, ...] = ()
    logged: frozenset[str] = frozenset()
    price_gap: str = ""
