"""What a machine does."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import ClassVar, Literal

from warmeter.core.home.conditions.condition import Condition, Evaluator, HomeParts, Watcher
from warmeter.core.home.conditions.machine_runs import runs_of, watched_machine, works_of
from warmeter.core.home.conditions.phrase import ChoicePlace, Phrase, SubjectPlace
from warmeter.core.home.part import Id
from warmeter.core.truth.truth import FALSE, MOMENT_MS, TRUE, UNKNOWN, Truth, begins, constant, held, moments
from warmeter.core.truth.watchers import Edge, Look
from warmeter.core.units import MS_PER_S

Does = Literal["runs", "finished", "idle", "left_on"]
_WORDS: dict[Does, str] = {"finished": "has finished", "runs": "runs", "idle": "does not run", "left_on": "was left on"}


@dataclass(frozen=True, slots=True, kw_only=True)
class MachineDoes(Condition):
    """What a machine does by its power and the setting in use for it; finished is a moment."""

    SUBJECT: ClassVar[str] = "machine"
    LIST_PLACE: ClassVar[int] = 1

    appliance_id: Id
    does: Does
    kind: Literal["machine"] = "machine"

    @property
    def is_moment(self) -> bool:
        """Whether it is its end."""
        return self.does == "finished"

    @property
    def machines(self) -> frozenset[str]:
        """The machine."""
        return frozenset({self.appliance_id})

    @property
    def opposite(self) -> "MachineDoes | None":
        """Idle where it runs."""
        if self.is_moment:
            return None
        return replace(self, does="idle" if self.does in ("runs", "left_on") else "runs")

    @property
    def subject(self) -> str:
        """The key of the machine."""
        return f"machine:{self.appliance_id}"

    @classmethod
    def subjects(cls, home: HomeParts) -> Mapping[str, str]:
        """Return the machines."""
        return {f"machine:{m.id}": f"{m.name}, what it does" for m in home.appliances}

    @classmethod
    def usual(cls, home: HomeParts, rest: str) -> "MachineDoes":
        """Return its end."""
        return cls(appliance_id=home.appliance(rest).id, does="finished")

    def on_other(self, subject_id: str) -> "MachineDoes":
        """Return it of another machine."""
        return replace(self, appliance_id=subject_id)

    def phrase(self) -> Phrase:
        """Return its words."""
        return SubjectPlace(part_id=self.appliance_id), ChoicePlace("does", "what it does", _WORDS)

    def evaluate(self, on: Evaluator, stale_s: int) -> Truth:
        """Return when it does, not known without a setting."""
        start, end = on.scope.start_ms, on.scope.end_ms
        setting = on.scope.setting(self.appliance_id, self.does)
        if setting is None:
            return constant(UNKNOWN, start, end)
        if self.does == "left_on":
            return held(works_of(on, self.appliance_id, setting, stale_s), round(setting.wait_s * MS_PER_S))
        runs = runs_of(on, self.appliance_id, setting, stale_s)
        if self.does == "finished":
            return moments(begins(runs.negated), start, end)
        return runs if self.does == "runs" else runs.negated

    def watched(self, by: Watcher) -> Look:
        """Follow its work from report to report."""
        machine = watched_machine(by, self.appliance_id, self.does)
        if machine is None:
            return lambda _: UNKNOWN
        stop, finished_until = Edge(), 0

        def look(now: int) -> int:
            nonlocal finished_until
            machine.look(now)
            if self.does == "left_on":
                return machine.works_long
            if self.does == "runs":
                return machine.runs
            idle = TRUE - machine.runs
            if self.does == "idle":
                return idle
            if stop.look(idle):
                finished_until = now + MOMENT_MS
                by.wake(finished_until)
            return TRUE if now < finished_until else FALSE

        return look
