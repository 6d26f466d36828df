"""The meter and the tariffs of Ferry House: a made-up year of half-hours, a seasonal tariff, two offers."""

from datetime import date
from decimal import Decimal

import numpy as np

from warmeter.core.home.tariffs import WORKDAYS, DemandCharge, Rate, RateHours, StandingCharge, Tariff, Tax, YearSpan
from warmeter.core.timegrid import LocalClock, from_ms
from warmeter.core.units import MS_PER_MIN

METER_FILE = "ferry-house-meter.csv"
STEP_MIN, DAYS, SEED = 30, 400, 1787
WINTER, SUMMER = YearSpan(from_day="10-01", to_day="03-31"), YearSpan(from_day="04-01", to_day="09-30")
MISSING_HOURS = 5
VAT = (Tax(rate=Decimal("0.06")),)


def ferry_meter_csv(zone: str, end_ms: int) -> str:
    """Return the half-hours of the meter up to an instant [ms UTC]: heaters in the cold, people, what runs at night."""
    rng = np.random.default_rng(SEED)
    clock = LocalClock(zone)
    step_ms = STEP_MIN * MS_PER_MIN
    end_ms -= end_ms % step_ms
    at = np.arange(end_ms - DAYS * 48 * step_ms, end_ms, step_ms, dtype=np.int64)
    days, minutes = clock.local_minutes(at)
    hour = minutes / 60
    day_of_year = days % 365.25
    cold = np.clip(0.52 + 0.62 * np.cos(2 * np.pi * (day_of_year - 18) / 365.25), 0.0, None)
    weather = np.repeat(rng.normal(1.0, 0.18, DAYS + 2), 48)[: at.size].clip(0.4, 1.6)
    is_in = (hour >= 6.5) & (hour < 8.5) | (hour >= 17) & (hour < 22.5)
    heating = cold * weather * np.where(is_in, 1.35, np.where(hour < 6, 0.22, 0.45))
    people = np.where((hour > 6.5) & (hour < 23), rng.gamma(1.3, 0.11, at.size), rng.gamma(1.1, 0.012, at.size))
    oven = (rng.random(at.size) < 0.16) * (hour >= 18) * (hour < 20) * rng.uniform(0.5, 1.1, at.size)
    kwh = (heating + 0.075) * STEP_MIN / 60 + people + oven
    rows = [f"{from_ms(int(t)):%Y-%m-%dT%H:%M:%SZ},{v:.3f}" for t, v in zip(at, kwh, strict=True)]
    hole = 48 * (DAYS - 40)
    return "\n".join(["time,Grid import kWh", *rows[:hole], *rows[hole + 2 * MISSING_HOURS :]]) + "\n"


def _rate(name: str, price: str, span: YearSpan | None, from_min: int, to_min: int, part: str = "energy") -> Rate:
    hours = RateHours(seasons=(span,) if span is not None else (), from_min=from_min, to_min=to_min)
    return Rate(name=name, price_per_unit=Decimal(price), part=part, hours=hours)  # type: ignore[arg-type]


def ferry_tariffs(until: date) -> tuple[Tariff, ...]:
    """Return the tariff in force, which ends on a date, and two offers."""
    seasons = Tariff(
        id="ta-harbour",
        name="Harbour seasons",
        currency="EUR",
        rates=(
            _rate("Winter, dear", "0.2818", WINTER, 960, 1200),
            _rate("Winter, night", "0.1142", WINTER, 0, 360),
            _rate("Winter, day and late", "0.2092", WINTER, 0, 1440),
            _rate("Summer, night", "0.1038", SUMMER, 0, 360),
            _rate("Summer, day", "0.1673", SUMMER, 0, 1440),
            _rate("Dear hours", "0.143", WINTER, 960, 1200, "network"),
            _rate("Night", "0.021", None, 0, 360, "network"),
            _rate("Day and late", "0.046", None, 0, 1440, "network"),
        ),
        standing=(StandingCharge(amount=Decimal("0.4952")),),
        demand=(
            DemandCharge(
                price_per_kw=Decimal("2.10"),
                interval_min=30,
                hours=RateHours(seasons=(WINTER,), days=WORKDAYS, from_min=960, to_min=1200),
            ),
        ),
        taxes=VAT,
        valid_to=until,
    )
    one = Tariff(
        id="ta-one",
        name="One price",
        currency="EUR",
        rates=(Rate(name="All hours", price_per_unit=Decimal("0.2461")),),
        standing=(StandingCharge(amount=Decimal("0.41")),),
        taxes=VAT,
        is_offer=True,
    )
    night = Tariff(
        id="ta-night",
        name="Day and night",
        currency="EUR",
        rates=(_rate("Night", "0.1389", None, 1380, 420), _rate("Day", "0.2874", None, 0, 1440)),
        standing=(StandingCharge(amount=Decimal("0.38")),),
        taxes=VAT,
        is_offer=True,
    )
    return seasons, one, night
