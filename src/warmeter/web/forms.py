"""Typed forms: every wrong field gets its own sentence, and nothing typed is lost."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal, InvalidOperation
from typing import TypeVar

from fastapi import Request

from warmeter.web.format import MINUS, parse_clock, parse_number

Word = TypeVar("Word", bound=str)


async def form_fields(request: Request) -> "Fields":
    """Return the text fields of a posted form (a dependency of routes)."""
    form = await request.form(max_fields=400)
    return Fields({name: value for name, value in form.items() if isinstance(value, str)})


@dataclass(slots=True)
class Fields:
    """A form's texts, with the errors found while reading them."""

    texts: Mapping[str, str]
    errors: dict[str, str] = field(default_factory=dict)

    def text(self, name: str, *, least: int = 0, most: int = 80, what: str = "This") -> str:
        """Return a text within a length."""
        value = self.texts.get(name, "").strip()
        if not least <= len(value) <= most:
            self.errors[name] = (
                f"{what} must have {least} to {most} letters" if value or not least else f"{what} is missing"
            )
        return value

    def number(self, name: str, low: float, high: float, unit: str = "", default: float | None = None) -> float:
        """Return a number within a range; decimal comma and point are understood."""
        raw = self.texts.get(name, "").strip()
        if not raw and default is not None:
            return default
        try:
            value = parse_number(raw)
        except ValueError:
            self.errors[name] = "Write a number" if raw else "A number is missing here"
            return low
        if not low <= value <= high:
            self.errors[name] = f"Between {low:g} and {high:g} {unit}".strip().replace("-", MINUS)
            return low
        return value

    def whole(self, name: str, low: int, high: int, default: int | None = None) -> int:
        """Return a whole number within a range."""
        value = self.number(name, low, high, default=default)
        if value != int(value):
            self.errors[name] = "Write a whole number"
        return int(value)

    def money(self, name: str, default: Decimal | None = None) -> Decimal:
        """Return an exact amount."""
        raw = self.texts.get(name, "").strip().replace(",", ".").replace(MINUS, "-")
        if not raw and default is not None:
            return default
        try:
            value = Decimal(raw)
        except InvalidOperation:
            self.errors[name] = "Write a price such as 0.268"
            return Decimal(0)
        if not value.is_finite() or abs(value) > 100:
            self.errors[name] = "Between −100 and 100"
            return Decimal(0)
        return value

    def clock(self, name: str, default: int | None = None) -> int:
        """Return a time of day as a minute."""
        raw = self.texts.get(name, "").strip()
        if not raw and default is not None:
            return default
        try:
            return parse_clock(raw)
        except ValueError:
            self.errors[name] = "Write a time such as 06:45"
            return 0

    def day(self, name: str) -> date | None:
        """Return a date, or None if it is left empty."""
        raw = self.texts.get(name, "").strip()
        if not raw:
            return None
        try:
            return date.fromisoformat(raw)
        except ValueError:
            self.errors[name] = "Write a date such as 2026-03-31"
            return None

    def choice(self, name: str, allowed: Iterable[Word]) -> Word:
        """Return one of several words."""
        words = {str(word): word for word in allowed}
        found = words.get(self.texts.get(name, ""))
        if found is None:
            self.errors[name] = "Choose one of the list"
            return next(iter(words.values()))
        return found

    def is_on(self, name: str) -> bool:
        """Return whether a box is ticked."""
        return name in self.texts
