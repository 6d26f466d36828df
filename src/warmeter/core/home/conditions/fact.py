"""A fact that was marked."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from annotated_types import Len

from warmeter.core.home.conditions.condition import Condition, Evaluator, Minute, Watcher
from warmeter.core.home.conditions.phrase import FieldPlace, Phrase, SubjectPlace, yes_no
from warmeter.core.truth.day_resets import resets_ms
from warmeter.core.truth.scope import NO_MARKS
from warmeter.core.truth.truth import FALSE, TRUE, Truth, from_changes
from warmeter.core.truth.watchers import Look


@dataclass(frozen=True, slots=True, kw_only=True)
class Fact(Condition):
    """A fact that a person or a rule has marked; with a reset hour it is forgotten then."""

    SUBJECT: ClassVar[str] = "fact"
    LIST_PLACE: ClassVar[int] = 10
    NAME: ClassVar[str] = "a fact that was marked"
    USUAL: ClassVar[Mapping[str, Any]] = {"word": "guests are here"}

    word: Annotated[str, Len(1, 80)]
    is_true: bool = True
    reset_min: Minute | None = None
    kind: Literal["fact"] = "fact"

    @property
    def facts(self) -> frozenset[str]:
        """It."""
        return frozenset({self.word})

    @property
    def opposite(self) -> "Fact":
        """Not marked where it is."""
        return replace(self, is_true=not self.is_true)

    def phrase(self) -> Phrase:
        """Return its words."""
        return (
            SubjectPlace(text="it"),
            yes_no("is_true", "marked or not", "is marked that", "is not marked that"),
            FieldPlace("word", "the fact"),
        )

    def evaluate(self, on: Evaluator, _stale_s: int) -> Truth:
        """Return when it was last marked so."""
        start, end = on.scope.start_ms, on.scope.end_ms
        marks = on.scope.marks.get(self.word, NO_MARKS)
        at, value = marks.at_ms, np.where(marks.is_true, TRUE, FALSE).astype(np.int8)
        if self.reset_min is not None:
            resets = np.array(resets_ms(on.scope.clock, start, end, self.reset_min), dtype=np.int64)
            # A mark in the very second of the reset belongs to the new day.
            at, value = np.concatenate([resets, at]), np.concatenate([np.full(resets.size, FALSE), value])
            order = np.argsort(at, kind="stable")
            at, value = at[order], value[order].astype(np.int8)
        truth = from_changes(at, value, start, end, FALSE)
        return truth if self.is_true else truth.negated

    def watched(self, by: Watcher) -> Look:
        """Look at the last mark."""
        marks = by.scope.marks.get(self.word, NO_MARKS)
        changes = list(zip(marks.at_ms.tolist(), marks.is_true.tolist(), strict=True))
        if self.reset_min is not None:
            resets = resets_ms(by.scope.clock, by.scope.start_ms, by.scope.end_ms, self.reset_min)
            changes = [(at, False) for at in resets] + changes
        changes.sort(key=lambda change: change[0])
        for at, _ in changes:
            by.wake(at)

        def look(now: int) -> int:
            said = [is_true for at, is_true in changes if at <= now]
            return TRUE if (bool(said) and said[-1]) == self.is_true else FALSE

        return look
