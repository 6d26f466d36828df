"""Money in machines: what they draw at rest, and runs at hours that cost more than others of the same day."""

from collections.abc import Iterator
from math import sqrt

import numpy as np

from warmeter.core.figure import Figure, Input
from warmeter.core.matters.evidence import HomeEvidence, NightBase, RestingMachine, StartedMachine
from warmeter.core.matters.line import LEAST_MONEY, MatterLine, MeasureOffer, MoneyDoubt, YearlyMoney
from warmeter.core.saving.simple import HOURS_A_YEAR

TWO_SIDED = 1.96  # of a normal: 95 %
FEWEST_RUNS, WEEK_DAYS = 3, 7
DEARER = 0.05  # a run that costs less over the cheapest than this share stood well
LEAST_FLOOR_W = 5.0
# Of what nobody has named that runs all night, so much may be cut: nothing to three fifths, a quarter as best.
SAVABLE, SAVABLE_LOW, SAVABLE_HIGH = 0.25, 0.0, 0.6
# A walk through the circuits with the meter in view leaves a third of that doubt.
WALK_FACTOR, WALK_MIN = 0.33, 20
LOG_MIN = 5
LEAST_ROSE_W = 0.3
# A plug that cuts draws 0.3 to 1 W itself, half a watt as best (docs/methods Q12); a year rests unlike its log by so much.
PLUG_LESS_W, PLUG_MORE_W, YEAR_DOUBT = 0.2, 0.5, 0.1
MEDIAN_SPREAD = 1.2533  # standard error of a middle over that of a mean, √(π/2)


def machine_lines(evidence: HomeEvidence) -> Iterator[MatterLine]:
    """Yield the lines on machines and on what the meter shows all night."""
    currency = evidence.home.currency
    for machine in evidence.resting:
        if machine.saved_money >= LEAST_MONEY:
            yield _standby(machine, currency)
    for started in evidence.started:
        yield from _run_hours(started, currency)
    if evidence.night is not None:
        yield from _night(evidence.night, currency)


def machine_offers(evidence: HomeEvidence) -> Iterator[MeasureOffer]:
    """Yield what can be measured of machines: longer logs, the night, and who draws it."""
    for machine in evidence.resting:
        if machine.saved_money >= LEAST_MONEY:
            yield _week_more(machine.name, machine.appliance_id, f"rest:{machine.appliance_id}", machine.days)
    for started in evidence.started:
        yield _week_more(started.name, started.appliance_id, f"runs:{started.appliance_id}", started.days)
    night = evidence.night
    if night is not None and night.nights and not night.hidden:
        yield MeasureOffer(
            key="walk-circuits",
            title="Switch the circuits off one by one at night",
            how="ten minutes at the meter, writing what each takes with it; leave medical things and what keeps food on",
            causes=("savable",),
            factor=WALK_FACTOR,
            minutes=WALK_MIN,
            step="signatures",
        )
        yield MeasureOffer(
            key="log-meter",
            title="Log the meter for a week more",
            how="its interval data, at a quarter of an hour or finer",
            causes=("floor",),
            factor=sqrt(night.nights / (night.nights + WEEK_DAYS)),
            minutes=LOG_MIN,
            days=WEEK_DAYS,
            step="import_log",
        )


def _week_more(name: str, appliance_id: str, cause: str, days: float) -> MeasureOffer:
    return MeasureOffer(
        key=f"log:{cause}",
        title=f"Log {name} for a week more",
        how="leave its plug logging, then import the file",
        causes=(cause,),
        factor=sqrt(days / (days + WEEK_DAYS)),
        minutes=LOG_MIN,
        days=WEEK_DAYS,
        step="import_log",
        part_id=appliance_id,
    )


def _standby(machine: RestingMachine, currency: str) -> MatterLine:
    # Days are the sample: within one, readings of rest hang together.
    half_w = TWO_SIDED * machine.daily_sd_w / sqrt(max(machine.days, 1.0))
    half = machine.money_year * half_w / machine.rest_w
    half_year = machine.money_year * max(0.0, 1 - machine.days / 365)
    per_w = machine.money_year / machine.rest_w
    money = YearlyMoney(
        value=machine.saved_money,
        doubts=(
            MoneyDoubt(cause=f"rest:{machine.appliance_id}", down=half, up=half),
            MoneyDoubt(cause="plug", down=PLUG_MORE_W * per_w, up=PLUG_LESS_W * per_w),
            MoneyDoubt(cause=f"year:{machine.appliance_id}", down=YEAR_DOUBT * half_year, up=YEAR_DOUBT * half_year),
        ),
    )
    rose = (
        f" It rose by {machine.rose_w:.1f} W within the log: something stays lit."
        if machine.rose_w >= LEAST_ROSE_W
        else ""
    )
    return MatterLine(
        key=f"standby:{machine.appliance_id}",
        kind="money",
        sentence=f"{machine.name} draws {machine.rest_w:.1f} W doing nothing",
        why=f"{machine.kwh_year:.0f} kWh a year at rest; a plug that cuts it draws {machine.plug_own_w:.1f} W itself.{rose}",
        minutes=10,
        step="signatures",
        part_id=machine.appliance_id,
        money=money,
        figure=Figure(
            key=f"standby:{machine.appliance_id}",
            title=f"{machine.name}, cut at rest",
            unit=f"{currency} a year",
            value=money.value,
            low=money.low,
            high=money.high,
            decimals=1,
            formula="(W at rest · 8760 h · share at rest − W of the plug · 8760 h)/1000 · price",
            substituted=f"{machine.kwh_year:.0f} kWh a year at rest cost {machine.money_year:.2f}; "
            f"less what the plug draws, {money.value:.2f}",
            method="K1 simple saving",
            inputs=(
                Input(symbol="W", name="at rest", value=machine.rest_w, unit="W", decimals=2, origin="measured"),
                Input(symbol="n", name="days logged", value=machine.days, unit="d", decimals=0, origin="measured"),
                Input(
                    symbol="s",
                    name="spread from day to day",
                    value=machine.daily_sd_w,
                    unit="W",
                    decimals=2,
                    origin="measured",
                ),
            ),
            note="The range holds 1.96 · s/√n of the rest, a plug of 0.3 to 1 W, and a tenth for what of the year no log shows.",
        ),
    )


def _run_hours(machine: StartedMachine, currency: str) -> Iterator[MatterLine]:
    cost, cheapest = np.array(machine.cost), np.array(machine.cheapest)
    if cost.size < FEWEST_RUNS:
        return
    over = np.where(cost - cheapest > DEARER * cost, cost - cheapest, 0.0)
    times_a_year = 365 / machine.days
    value, late = float(over.sum()) * times_a_year, int((over > 0).sum())
    # Runs come by chance, each with its own saving: the variance of their sum is the sum of the squares.
    half = TWO_SIDED * times_a_year * float(np.sqrt((over**2).sum()))
    if value < LEAST_MONEY:
        return
    money = YearlyMoney(
        value=value, doubts=(MoneyDoubt(cause=f"runs:{machine.appliance_id}", down=min(half, value), up=half),)
    )
    yield MatterLine(
        key=f"hour:{machine.appliance_id}",
        kind="money",
        sentence=f"{late} of {cost.size} runs of {machine.name} could have waited for a cheaper hour",
        why=f"{cost.mean():.2f} a run as started, {cheapest.mean():.2f} at the cheapest start that its times allow.",
        minutes=10,
        step="tariff",
        part_id=machine.appliance_id,
        money=money,
        figure=Figure(
            key=f"hour:{machine.appliance_id}",
            title=f"{machine.name} at its cheapest start",
            unit=f"{currency} a year",
            value=value,
            low=money.low,
            high=money.high,
            decimals=0,
            formula="365/days · Σ runs (cost as started − cost at the cheapest allowed start of that day)",
            substituted=f"365/{machine.days:.1f} · {float(over.sum()):.2f} = {value:.1f}",
            method="I8 cheapest start, run by run",
            inputs=(
                Input(symbol="n", name="runs logged", value=float(cost.size), unit="", decimals=0, origin="measured"),
                Input(symbol="d", name="days logged", value=machine.days, unit="d", decimals=1, origin="measured"),
            ),
            note="As if every run had waited. The range is 1.96 times the root of the summed squares: how many runs a log "
            "of this length holds is chance.",
        ),
    )


def _night(night: NightBase, currency: str) -> Iterator[MatterLine]:
    if night.hidden:
        yield MatterLine(
            key="night",
            kind="unknown",
            sentence="What runs all night cannot be told from heating",
            why=f"Meter {night.floor_w:.0f} W over {night.nights} nights. {night.hidden}",
            minutes=LOG_MIN,
            step="import_log",
        )
        return
    unexplained_w = night.floor_w - night.plugs_w
    per_w = SAVABLE * float(HOURS_A_YEAR) / 1000 * night.price
    year = unexplained_w * float(HOURS_A_YEAR) / 1000 * night.price
    if unexplained_w < LEAST_FLOOR_W or SAVABLE * year < LEAST_MONEY:
        return
    half_w = TWO_SIDED * MEDIAN_SPREAD * night.night_sd_w / sqrt(max(night.nights, 1))
    half = SAVABLE * year * half_w / unexplained_w
    money = YearlyMoney(
        value=SAVABLE * year,
        doubts=(
            MoneyDoubt(cause="savable", down=(SAVABLE - SAVABLE_LOW) * year, up=(SAVABLE_HIGH - SAVABLE) * year),
            MoneyDoubt(cause="floor", down=half, up=half),
            MoneyDoubt(cause="night heating", down=night.heating_down_w * per_w, up=night.heating_up_w * per_w),
        ),
    )
    yield MatterLine(
        key="night",
        kind="unknown",
        sentence=f"{unexplained_w:.0f} W run all night and no appliance owns them",
        why=f"Meter {night.floor_w:.0f} W over {night.nights} nights, known appliances {night.plugs_w:.0f} W: "
        f"{unexplained_w * float(HOURS_A_YEAR) / 1000:.0f} kWh a year.",
        minutes=WALK_MIN,
        step="signatures",
        money=money,
        figure=Figure(
            key="night",
            title="What of the night could be cut",
            unit=f"{currency} a year",
            value=money.value,
            low=money.low,
            high=money.high,
            decimals=0,
            formula="share · (floor − known at rest) · 8760 h/1000 · price",
            substituted=f"{SAVABLE:g} · ({night.floor_w:.0f} − {night.plugs_w:.0f}) W · 8760 h/1000 · {night.price:.3f} "
            f"= {money.value:.1f}",
            method="Q9 night floor",
            inputs=(
                Input(symbol="W", name="night floor", value=night.floor_w, unit="W", decimals=0, origin="measured"),
                Input(
                    symbol="W", name="appliances at rest", value=night.plugs_w, unit="W", decimals=0, origin="measured"
                ),
                Input(symbol="k", name="share that may be cut", value=SAVABLE, unit="", decimals=2, origin="assumed"),
            ),
            note="How much of it can go nobody knows before it has a name: nothing to three fifths is reckoned with.",
        ),
    )
