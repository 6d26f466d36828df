"""Checklists about a part of the home: their commands, and their steps as ready strings."""

from collections.abc import Sequence
from dataclasses import dataclass

from warmeter.core.edits.checklist_commands import BeginChecklist, DoStep, RemoveChecklist, SignChecklist
from warmeter.core.home.checklist_steps import CHECKLIST_TITLE, STEPS
from warmeter.core.home.checklists import Checklist, ChecklistKind
from warmeter.core.home.document import Home
from warmeter.store.photos import PhotoLine
from warmeter.web.saving import Commands

CHECKLIST_COMMANDS: Commands = {
    "checklist-begin": BeginChecklist,
    "checklist-step": DoStep,
    "checklist-sign": SignChecklist,
    "checklist-remove": RemoveChecklist,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class StepRow:
    """A step: what to do, and by whom and when it was done."""

    key: str
    text: str
    is_licensed: bool
    done: str
    note: str
    photos: list[PhotoLine]


@dataclass(frozen=True, slots=True, kw_only=True)
class ChecklistView:
    """A checklist with its steps, how much of it is done, and who signed."""

    id: str
    title: str
    summary: str
    rows: list[StepRow]
    is_done: bool
    signed: str


def checklist_view(checklist: Checklist, photos: Sequence[PhotoLine] = ()) -> ChecklistView:
    """Return a checklist as its page shows it."""
    steps, done = STEPS[checklist.kind], {each.step: each for each in checklist.done}
    rows = [
        StepRow(
            key=step.key,
            text=step.text,
            is_licensed=step.is_licensed,
            done=f"{own.by}, {own.on}" if (own := done.get(step.key)) is not None else "",
            note=own.note if own is not None else "",
            photos=photos_about(photos, checklist.id, step.key),
        )
        for step in steps
    ]
    count = sum(bool(row.done) for row in rows)
    return ChecklistView(
        id=checklist.id,
        title=CHECKLIST_TITLE[checklist.kind],
        summary=checklist_summary(checklist),
        rows=rows,
        is_done=count == len(rows),
        signed=f"{checklist.signed_by}, {checklist.signed_on}" if checklist.signed_by else "",
    )


def checklist_summary(checklist: Checklist) -> str:
    """Return how much of a checklist is done, and who signed it."""
    known = {step.key for step in STEPS[checklist.kind]}
    count = sum(each.step in known for each in checklist.done)
    who = f"{checklist.signed_by}, {checklist.signed_on}" if checklist.signed_by else "not signed"
    return f"{count} of {len(known)}, {who}"


def photos_about(photos: Sequence[PhotoLine], about_id: str, step: str = "") -> list[PhotoLine]:
    """Return the photos of a part or of a step, removed ones among them, so that they can be brought back."""
    return [photo for photo in photos if photo.about_id == about_id and photo.step == step]


def checklists_about(
    home: Home, part_id: str, kind: ChecklistKind, photos: Sequence[PhotoLine] = ()
) -> list[ChecklistView]:
    """Return the checklists of a kind about a part, the newest last."""
    return [checklist_view(each, photos) for each in home.checklists if each.about_id == part_id and each.kind == kind]
