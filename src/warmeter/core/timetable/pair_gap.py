"""Heating and cooling limits keep apart (O4)."""

from dataclasses import dataclass
from math import ceil, floor
from typing import Literal

_SLACK = 1e-9


@dataclass(frozen=True, slots=True, kw_only=True)
class PairRule:
    """Gap and step [K], and the range that each side may have [°C]."""

    gap_k: float
    step_k: float
    heat_range_c: tuple[float, float]
    cool_range_c: tuple[float, float]


@dataclass(frozen=True, slots=True)
class HeatCoolPair:
    """A heating setpoint and a cooling limit [°C]; one of them may be missing."""

    heat_c: float | None
    cool_c: float | None


def _up(value: float, step: float) -> float:
    return ceil(value / step - _SLACK) * step


def _down(value: float, step: float) -> float:
    return floor(value / step + _SLACK) * step


def _clip(value: float, ends: tuple[float, float]) -> float:
    return min(max(value, ends[0]), ends[1])


def keep_apart(pair: HeatCoolPair, rule: PairRule, moved: Literal["heat", "cool"] | None) -> HeatCoolPair | None:
    """Return the pair moved apart; None where no pair is possible, and the one in force stays.

    The side just moved stays and the other gives way, rounded to the grid away from it, within its range.

    References
    ----------
    docs/methods O4.
    """
    heat = None if pair.heat_c is None else _clip(pair.heat_c, rule.heat_range_c)
    cool = None if pair.cool_c is None else _clip(pair.cool_c, rule.cool_range_c)
    if heat is None or cool is None or cool - heat >= rule.gap_k - _SLACK:
        return HeatCoolPair(heat, cool)
    step, gap = rule.step_k, rule.gap_k
    heat_low, cool_high = rule.heat_range_c[0], rule.cool_range_c[1]
    if _up(heat_low + gap, step) > cool_high + _SLACK:
        return None
    if moved == "heat":
        cool = _up(heat + gap, step)
    elif moved == "cool":
        heat = _down(cool - gap, step)
    else:
        middle = (heat + cool) / 2
        heat, cool = _down(middle - gap / 2, step), _up(middle + gap / 2, step)
    if heat < heat_low - _SLACK:
        heat, cool = heat_low, _up(heat_low + gap, step)
    elif cool > cool_high + _SLACK:
        cool, heat = cool_high, _down(cool_high - gap, step)
    return HeatCoolPair(heat, cool)


def saves(pair: HeatCoolPair, in_use: HeatCoolPair) -> tuple[bool | None, bool | None]:
    """Return whether a level is wider than In use in heating and in cooling; None without both numbers (O4)."""
    heat = None if pair.heat_c is None or in_use.heat_c is None else pair.heat_c < in_use.heat_c - _SLACK
    cool = None if pair.cool_c is None or in_use.cool_c is None else pair.cool_c > in_use.cool_c + _SLACK
    return heat, cool
