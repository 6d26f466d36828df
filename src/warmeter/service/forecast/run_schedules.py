"""When a machine's typical cycle is cheapest to run."""

from datetime import date, timedelta

from warmeter.core.appliance.machine_record import MachineRecord
from warmeter.core.errors import NotKnowable, OutOfRange, TariffError
from warmeter.core.home.document import Home
from warmeter.core.home.machines import CYCLES_BY_ITSELF
from warmeter.core.tariff.cheapest_start import RunSchedule, cheapest_start, starts_by_cost
from warmeter.core.tariff.prices import minutes_between
from warmeter.core.units import MIN_PER_DAY, MS_PER_MIN
from warmeter.service.app import App
from warmeter.service.tariffs.pricing import prices_for


def run_schedule(app: App, home: Home, record: MachineRecord, on: date) -> RunSchedule:
    """Return what each allowed start of the typical run costs on a day.

    Raises
    ------
    NotKnowable
        If the machine starts by itself, the log shows no whole run, there is no tariff, or the window is too short.
    """
    profile, machine = record.profile_kwh(), record.appliance
    if machine.kind in CYCLES_BY_ITSELF:
        raise NotKnowable(f"{machine.name} starts and stops by itself.", "Only what a person starts is given a start.")
    if profile.size == 0:
        raise NotKnowable("The log shows no whole run.", "Record one from start to end.")
    clock = app.clock(home)
    if home.tariff_on(on) is None:
        raise NotKnowable("There is no tariff.", "Type its rates under Tariff.")
    day, last = clock.day(on), clock.day(on + timedelta(days=1))
    try:
        prices = prices_for(app, home, minutes_between(day.start_ms, last.end_ms))
    except TariffError as error:
        raise NotKnowable(
            f"The day has no whole price: {error}.", "Correct the tariff, or import the market's prices."
        ) from error
    earliest = (clock.instant(on, machine.earliest_min) - day.start_ms) // MS_PER_MIN
    end_date, end_min = (on, machine.latest_end_min)
    if end_min > MIN_PER_DAY:
        end_date, end_min = on + timedelta(days=1), end_min - MIN_PER_DAY
    latest = (clock.instant(end_date, end_min) - day.start_ms) // MS_PER_MIN
    try:
        starts = starts_by_cost(
            prices.by_step,
            profile,
            1,
            earliest_min=earliest,
            latest_end_min=latest,
            start_step_min=machine.start_step_min,
        )
    except OutOfRange as error:
        raise NotKnowable(
            f"A run takes {profile.size} min, which does not fit between its earliest start and latest end.",
            "Widen the window.",
        ) from error
    planned_at = (clock.instant(on, machine.start_min) - day.start_ms) // MS_PER_MIN
    room = prices.by_step.size - profile.size
    planned = starts_by_cost(
        prices.by_step,
        profile,
        1,
        earliest_min=min(planned_at, room),
        latest_end_min=prices.by_step.size,
        start_step_min=prices.by_step.size,
    )[0]
    return RunSchedule(
        starts=tuple(starts),
        cheapest=cheapest_start(starts),
        planned=planned,
        dearest=max(starts, key=lambda s: s.cost),
        profile_kwh=profile,
        midnight_ms=day.start_ms,
    )
