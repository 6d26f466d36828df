"""What is written in a form in a way of its own: places of blocks, stretches of a log, points and steps as pairs."""

from collections.abc import Callable
from datetime import date
from typing import Any

from warmeter.core.edits.cycle_labels import CycleSpan
from warmeter.core.edits.timetable_edits import BlockPlace
from warmeter.core.home.plant import FanStep
from warmeter.core.units import TemperatureUnit, celsius_from


def block_place(typed: str, _: TemperatureUnit = "C") -> BlockPlace:
    """Return the place of a block as handles carry it, ``20260120.3``; ``ValueError`` if it is none."""
    on, _dot, index = typed.partition(".")
    try:
        return BlockPlace(date.fromisoformat(on), int(index))
    except ValueError as error:
        raise ValueError("this form names no period") from error


def cycle_span(typed: str, _: TemperatureUnit = "C") -> CycleSpan:
    """Return a stretch [ms UTC] as forms and addresses carry it; ``ValueError`` if it names none."""
    first, _line, last = typed.partition("_")
    if not (first.isdecimal() and last.isdecimal() and int(first) < int(last) <= 2**53):
        raise ValueError("this form names no run")
    return CycleSpan(int(first), int(last))


def _by_temperature(typed: str, unit: TemperatureUnit, what: str, decimals: int) -> tuple[tuple[float, float], ...]:
    """Return (°C, number) pairs typed with ; between them, temperatures in the unit typed; ``what`` they are for errors."""
    points = []
    for pair in typed.replace("\u2212", "-").split(";"):
        words = pair.split()
        if not words:
            continue
        try:
            at, value = (float(word.replace(",", ".")) for word in words)
        except ValueError as error:
            raise ValueError(f"{pair.strip()!r} is no {what}") from error
        points.append((round(celsius_from(at, unit), decimals), value))
    return tuple(points)


def cop_points(typed: str, unit: TemperatureUnit) -> tuple[tuple[float, float], ...]:
    """Return COP points typed as ``-7 2.4; 2 3.0``, outdoor temperatures in the unit typed; ``ValueError`` else."""
    what = "COP point; write outdoor temperature and COP, pairs parted by ; as -7 2.4; 2 3.0"
    return tuple(sorted(_by_temperature(typed, unit, what, 2)))


def thermistor_points(typed: str, unit: TemperatureUnit) -> tuple[tuple[float, float], ...]:
    """Return points of a thermistor typed as ``0 32650; 25 10000``, temperatures in the unit typed; ``ValueError`` else."""
    what = "point; write temperature and ohms, pairs parted by ; as 0 32650; 25 10000; 50 3603"
    return _by_temperature(typed, unit, what, 3)


def fan_steps(typed: str, _: TemperatureUnit = "C") -> tuple[FanStep, ...]:
    """Return fan steps typed as ``low 0.4; high 1``; ``ValueError`` if one is not a word and a share."""
    steps = []
    for pair in typed.split(";"):
        word, _space, share = pair.strip().rpartition(" ")
        if not pair.strip():
            continue
        try:
            steps.append(FanStep(word=word.strip(), share=float(share.replace(",", "."))))
        except ValueError as error:
            raise ValueError(
                f"{pair.strip()!r} is no fan step; write its word and its share, as low 0.4; high 1"
            ) from error
        if not word.strip() or not 0 < steps[-1].share <= 1:
            raise ValueError(f"the fan step {pair.strip()!r} needs a word and a share above 0 and at most 1")
    return tuple(steps)


def _words(typed: str, _: TemperatureUnit) -> tuple[str, ...]:
    return tuple(typed.replace(",", " ").split())


# By type, or by name for a field that is a list.
TYPED: dict[object, Callable[[str, TemperatureUnit], Any]] = {
    BlockPlace: block_place,
    CycleSpan: cycle_span,
    "cop_points": cop_points,
    "thermistor_points": thermistor_points,
    "fan_steps": fan_steps,
    "quantities": _words,
}
