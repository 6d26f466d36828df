"""A finding: something that a check noticed, where, and what would mend it."""

from dataclasses import dataclass
from typing import Literal

Severity = Literal["note", "warning", "danger"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """What a check says.

    Parameters
    ----------
    kind : str
        Key of the check.
    severity : {"note", "warning", "danger"}
        How much it matters.
    place : str
        Where: an id of the home, or a line of a log.
    sentence : str
        What is so.
    mend : str
        What would mend it; empty if nothing needs to be done.
    about : tuple of str
        Ids of all parts concerned, the place first.
    """

    kind: str
    severity: Severity
    place: str
    sentence: str
    fix: str = ""
    about: tuple[str, ...] = ()
