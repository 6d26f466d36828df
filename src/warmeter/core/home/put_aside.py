"""What somebody decided not to act on for now: which line, why, who, since when, and when it comes back."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated

from annotated_types import Len

from warmeter.core.home.part import Document, Word

MatterKey = Annotated[str, Len(1, 200)]
Reason = Annotated[str, Len(1, 200)]


@dataclass(frozen=True, slots=True, kw_only=True)
class PutAside(Document):
    """A line of what matters that was put aside; without a date to come back it stays so until it is taken up again."""

    key: MatterKey
    reason: Reason
    by: Word = ""
    on: date
    until: date | None = None

    def holds_on(self, today: date) -> bool:
        """Return whether it is still put aside on a date."""
        return self.until is None or today < self.until
