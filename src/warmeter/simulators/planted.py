"""A fault planted into a clean home."""

from dataclasses import dataclass

from warmeter.core.home.document import Home


@dataclass(frozen=True, slots=True)
class Planted:
    """A home with a fault: where it was put, and which other kinds follow from it by their own rules."""

    home: Home
    place: str
    brings: frozenset[str] = frozenset()
