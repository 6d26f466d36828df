"""What conditions on a signal share."""

from dataclasses import dataclass, replace
from typing import ClassVar

from warmeter.core.home.conditions.condition import Condition, Signal
from warmeter.core.home.conditions.phrase import SubjectPlace
from warmeter.core.quantity import QUANTITIES


@dataclass(frozen=True, slots=True, kw_only=True)
class OfSignal(Condition):
    """A condition on a signal."""

    SUBJECT: ClassVar[str] = "signal"

    of: Signal

    @property
    def subject(self) -> str:
        """The key of the signal."""
        return f"signal:{self.of.quantity}:{self.of.subject_id or ''}"

    @property
    def signals(self) -> tuple[Signal, ...]:
        """The signal."""
        return (self.of,)

    @property
    def looked_at(self) -> SubjectPlace:
        """The place of the signal."""
        return SubjectPlace(signal=self.of)

    def on_signal(self, signal: Signal) -> Condition | None:
        """Return it on another signal, None where its numbers mean nothing there."""
        return replace(self, of=signal) if signal.quantity == self.of.quantity else None


def is_two_states(signal: Signal) -> bool:
    """Return whether a signal is yes or no."""
    quantity = QUANTITIES.get(signal.quantity)
    return quantity is not None and quantity.is_two_states
