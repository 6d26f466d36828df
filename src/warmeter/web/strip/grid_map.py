"""A map of settings: cells hatched where they err, blank where they are good, marks, numerals."""

from dataclasses import dataclass

LEFT, BOTTOM, TOP = 40, 22, 4


@dataclass(frozen=True, slots=True)
class Area:
    """A rectangle of the map [px] with how it is hatched and what it means."""

    x: str
    y: str
    width: str
    height: str
    css: str
    title: str = ""


@dataclass(frozen=True, slots=True)
class MapWord:
    """A numeral beside the map."""

    x: str
    y: str
    css: str
    text: str
