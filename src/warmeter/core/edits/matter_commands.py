"""Commands on the list of what matters: a line put aside with a reason, or taken up again."""

from dataclasses import dataclass, replace
from datetime import date

from warmeter.core.edits.edit import Edit
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.part import Word
from warmeter.core.home.put_aside import MatterKey, PutAside, Reason


@dataclass(frozen=True, slots=True, kw_only=True)
class PutMatterAside:
    """Put a line aside, by whom and on which date; ``until`` is the date on which it comes back."""

    key: MatterKey
    reason: Reason
    on: date
    by: Word = ""
    until: date | None = None

    def edit(self, home: Home) -> Edit:
        """Return the home with it put aside; ``HomeError`` if it would come back at once."""
        if self.until is not None and self.until <= self.on:
            raise HomeError(f"the date on which it comes back must lie after {self.on}")
        others = tuple(each for each in home.put_aside if each.key != self.key)
        said = PutAside(key=self.key, reason=self.reason, by=self.by, on=self.on, until=self.until)
        return Edit(replace(home, put_aside=(*others, said)), f"Put aside: {self.reason}")


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeMatterUp:
    """Take a line up again that was put aside."""

    key: MatterKey

    def edit(self, home: Home) -> Edit:
        """Return the home with it open; ``HomeError`` if it was not put aside."""
        others = tuple(each for each in home.put_aside if each.key != self.key)
        if others == home.put_aside:
            raise HomeError("this line is not put aside any more")
        return Edit(replace(home, put_aside=others), "Taken up again")
