"""A tub or tank on its machine's page, ready strings."""

from dataclasses import dataclass
from typing import Annotated

from annotated_types import Ge, Le
from fastapi import Request

from warmeter.core.errors import NotKnowable
from warmeter.core.home.document import Home
from warmeter.core.home.machines import Appliance
from warmeter.core.home.part import Unit
from warmeter.core.sentence import celsius, sentence
from warmeter.service.app import App
from warmeter.service.signatures.warm_water import WaterRecord, water_record
from warmeter.web import format as show
from warmeter.web.form_reader import read_query
from warmeter.web.signatures.words import wait

KINDS = ("tub", "water_heater")
TYPED = ("water_now", "water_target", "water_around")
HOTTEST_TUB_C, HYGIENE_C = 40.0, 60.0


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterView:
    """The section; ``why`` where nothing can be said."""

    lines: list[str]
    now: str
    target: str
    around: str
    unit: str
    caution: str
    warning: str
    why: str


@dataclass(frozen=True, slots=True)
class _TypedWater:
    """The water as it is, as it shall be, and what is around it."""

    water_now: Annotated[float, Ge(-40), Le(100), Unit("°C")] | None = None
    water_target: Annotated[float, Ge(-40), Le(100), Unit("°C")] | None = None
    water_around: Annotated[float, Ge(-40), Le(100), Unit("°C")] | None = None


def water_view(request: Request, app: App, home: Home, machine: Appliance) -> WaterView | None:
    """Return a tub's or tank's section, None for other machines."""
    if machine.kind not in KINDS:
        return None
    unit = show.temperature_unit(home)
    water = read_query(_TypedWater, dict(request.query_params.items()), home.units)
    typed = [getattr(water, name) for name in TYPED]
    cautions = (
        sentence(
            "Hot water scalds: at {} within seconds, at {} within minutes, children and old people sooner. ",
            celsius(60),
            celsius(50),
        )
        + (
            sentence(
                "A tub stays at {} or less, lower for children, in pregnancy and with heart disease. What keeps its water safe is the filter's hours and the sanitiser by its maker's table: never let a price or a timetable cut them. ",
                celsius(40),
            )
            if machine.kind == "tub"
            else sentence(
                "Water kept at {} breeds legionella: never let a price or a timetable cancel the hygiene heat-up. ",
                celsius(20, until=45),
            )
        )
        + "About water every circuit has its earth-fault protection, tested on the dates that local rules ask; relief valves and "
        "bonding belong to licensed people."
    )
    try:
        found = water_record(app, home, machine, (typed[0], typed[1], typed[2]))
    except NotKnowable as error:
        return WaterView(
            lines=[], now="", target="", around="", unit=unit, caution=cautions, warning="", why=str(error)
        )
    asked = found.asked
    return WaterView(
        lines=_lines(home, found),
        now=show.temperature(asked.now_c, home),
        target=show.temperature(asked.target_c, home),
        around=show.temperature(asked.ambient_c, home),
        unit=unit,
        caution=cautions,
        warning=_warning(machine, asked.target_c),
        why="",
    )


def _lines(home: Home, found: WaterRecord) -> list[str]:
    fit, asked, unit = found.fit, found.asked, show.temperature_unit(home)
    rate = show.difference(fit.rate_k_h(asked.target_c, asked.ambient_c), home, 2)
    ready = (
        "it never gets there: its heater gives less than it loses"
        if found.heat_up_s is None
        else f"it is ready after {wait(found.heat_up_s)}"
    )
    pump = (
        f", circulates {show.number(100 * fit.hours_circulating / fit.hours)} % at {show.number(fit.circulating_w)} W"
        if fit.circulating_w
        else ""
    )
    around = "" if found.has_ambient_log else " (the year's mean: no log of outdoors)"
    return [
        f"Of {show.number(fit.hours)} h it heats {show.number(100 * fit.hours_heating / fit.hours)} % at "
        f"{show.number(fit.heating_w)} W{pump}, and else draws {show.number(fit.standby_w, 1)} W.",
        f"It stores the heat of {show.volume(fit.store.volume_l, home)} of water ({show.volume(fit.litres_low, home)} to "
        f"{show.volume(fit.litres_high, home)}) and loses {show.number(fit.store.loss_w_k, 1)} W/K "
        f"({show.number(fit.loss_low_w_k, 1)} to {show.number(fit.loss_high_w_k, 1)}).",
        f"Standing at {show.temperature(asked.target_c, home)} {unit} in {show.temperature(asked.ambient_c, home)} {unit}{around} it "
        f"loses {show.number(found.standing_w)} W, {show.number(float(found.standing_kwh_day), 1)} kWh a day.",
        f"From {show.temperature(asked.now_c, home)} to {show.temperature(asked.target_c, home)} {unit} {ready}; near the end it warms by "
        f"{rate} {show.difference_unit(home)} an hour.",
    ]


def _warning(machine: Appliance, target_c: float) -> str:
    """Return what is wrong with a temperature, "" if nothing is."""
    if machine.kind == "tub" and target_c > HOTTEST_TUB_C:
        return sentence("{} is too hot for a tub: {} is the most.", celsius(target_c, 0), celsius(40))
    if machine.kind == "water_heater" and target_c < HYGIENE_C:
        return sentence(
            "A store at {} needs a regular heat-up to {} against legionella.", celsius(target_c, 0), celsius(60)
        )
    return ""
