"""Acts on sources and heaters."""

from dataclasses import replace

from warmeter.core.building.fuel import FUELS
from warmeter.core.edits import floor_plan_edits
from warmeter.core.edits.ids import new_id
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.plant import FanStep, Source, SplitUnit
from warmeter.core.units import celsius_from
from warmeter.web.forms import Fields
from warmeter.web.survey.acting import (
    Act,
    Done,
    Reader,
    celsius,
    choice,
    done_or_refuse,
    maybe,
    money,
    number,
    one_of,
    text,
    typed_values,
    whole,
)
from warmeter.web.survey.plan_acts import item_add, part_remove

SOURCE_WORD = {"direct": "direct electric", "heat_pump": "heat pump", "boiler": "boiler"}
SOURCE: dict[str, Reader] = {
    "name": text(80, 1),
    "flow_c": maybe(celsius(20, 95)),
    "spread_k": number(1, 30),
    "most_w": maybe(number(1, 1_000_000)),
    "least_w": maybe(number(0, 1_000_000)),
    "hysteresis_k": number(0.1, 30),
    "efficiency": number(0.1, 1.2),
    "fuel": choice(tuple(FUELS)),
    "fuel_kwh": maybe(number(0.1, 100)),
    "fuel_price": maybe(money(1000)),
}
HEATER: dict[str, Reader] = {
    "name": text(80, 1),
    "rated_heat_w": number(1, 100_000),
    "exponent": number(1, 2),
    "rated_excess_k": number(10, 80),
    "band_k": number(0.1, 5),
    "step_k": number(0.1, 2),
    "step_min": whole(1, 60),
    "min_on_min": whole(0, 120),
    "min_off_min": whole(0, 120),
    "free_floor_m2": maybe(number(0.1, 2000)),
    "surface_limit_c": maybe(celsius(20, 40)),
    "clearance_m": number(0, 5),
    "length_m": number(0.1, 20),
    "source_id": one_of(lambda home: {s.id for s in home.sources}),
}
SPLIT: dict[str, Reader] = {
    "cop": number(0.6, 15),
    "heat_slope_1_k": number(0, 0.1),
    "cop_slope_1_k": number(0, 0.1),
    "cooling_w": maybe(number(1, 100_000)),
    "eer": number(0.6, 15),
    "cooling_slope_1_k": number(-0.1, 0),
    "eer_slope_1_k": number(-0.1, 0),
    "degradation": number(0, 0.5),
}


def source_add(home: Home, fields: Fields) -> Done:
    """Add a source of a kind."""
    kind = fields.choice("kind", SOURCE_WORD)
    done_or_refuse(fields)
    points = ((-7.0, 2.4), (2.0, 3.0), (7.0, 3.6)) if kind == "heat_pump" else ()
    source = Source(
        id=new_id(),
        name=SOURCE_WORD[kind].capitalize(),
        kind=kind,  # type: ignore[arg-type]
        cop_points=points,
        flow_c=None if kind == "direct" else 45.0 if kind == "heat_pump" else 65.0,
        spread_k=5.0 if kind == "heat_pump" else 10.0,
    )
    return Done(replace(home, sources=(*home.sources, source)), f"{source.name} added", source.id)


def source_set(home: Home, fields: Fields) -> Done:
    """Type a source's figures; COP points as "outdoor COP" pairs."""
    source = home.source(fields.text("id", least=1))
    values = typed_values(home, fields, SOURCE)
    if "litres" in fields.texts:
        litres = fields.number("litres", 1, 5000, "L") if fields.texts["litres"].strip() else None
        values["water_j_k"] = None if litres is None else litres * 4186.0
    if "cop_points" in fields.texts:
        values["cop_points"] = tuple(
            (round(celsius_from(outdoor, home.temperature_unit), 2), cop)
            for outdoor, cop in cop_points(fields.texts["cop_points"])
        )
    done_or_refuse(fields)
    changed = replace(source, **values)
    return Done(
        replace(home, sources=floor_plan_edits.swapped(home.sources, changed)), f"{changed.name} changed", source.id
    )


def cop_points(typed: str) -> tuple[tuple[float, float], ...]:
    """Return COP points typed as ``-7 2.4; 2 3.0``, outdoor temperatures in the unit typed.

    Raises
    ------
    HomeError
        If a pair is not two numbers.
    """
    points = []
    for pair in typed.replace("\u2212", "-").split(";"):
        words = pair.split()
        if not words:
            continue
        try:
            outdoor, cop = (float(word.replace(",", ".")) for word in words)
        except ValueError as error:
            raise HomeError(
                f"{pair.strip()!r} is no COP point; write outdoor temperature and COP, pairs parted by ; as -7 2.4; 2 3.0"
            ) from error
        points.append((outdoor, cop))
    return tuple(sorted(points))


def source_remove(home: Home, fields: Fields) -> Done:
    """Remove a source that nothing hangs on."""
    source = home.source(fields.text("id", least=1))
    if any(h.source_id == source.id for h in home.heaters):
        raise HomeError(f"heaters hang on {source.name}; give them another source first")
    return Done(
        replace(home, sources=tuple(s for s in home.sources if s.id != source.id)), f"{source.name} removed", ""
    )


def heater_set(home: Home, fields: Fields) -> Done:
    """Type a heater's figures."""
    heater = home.heater(fields.text("id", least=1))
    values = typed_values(home, fields, HEATER)
    if heater.split is not None:
        plate = typed_values(home, fields, SPLIT)
        if "fan_steps" in fields.texts:
            plate["fan_steps"] = fan_steps(fields.texts["fan_steps"])
        values["split"] = replace(heater.split, **plate)
    changed = replace(heater, **values)
    return Done(
        replace(home, heaters=floor_plan_edits.swapped(home.heaters, changed)), f"{changed.name} changed", heater.id
    )


def fan_steps(typed: str) -> tuple[FanStep, ...]:
    """Return fan steps typed as ``low 0.4; high 1``.

    Raises
    ------
    HomeError
        If a step is not a word and a share.
    """
    steps = []
    for pair in typed.split(";"):
        word, _, share = pair.strip().rpartition(" ")
        if not pair.strip():
            continue
        try:
            steps.append(FanStep(word=word.strip(), share=float(share.replace(",", "."))))
        except ValueError as error:
            raise HomeError(
                f"{pair.strip()!r} is no fan step; write its word and its share, as low 0.4; high 1"
            ) from error
        if not word.strip() or not 0 < steps[-1].share <= 1:
            raise HomeError(f"the fan step {pair.strip()!r} needs a word and a share above 0 and at most 1")
    return tuple(steps)


def heater_kind(home: Home, fields: Fields) -> Done:
    """Change what kind a heater is; its plate stays where it still means something."""
    heater = home.heater(fields.text("id", least=1))
    kind = fields.choice("kind", floor_plan_edits.HEATER_W)
    done_or_refuse(fields)
    split = heater.split or SplitUnit() if kind == "split_unit" else None
    changed = replace(heater, kind=kind, split=split)
    return Done(
        replace(home, heaters=floor_plan_edits.swapped(home.heaters, changed)), f"{changed.name} changed", heater.id
    )


ACTS: dict[str, Act] = {
    "source-add": source_add,
    "source-set": source_set,
    "source-remove": source_remove,
    "heater-set": heater_set,
    "heater-kind": heater_kind,
    "heater-add": item_add,
    "heater-remove": part_remove,
}
