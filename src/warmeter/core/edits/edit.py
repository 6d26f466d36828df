"""An edit: a command done to a home, with the sentence that its revision carries."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import Enum
from typing import Any, Protocol

from warmeter.core.home.document import Home


@dataclass(frozen=True, slots=True)
class Edit:
    """A changed home, what was done, and which part is chosen now (None: as before, "": none).

    Edits of one ``fold`` done again within seconds by the same window are one revision.
    """

    home: Home
    summary: str
    selected: str | None = None
    fold: str = ""


class Command(Protocol):
    """What a person asks of a home: a frozen dataclass whose fields carry the document's own limits."""

    def edit(self, home: Home) -> Edit:
        """Return the changed home; ``WarmeterError`` if it cannot be done."""
        ...


@dataclass(frozen=True, slots=True)
class FieldsOf:
    """Annotates a command's values for some fields of a part; each has the limits that it has in the document."""

    part: type
    names: tuple[str, ...]


class Unset(Enum):
    """A field of a command that was not sent: what it stands for stays as it is."""

    UNSET = "unset"


UNSET = Unset.UNSET
Values = Mapping[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class Apply:
    """Any change of a home as a command, such as what a file brings."""

    change: Callable[[Home], Home]
    summary: str
    fold: str = ""

    def edit(self, home: Home) -> Edit:
        """Return the changed home."""
        return Edit(self.change(home), self.summary, fold=self.fold)
