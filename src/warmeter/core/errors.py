"""The one tree of errors.

::

    WarmeterError (ValueError)
    ├── OutOfRange        a number has no physical meaning, or lies beyond its hard range
    ├── UnitError         a unit is not known, or belongs to another quantity
    ├── TimeError         a date, clock time or zone cannot be read
    ├── ReadingError      a line or value of a log cannot be taken
    ├── HomeError         a home's document contradicts itself
    ├── TariffError       no rule of the tariff gives a price for an instant
    └── NotKnowable       the data given cannot answer; says what to record instead
        └── NeverRests    a machine works all the time, so it has no cycles
"""


class WarmeterError(ValueError):
    """Something given to Warmeter cannot be used; the sentence says what would be right."""


class OutOfRange(WarmeterError):
    """A number lies beyond its hard range.

    Raised when ``value`` is not finite or not within ``low`` and ``high``.
    """

    def __init__(self, name: str, value: float, low: float, high: float, unit: str = "") -> None:
        space = f" {unit}" if unit else ""
        super().__init__(f"{name} must be between {low:g}{space} and {high:g}{space} (got {value:g}{space})")
        self.name, self.value, self.low, self.high, self.unit = name, value, low, high, unit

    def __reduce__(self) -> tuple[type["OutOfRange"], tuple[str, float, float, float, str]]:
        """Cross a process border with what it was made of."""
        return type(self), (self.name, self.value, self.low, self.high, self.unit)


class UnitError(WarmeterError):
    """Raised when a unit is unknown or measures another quantity."""


class TimeError(WarmeterError):
    """Raised when a date, a clock time or a time zone cannot be read."""


class ReadingError(WarmeterError):
    """Raised when a log, a line or a value of it cannot be taken."""

    def __init__(self, sentence: str, line: int | None = None) -> None:
        super().__init__(sentence if line is None else f"line {line}: {sentence}")
        self.line = line


class HomeError(WarmeterError):
    """Raised when a home's document has no meaning (an id twice, a room that is not there)."""


class TariffError(WarmeterError):
    """Raised when no rule of a tariff covers an instant, or a rule cannot be read."""


class NotKnowable(WarmeterError):
    """Raised when the data cannot teach what was asked.

    ``record`` says what to record so that it can.
    """

    def __init__(self, why: str, record: str) -> None:
        super().__init__(why + " " + record)  # keeps the numbers of sentences
        self.why, self.record = why, record

    def __reduce__(self) -> tuple[type["NotKnowable"], tuple[str, str]]:
        """Cross a process border with what it was made of."""
        return type(self), (self.why, self.record)


class NeverAtStandby(NotKnowable):
    """Raised when a machine's log shows work at all times: it has neither cycles nor standby."""


def within(name: str, value: float, low: float, high: float, unit: str = "") -> float:
    """Return ``value`` if it is finite and within its hard range.

    Raises
    ------
    OutOfRange
        If it is not.
    """
    if not low <= value <= high:
        raise OutOfRange(name, value, low, high, unit)
    return value
