"""Commands on checklists: begun, a step done by somebody on a date, signed."""

from dataclasses import dataclass, replace
from datetime import date

from warmeter.core.edits.edit import Edit
from warmeter.core.edits.home_edits import swapped
from warmeter.core.edits.ids import new_id
from warmeter.core.errors import HomeError
from warmeter.core.home.checklist_steps import CHECKLIST_TITLE, STEPS
from warmeter.core.home.checklists import Checklist, ChecklistKind, DoneStep
from warmeter.core.home.document import Home
from warmeter.core.home.part import Id, Name, Text, Word


def _checklist(home: Home, checklist_id: str) -> Checklist:
    found = next((each for each in home.checklists if each.id == checklist_id), None)
    if found is None:
        raise HomeError("this checklist is not there any more")
    return found


@dataclass(frozen=True, slots=True, kw_only=True)
class BeginChecklist:
    """Begin a checklist of a kind about a part of the home."""

    kind: ChecklistKind
    about_id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        if self.about_id not in {part.id for part in home.parts()}:
            raise HomeError("what the checklist is about is not there any more")
        begun = Checklist(id=new_id(), kind=self.kind, about_id=self.about_id)
        summary = f"Checklist begun: {CHECKLIST_TITLE[self.kind].lower()}"
        return Edit(replace(home, checklists=(*home.checklists, begun)), summary, self.about_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class DoStep:
    """Write down that somebody did a step on a date; ``undo`` takes it back, and the signature with it."""

    checklist_id: Id
    step: Word
    on: date | None = None
    by: Word = ""
    note: Text = ""
    undo: bool = False

    def edit(self, home: Home) -> Edit:
        """Return the home with the step done.

        Raises
        ------
        HomeError
            If the checklist has no such step, or nobody and no date is named.
        """
        checklist = _checklist(home, self.checklist_id)
        step = next((each for each in STEPS[checklist.kind] if each.key == self.step), None)
        if step is None:
            raise HomeError("this checklist has no such step")
        others = tuple(done for done in checklist.done if done.step != self.step)
        if self.undo:
            changed = replace(checklist, done=others, signed_by="", signed_on=None)
            summary = f"Taken back: {step.text}"
        elif not self.by or self.on is None:
            raise HomeError("a step that is done has the name of who did it, and a date")
        else:
            done = DoneStep(step=self.step, on=self.on, by=self.by, note=self.note)
            changed = replace(checklist, done=(*others, done))
            summary = f"Done by {self.by}: {step.text}"
        return Edit(replace(home, checklists=swapped(home.checklists, changed)), summary, checklist.about_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class SignChecklist:
    """Sign a checklist of which every step is done."""

    checklist_id: Id
    by: Name
    on: date

    def edit(self, home: Home) -> Edit:
        """Return the home with it signed.

        Raises
        ------
        HomeError
            If a step is not done yet.
        """
        checklist = _checklist(home, self.checklist_id)
        left = {step.key for step in STEPS[checklist.kind]} - {done.step for done in checklist.done}
        if left:
            raise HomeError(f"{len(left)} of its steps are not done yet; sign when all are")
        changed = replace(checklist, signed_by=self.by, signed_on=self.on)
        summary = f"{CHECKLIST_TITLE[checklist.kind]}: signed by {self.by}"
        return Edit(replace(home, checklists=swapped(home.checklists, changed)), summary, checklist.about_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveChecklist:
    """Remove a checklist with what was written on it."""

    checklist_id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        checklist = _checklist(home, self.checklist_id)
        left = tuple(each for each in home.checklists if each.id != self.checklist_id)
        return Edit(replace(home, checklists=left), "A checklist removed", checklist.about_id)
