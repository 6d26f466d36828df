"""Commands on tasks: added, typed, chased, done, removed."""

from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated

from annotated_types import Ge, Le

from warmeter.core.edits.edit import Edit, FieldsOf, Values
from warmeter.core.edits.home_edits import swapped
from warmeter.core.edits.ids import new_id
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.part import Id, Name, Text, Word
from warmeter.core.home.tasks import Task

TASK_FIELDS = ("what", "about_id", "phase", "priority", "price", "hours", "asked", "asked_on", "due_on", "proof")


def _with(home: Home, task: Task, summary: str) -> Edit:
    return Edit(replace(home, tasks=swapped(home.tasks, task)), summary, task.id)


def _task(home: Home, task_id: str) -> Task:
    found = next((each for each in home.tasks if each.id == task_id), None)
    if found is None:
        raise HomeError("this task is not there any more")
    return found


@dataclass(frozen=True, slots=True, kw_only=True)
class AddTask:
    """Add something to be done, last of its phase."""

    what: Name
    phase: Annotated[int, Ge(1), Le(20)] = 1
    about_id: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        if self.about_id and self.about_id not in {part.id for part in home.parts()}:
            raise HomeError("what the task is about is not there any more")
        last = max((t.priority for t in home.tasks if t.phase == self.phase), default=0)
        task = Task(
            id=new_id(), what=self.what, phase=self.phase, priority=min(99, last + 1), about_id=self.about_id or None
        )
        return Edit(replace(home, tasks=(*home.tasks, task)), f"To be done: {task.what}", task.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeTask:
    """Type a task's fields."""

    id: Id
    values: Annotated[Values, FieldsOf(Task, TASK_FIELDS)]

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed.

        Raises
        ------
        HomeError
            If it is due before it was asked.
        """
        changed = replace(_task(home, self.id), **dict(self.values))
        if changed.asked_on is not None and changed.due_on is not None and changed.due_on < changed.asked_on:
            raise HomeError(f"{changed.what} would be due before it was asked; look at both dates")
        return _with(home, changed, f"{changed.what} changed")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChaseTask:
    """Note that somebody was asked again."""

    id: Id
    on: date

    def edit(self, home: Home) -> Edit:
        """Return the home with it chased."""
        task = _task(home, self.id)
        changed = replace(task, chased_on=tuple(sorted({*task.chased_on, self.on})))
        return _with(home, changed, f"{task.what}: {task.asked or 'somebody'} asked again")


@dataclass(frozen=True, slots=True, kw_only=True)
class FinishTask:
    """Note that a task was done, with what shows it; ``undo`` opens it again."""

    id: Id
    on: date | None = None
    proof: Text = ""
    undo: bool = False

    def edit(self, home: Home) -> Edit:
        """Return the home with it done, or open again."""
        task = _task(home, self.id)
        if self.undo:
            return _with(home, replace(task, done_on=None), f"{task.what}: open again")
        if self.on is None:
            raise HomeError("a task that is done has a date")
        changed = replace(task, done_on=self.on, proof=self.proof or task.proof)
        return _with(home, changed, f"{task.what}: done")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveTask:
    """Remove a task."""

    id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        task = _task(home, self.id)
        left = tuple(each for each in home.tasks if each.id != task.id)
        return Edit(replace(home, tasks=left), f"Task removed: {task.what}", "")
