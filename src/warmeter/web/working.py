"""The working of a figure as ready strings."""

from dataclasses import dataclass

from warmeter.core.figure import Figure
from warmeter.core.home.document import Home
from warmeter.core.units import kelvin_to
from warmeter.web import format as show

_MARKS = {"measured": "m", "surveyed": "s", "typed": "t", "assumed": "a", "forecast": "a", "worked out": "w"}


@dataclass(frozen=True, slots=True)
class InputRow:
    """One number that went in."""

    symbol: str
    name: str
    value: str
    unit: str
    origin: str
    mark: str


@dataclass(frozen=True, slots=True)
class WorkingView:
    """A figure opened."""

    title: str
    value: str
    unit: str
    about: str
    formula: str
    substituted: str
    method: str
    inputs: list[InputRow]
    alternatives: list["WorkingView"]
    note: str
    sensitivities: list[tuple[str, str, str]]


@dataclass(frozen=True, slots=True, kw_only=True)
class WorkingPart:
    """A working beside the page."""

    working: WorkingView


def _shown(value: float | None, unit: str, decimals: int, home: Home) -> tuple[str, str]:
    """Return a value and unit, temperatures in the home's own."""
    if unit == "°C":
        return show.temperature(value, home, decimals), show.temperature_unit(home)
    if unit == "K":
        return show.difference(value, home, decimals), show.difference_unit(home)
    if unit == home.currency:
        return show.money(value, home.currency, decimals), ""
    if unit.startswith(f"{home.currency} "):
        return show.money(value, home.currency, decimals), unit[4:]
    return show.number(value, decimals), unit


def _changed(change: float, figure: Figure, home: Home) -> str:
    """Return by how much an assumption moves a figure."""
    if figure.unit.startswith(home.currency):
        return show.money(change, home.currency, 2, is_signed=True)
    shown = kelvin_to(change, home.temperature_unit) if figure.unit == "°C" else change
    return show.number(shown, figure.decimals, is_signed=True)


def working_view(figure: Figure, home: Home) -> WorkingView:
    """Return a figure's working for a home."""
    value, unit = _shown(figure.value, figure.unit, figure.decimals, home)
    about = ""
    if figure.low is not None or figure.high is not None:
        low, _ = _shown(figure.low, figure.unit, figure.decimals, home)
        high = None if figure.high is None else _shown(figure.high, figure.unit, figure.decimals, home)[0]
        about = f"about {show.lead_span(low, high)}"
    inputs = []
    for g in figure.inputs:
        text, its_unit = _shown(g.value, g.unit, g.decimals, home)
        inputs.append(InputRow(g.symbol, g.name, text, its_unit, g.origin, _MARKS[g.origin]))
    sensitivities = [
        (s.assumption, _changed(s.change, figure, home), show.difference_unit(home) if figure.unit == "°C" else unit)
        for s in figure.sensitivities
    ]
    return WorkingView(
        title=figure.title,
        value="not reached in time" if figure.value is None and figure.key.startswith("lead") else value,
        unit=unit,
        about=about,
        formula=figure.formula,
        substituted=figure.substituted,
        method=figure.method,
        inputs=inputs,
        alternatives=[working_view(each, home) for each in figure.alternatives],
        note=figure.note,
        sensitivities=sensitivities,
    )
