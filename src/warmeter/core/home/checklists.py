"""Checklists: named, dated steps of a job, done one after another and signed by who answers for them."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated, Literal

from annotated_types import Len

from warmeter.core.home.part import Document, Id, Name, Text, Word

ChecklistKind = Literal["floor_circuit", "thermostat_swap", "valve_stroke", "leak_test", "device_birth"]


@dataclass(frozen=True, slots=True, kw_only=True)
class DoneStep(Document):
    """A step that somebody did."""

    step: Word
    on: date
    by: Name
    note: Text = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Checklist(Document):
    """A checklist of a kind about a part of the home; signed when all of it is done, by somebody who may."""

    id: Id
    kind: ChecklistKind
    about_id: Id
    done: Annotated[tuple[DoneStep, ...], Len(0, 60)] = ()
    signed_by: Word = ""
    signed_on: date | None = None
