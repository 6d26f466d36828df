"""A figure: a number that Warmeter worked out, with everything needed to show how."""

from dataclasses import dataclass
from typing import Literal

Origin = Literal["measured", "surveyed", "typed", "assumed", "forecast", "worked out"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Input:
    """One number that went into a figure.

    Parameters
    ----------
    symbol, name, unit : str
        As in the formula, in words, and its unit.
    value : float
        In ``unit``.
    decimals : int
        Decimals on a screen.
    origin : str
        Where it came from.
    """

    symbol: str
    name: str
    value: float
    unit: str
    decimals: int
    origin: Origin


@dataclass(frozen=True, slots=True, kw_only=True)
class Sensitivity:
    """What one changed assumption would do to a figure (``change`` in the figure's unit)."""

    assumption: str
    change: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Figure:
    """A worked-out number.

    Parameters
    ----------
    key, title, unit : str
        Name in addresses, on the screen, and the unit.
    value : float or None
        The number; None where it is out of reach or not known, and ``note`` says why.
    low, high : float or None
        Ends of its 95 % range, where one was worked out.
    decimals : int
        Decimals on a screen.
    formula, substituted : str
        The formula with symbols and with the numbers put in.
    inputs : tuple of Input
        What went in.
    method : str
        Label and name of the method in docs/methods.
    alternatives : tuple of Figure
        Other ways to the same number, such as the hand calculation beside a simulation.
    note : str
        Why it differs from those beside it, or what bounds it.
    sensitivities : tuple of Sensitivity
        What would change it most, largest first.
    """

    key: str
    title: str
    unit: str
    value: float | None
    decimals: int
    formula: str
    substituted: str
    method: str
    inputs: tuple[Input, ...] = ()
    low: float | None = None
    high: float | None = None
    alternatives: tuple["Figure", ...] = ()
    note: str = ""
    sensitivities: tuple[Sensitivity, ...] = ()
