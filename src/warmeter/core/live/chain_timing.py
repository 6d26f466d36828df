"""How long the word of a danger took along an alarm path: felt, told, answered, shut."""

from dataclasses import dataclass

from warmeter.core.units import MS_PER_MIN, MS_PER_S

LONGEST_MS = 10 * MS_PER_MIN


@dataclass(frozen=True, slots=True, kw_only=True)
class ChainTiming:
    """A test of an alarm path as it went; instants by the machine's clock, None for what has not come [ms UTC].

    Parameters
    ----------
    begun_ms : int
        When a person began it.
    felt_ms : int or None
        When the first report of a sensor of the path came that something is wrong.
    told_ms, sent_ms, shut_ms : int or None
        When somebody was first told, the command went out, and a reading showed that it was obeyed.
    answers : bool
        Whether the path has anything that answers by itself.
    """

    begun_ms: int
    felt_ms: int | None = None
    told_ms: int | None = None
    sent_ms: int | None = None
    shut_ms: int | None = None
    answers: bool = True

    @property
    def told_s(self) -> float | None:
        """Seconds from felt to told."""
        return _between(self.felt_ms, self.told_ms)

    @property
    def shut_s(self) -> float | None:
        """Seconds from told to shut; nought where it was shut first."""
        shut = _between(self.told_ms, self.shut_ms)
        return None if shut is None else max(0.0, shut)

    @property
    def is_whole(self) -> bool:
        """Whether all of it came."""
        return self.told_ms is not None and (self.shut_ms is not None or not self.answers)

    def is_over(self, now_ms: int) -> bool:
        """Return whether it is whole, or took longer than is waited for."""
        return self.is_whole or now_ms - self.begun_ms > LONGEST_MS

    @property
    def failed(self) -> str:
        """What did not come, "" where all did."""
        if self.felt_ms is None:
            return "no report of its sensor came"
        if self.told_ms is None:
            return "nobody was told"
        if self.answers and self.sent_ms is None:
            return "no command was sent"
        return "" if self.is_whole else "nothing showed that it was obeyed"


def _between(begin_ms: int | None, end_ms: int | None) -> float | None:
    return None if begin_ms is None or end_ms is None else (end_ms - begin_ms) / MS_PER_S
