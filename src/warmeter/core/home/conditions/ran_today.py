"""Whether a machine has run today."""

from bisect import bisect_left, bisect_right
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import ClassVar, Literal

import numpy as np

from warmeter.core.home.conditions.condition import Condition, Evaluator, HomeParts, Minute, Seconds, Watcher
from warmeter.core.home.conditions.machine_runs import runs_of, watched_machine
from warmeter.core.home.conditions.phrase import ChoicePlace, FieldPlace, Phrase, SubjectPlace, yes_no
from warmeter.core.home.part import Id
from warmeter.core.truth.day_resets import Counts, Run, reached_ms, resets_ms
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN, Truth, constant, from_changes
from warmeter.core.truth.watchers import Look
from warmeter.core.units import MS_PER_S

_WORDS: dict[Counts, str] = {"started": "started", "ended": "ended a run", "ran": "run"}


@dataclass(frozen=True, slots=True, kw_only=True)
class RanToday(Condition):
    """Whether a machine has started, ended or run at least so long since the day's reset hour."""

    SUBJECT: ClassVar[str] = "ran"
    LIST_PLACE: ClassVar[int] = 2

    appliance_id: Id
    counts: Counts = "ran"
    least_s: Seconds = 0
    reset_min: Minute = 240
    has: bool = True
    kind: Literal["ran_today"] = "ran_today"

    @property
    def machines(self) -> frozenset[str]:
        """The machine."""
        return frozenset({self.appliance_id})

    @property
    def opposite(self) -> "RanToday":
        """Not yet where it has."""
        return replace(self, has=not self.has)

    @property
    def subject(self) -> str:
        """The key of the machine."""
        return f"ran:{self.appliance_id}"

    @classmethod
    def subjects(cls, home: HomeParts) -> Mapping[str, str]:
        """Return the machines."""
        return {f"ran:{m.id}": f"{m.name}, has it run today" for m in home.appliances}

    @classmethod
    def usual(cls, home: HomeParts, rest: str) -> "RanToday":
        """Return that it has not."""
        return cls(appliance_id=home.appliance(rest).id, has=False)

    def on_other(self, subject_id: str) -> "RanToday":
        """Return it of another machine."""
        return replace(self, appliance_id=subject_id)

    def phrase(self) -> Phrase:
        """Return its words."""
        at_least = ("for at least", FieldPlace("least_s", "at least how long"))
        return (
            SubjectPlace(part_id=self.appliance_id),
            yes_no("has", "whether", "has", "has not"),
            ChoicePlace("counts", "what counts", _WORDS),
            *(at_least if self.counts == "ran" else ()),
            "since",
            FieldPlace("reset_min", "hour from which it counts"),
        )

    def evaluate(self, on: Evaluator, stale_s: int) -> Truth:
        """Return when it has; what was not heard may have been a run (J10)."""
        start, end = on.scope.start_ms, on.scope.end_ms
        setting = on.scope.setting(self.appliance_id, "ran_today")
        if setting is None:
            return constant(UNKNOWN, start, end)
        runs = runs_of(on, self.appliance_id, setting, stale_s)
        begin, until = (edge.tolist() for edge in runs.stretches())
        known: list[Run] = [(b, None if u >= end else u) for b, u in zip(begin, until, strict=True)]
        if self.counts == "ended":
            # Where it fell silent at work, nobody knows when it ended.
            known = [run for run, after in zip(known, _following(runs), strict=True) if after == FALSE]
        starts = [run[0] for run in known]
        lost = runs.stretches(UNKNOWN)[0]
        resets = resets_ms(on.scope.clock, start, end, self.reset_min)
        at, value = [], []
        for day, following in zip(resets, [*resets[1:], end], strict=True):
            at.append(day)
            value.append(FALSE)
            near = known[max(bisect_right(starts, day) - 1, 0) : bisect_left(starts, following)]
            reached = reached_ms(near, counts=self.counts, least_s=self.least_s, begin_ms=day, until_ms=following)
            # What was not heard may have been a run: until it is certain that it has, it is not known.
            first = int(np.searchsorted(lost, day))
            blind = int(lost[first]) if first < lost.size else None
            was_blind = runs.at(np.array([max(day, start)]))[0] == UNKNOWN
            blind = max(day, start) if was_blind else blind
            if blind is not None and blind < following and (reached is None or blind < reached):
                at.append(blind)
                value.append(UNKNOWN)
            if reached is not None:
                at.append(reached)
                value.append(TRUE)
        truth = from_changes(np.array(at, dtype=np.int64), np.array(value, dtype=np.int8), start, end)
        return truth if self.has else truth.negated

    def watched(self, by: Watcher) -> Look:
        """Count its work since the reset hour."""
        machine = watched_machine(by, self.appliance_id, "ran_today")
        if machine is None:
            return lambda _: UNKNOWN
        resets = resets_ms(by.scope.clock, by.scope.start_ms, by.scope.end_ms, self.reset_min)
        for at in resets:
            by.wake(at)
        need = max(1, self.least_s) * MS_PER_S
        ran, has, is_blind, before, last = 0, False, False, FALSE, by.scope.start_ms

        def look(now: int) -> int:
            nonlocal ran, has, is_blind, before, last
            machine.look(now)
            if before == TRUE:
                ran += now - last
                has = has or (self.counts == "ran" and ran >= need)
            if now in resets:
                ran, has, is_blind = 0, False, False
            runs = machine.runs
            if runs == TRUE:
                if before != TRUE and self.counts == "started":
                    has = True
                by.wake(now + max(need - ran, 0))
            if before == TRUE and runs == FALSE and self.counts == "ended":
                has = True
            is_blind = is_blind or runs == UNKNOWN
            before, last = runs, now
            value = TRUE if has else UNKNOWN if is_blind else FALSE
            return value if self.has else TRUE - value

        return look


def _following(truth: Truth) -> list[int]:
    """Return what follows each true stretch; not known at the end."""
    after: list[int] = np.append(truth.value[1:], UNKNOWN)[truth.value == TRUE].tolist()
    return after
