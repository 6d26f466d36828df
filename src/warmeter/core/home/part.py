"""What all parts of a home's document have in common."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from functools import lru_cache
from typing import Annotated, ClassVar, Protocol

from annotated_types import Ge, Le, Len


@dataclass(frozen=True, slots=True)
class Unit:
    """Annotates a number with its unit: a typed temperature (°C) or difference (K) may be in the home's own."""

    sign: str


Name = Annotated[str, Len(1, 80)]
Word = Annotated[str, Len(0, 80)]
Text = Annotated[str, Len(0, 400)]
Id = Annotated[str, Len(1, 24)]
SetpointC = Annotated[float, Ge(-30), Le(60), Unit("°C")]
TimeOfDay = Annotated[int, Ge(0), Le(1440), Unit("time of day")]
InstantMs = Annotated[int, Ge(0), Le(2**53)]


@lru_cache(maxsize=20_000)
def is_usable_id(key: str) -> bool:
    """Return whether an id can stand in an address: no ``/ ? # % \\``, no space at an end, nothing that is not printed."""
    return key.isprintable() and key == key.strip() and key not in (".", "..") and not set(key) & set("/?#%\\")


class HasId(Protocol):
    """A part that others name by its id."""

    @property
    def id(self) -> str:
        """Short, random, never reused."""
        ...


class Named(HasId, Protocol):
    """A part with a name for people."""

    @property
    def name(self) -> str:
        """Its label; need not be unique."""
        ...


def part_names(*groups: Iterable[Named]) -> dict[str, str]:
    """Return the names of parts by their ids."""
    return {part.id: part.name for group in groups for part in group}


class Document:
    """Base of every part of a home: unknown fields are refused, numbers are not taken from text."""

    __slots__ = ()
    __pydantic_config__: ClassVar[dict[str, object]] = {"extra": "forbid"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Spot(Document):
    """A place in a room [m]: from the upper left corner of the room's drawing, and over its floor."""

    x_m: Annotated[float, Ge(-100), Le(100)]
    y_m: Annotated[float, Ge(-100), Le(100)]
    z_m: Annotated[float, Ge(0), Le(20)] = 1.2


@dataclass(frozen=True, slots=True, kw_only=True)
class Note(Document):
    """A note on any part of a home, with its reason and date."""

    id: Id
    about_id: Id
    text: Annotated[str, Len(1, 400)]
    reason: Text = ""
    on: date | None = None
