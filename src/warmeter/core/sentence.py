"""Sentences that carry their numbers: what the core says, with each unit chosen where it is shown."""

from collections.abc import Iterable
from dataclasses import dataclass
from string import Formatter
from typing import Any, Self

from warmeter.core.units import (
    FEET_FACTORS,
    FEET_SIGNS,
    METRIC,
    TemperatureUnit,
    Units,
    celsius_to,
    difference_sign,
    feet_and_inches,
    kelvin_to,
    temperature_sign,
)
from warmeter.core.wording import number

# What is not whole in another unit keeps a tenth there: a whole number would name another setting.
_VISIBLE = 0.05
_IN_FEET = ("m", "m²", "m³", "L", "m³/h", "Pa")


@dataclass(frozen=True, slots=True)
class Measure:
    """A number in a sentence.

    Parameters
    ----------
    value : float or None
        In ``unit``; None, not known, is a dash.
    unit : str
        °C, K, K·h, m, m², m³, L, m³/h or Pa; another stands as it is in every home.
    decimals : int or None
        As many as are shown; None for no more than it has.
    until : float or None
        End of a range that begins with ``value``.
    """

    value: float | None
    unit: str
    decimals: int | None = None
    until: float | None = None

    def text(self, units: Units = METRIC) -> str:
        """Return it with its unit, temperatures and lengths in those that are asked for."""
        values = [self.value] if self.until is None else [self.value, self.until]
        if units.length == "ft" and self.unit in _IN_FEET:
            return self._in_feet(values)
        unit = units.temperature
        sign = _sign(self.unit, unit)
        return f"{' to '.join(self._shown(value, unit) for value in values)} {sign}".rstrip()

    def _in_feet(self, values: Iterable[float | None]) -> str:
        if self.unit == "m":
            is_rounded = self.decimals is not None
            return " to ".join(
                number(None) if value is None else feet_and_inches(value, is_rounded=is_rounded) for value in values
            )
        # A fan's pressure is below one in inches of water.
        decimals, factor = 2 if self.unit == "Pa" else self.decimals or 0, FEET_FACTORS[self.unit]
        shown = [number(None if value is None else value / factor, decimals) for value in values]
        return f"{' to '.join(shown)} {FEET_SIGNS[self.unit]}"

    def _shown(self, value: float | None, unit: TemperatureUnit) -> str:
        if value is None:
            return number(None)
        decimals = _decimals_of(value) if self.decimals is None else self.decimals
        if unit == "C" or self.unit not in ("°C", "K", "K·h"):
            return number(value, decimals)
        shown = celsius_to(value, unit) if self.unit == "°C" else kelvin_to(value, unit)
        is_setting = self.until is None and (self.unit == "°C" or (self.unit == "K" and self.decimals is None))
        if is_setting and abs(shown - round(shown)) >= _VISIBLE:
            decimals = max(decimals, 1)
        return number(shown, decimals)


def _sign(stored: str, unit: TemperatureUnit) -> str:
    if stored == "°C":
        return temperature_sign(unit)
    return stored.replace("K", difference_sign(unit)) if stored in ("K", "K·h") else stored


def _decimals_of(value: float) -> int:
    return len(f"{value:g}".partition(".")[2]) if "e" not in f"{value:g}" else 0


def celsius(value: float | None, decimals: int | None = None, until: float | None = None) -> Measure:
    """Return a temperature, or a range of them [°C]."""
    return Measure(value, "°C", decimals, until)


def kelvin(value: float | None, decimals: int | None = None, until: float | None = None) -> Measure:
    """Return a difference of temperatures, or a range of them [K]."""
    return Measure(value, "K", decimals, until)


def kelvin_hours(value: float, decimals: int = 0) -> Measure:
    """Return how far and how long a room is off what was asked [K·h]."""
    return Measure(value, "K·h", decimals)


class Sentence(str):
    """A sentence in °C and K that knows where its numbers stand, so that they can be shown in another unit."""

    __slots__ = ("parts",)
    parts: tuple[str | Measure, ...]

    def __new__(cls, parts: Iterable[str | Measure]) -> Self:
        """Return the sentence of some parts in turn."""
        kept = tuple(parts)
        made = super().__new__(cls, "".join(p if isinstance(p, str) else p.text() for p in kept))
        made.parts = kept
        return made

    def __getnewargs__(self) -> tuple[tuple[str | Measure, ...]]:  # type: ignore[override]  # it is made of parts
        """Return what a copy is made of."""
        return (self.parts,)

    def __add__(self, other: str) -> "Sentence":
        """Return this with more behind it."""
        return Sentence((*self.parts, *parts_of(other)))

    def __radd__(self, other: str) -> "Sentence":
        """Return this with more before it."""
        return Sentence((*parts_of(other), *self.parts))

    def in_unit(self, units: Units) -> str:
        """Return the sentence with its temperatures and lengths in a home's units."""
        return "".join(p if isinstance(p, str) else p.text(units) for p in self.parts)


def parts_of(text: str) -> tuple[str | Measure, ...]:
    """Return the parts of a sentence; a text without numbers of its own is one part."""
    return text.parts if isinstance(text, Sentence) else (text,)


def sentence(pattern: str, *values: Any) -> Sentence:
    """Return a pattern with values in place of its ``{}`` in turn: measures, sentences, or what ``format`` makes of them.

    Raises
    ------
    ValueError
        If the pattern has more places than there are values, or fewer.

    Examples
    --------
    >>> sentence("{} asks for {}.", "Hall", celsius(19.5))
    'Hall asks for 19.5 °C.'
    >>> sentence("{} asks for {}.", "Hall", celsius(19.5)).in_unit(Units("F"))
    'Hall asks for 67.1 °F.'
    """
    parts: list[str | Measure] = []
    rest = list(values)
    for text, name, spec, conversion in Formatter().parse(pattern):
        parts.append(text)
        if name is None:
            continue
        if not rest:
            raise ValueError(f"{pattern!r} has more places than values")
        value = rest.pop(0)
        if isinstance(value, Measure):
            parts.append(value)
        elif isinstance(value, Sentence):
            parts.extend(value.parts)
        else:
            parts.append(format(repr(value) if conversion == "r" else value, spec or ""))
    if rest:
        raise ValueError(f"{pattern!r} has fewer places than values")
    return Sentence(parts)


def joined(between: str, texts: Iterable[str]) -> Sentence:
    """Return texts in turn with something between them."""
    parts: list[str | Measure] = []
    for k, text in enumerate(texts):
        parts.extend(((between,) if k else ()) + parts_of(text))
    return Sentence(parts)


def begun_small(text: str) -> Sentence:
    """Return a sentence to stand behind a colon: its first letter is small."""
    first, *rest = parts_of(text)
    return Sentence((first[:1].lower() + first[1:] if isinstance(first, str) else first, *rest))


def in_unit(text: str, units: Units) -> str:
    """Return a text with the temperatures and lengths that it carries in a home's units."""
    return text.in_unit(units) if isinstance(text, Sentence) else text
