"""One thing, then another within so long."""

from dataclasses import dataclass
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

import numpy as np
from annotated_types import Len

from warmeter.core.home.conditions.condition import Condition, Evaluator, Seconds, Signal, Watcher
from warmeter.core.home.conditions.kinds import Single
from warmeter.core.home.conditions.phrase import FieldPlace, PartPlace, Phrase, SubjectPlace
from warmeter.core.truth.in_sequence import Letter, sequences
from warmeter.core.truth.truth import FALSE, MOMENT_MS, TRUE, Truth, begins, moments
from warmeter.core.truth.watchers import Edge, Look
from warmeter.core.units import MS_PER_S


@dataclass(frozen=True, slots=True, kw_only=True)
class Sequence(Condition):
    """``first`` begins, then ``then`` within so long, unless ``unless`` within so long after that [s].

    Without ``cancel_s`` it is told at once and nothing cancels it. ``repeat`` says whether a second ``first``
    counts anew ("latest") or is ignored while the earlier one is still fresh ("first").
    """

    SUBJECT: ClassVar[str] = "sequence"

    first: Single
    then: Single
    within_s: Seconds
    unless: Single | None = None
    cancel_s: Seconds | None = None
    repeat: Literal["latest", "first"] = "latest"
    kind: Literal["sequence"] = "sequence"

    @property
    def parts(self) -> tuple[tuple[Letter, Condition], ...]:
        """Its conditions with their letters: A, then B, unless C."""
        parts: tuple[tuple[Letter, Condition | None], ...] = (("A", self.first), ("B", self.then), ("C", self.unless))
        return tuple((letter, part) for letter, part in parts if part is not None)

    @property
    def is_moment(self) -> bool:
        """It is one."""
        return True

    @property
    def signals(self) -> tuple[Signal, ...]:
        """Those of its parts."""
        return tuple(signal for _, part in self.parts for signal in part.signals)

    @property
    def facts(self) -> frozenset[str]:
        """Those of its parts."""
        return frozenset(word for _, part in self.parts for word in part.facts)

    @property
    def machines(self) -> frozenset[str]:
        """Those of its parts."""
        return frozenset(machine for _, part in self.parts for machine in part.machines)

    def phrase(self) -> Phrase:
        """Return its words."""
        unless = (
            "unless",
            PartPlace("unless"),
            "within",
            FieldPlace("cancel_s", "within how long after that"),
            "after that",
        )
        return (
            SubjectPlace(text="first"),
            PartPlace("first"),
            "then",
            PartPlace("then"),
            "within",
            FieldPlace("within_s", "within how long"),
            *(unless if self.unless is not None else ()),
        )

    def evaluate(self, on: Evaluator, stale_s: int) -> Truth:
        """Return when it was told (J11)."""
        events = [(int(at), letter) for letter, part in self.parts for at in begins(on.truth(part, stale_s))]
        found = sequences(
            sorted(events),
            within_ms=self.within_s * MS_PER_S,
            cancel_ms=None if self.cancel_s is None else self.cancel_s * MS_PER_S,
            is_first=self.repeat == "first",
            end_ms=on.scope.end_ms,
        )
        told = np.array([pair.at_ms for pair in found.told], dtype=np.int64)
        return moments(told, on.scope.start_ms, on.scope.end_ms)

    def watched(self, by: Watcher) -> Look:
        """Remember whether the first has come, and what waits to be told."""
        parts = [(letter, part.watched(by), Edge()) for letter, part in self.parts]
        within_ms = self.within_s * MS_PER_S
        armed: int | None = None
        waiting: list[int] = []
        told_until = 0

        def look(now: int) -> int:
            nonlocal armed, waiting, told_until
            for letter, evaluate, edge in parts:
                if not edge.look(evaluate(now)):
                    continue
                is_fresh = armed is not None and now - armed <= within_ms
                if letter == "A" and not (self.repeat == "first" and is_fresh):
                    armed = now
                elif letter == "B" and is_fresh:
                    armed = None
                    waiting.append(now + (self.cancel_s or 0) * MS_PER_S)
                    by.wake(waiting[-1])
                elif letter == "C" and self.cancel_s is not None:
                    waiting = []
            if any(due <= now for due in waiting):
                told_until = now + MOMENT_MS
                by.wake(told_until)
            waiting = [due for due in waiting if due > now]
            return TRUE if now < told_until else FALSE

        return look


if TYPE_CHECKING:
    AnyCondition = Condition
else:
    AnyCondition = Single | Sequence
Clause = Annotated[tuple[AnyCondition, ...], Len(1, 12)]
Clauses = Annotated[tuple[Clause, ...], Len(0, 12)]
