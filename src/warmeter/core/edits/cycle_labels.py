"""What a person says of a machine's cycles and phases, as changes of the home."""

from dataclasses import replace
from typing import NamedTuple

from warmeter.core.edits.home_edits import with_appliance
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.machines import Appliance, Asking, CycleMark, PhaseName, ToldSetting


class CycleSpan(NamedTuple):
    """A stretch [start, end) of a log that names a cycle [ms UTC]."""

    start_ms: int
    end_ms: int

    @property
    def text(self) -> str:
        """It as forms and addresses carry it."""
        return f"{self.start_ms}_{self.end_ms}"


def _with_marks(home: Home, machine: Appliance, marks: tuple[CycleMark, ...]) -> Home:
    """Return the home with more marks; an older mark of the very same stretch goes."""
    new = {(m.start_ms, m.end_ms) for m in marks}
    kept = tuple(m for m in machine.marks if (m.start_ms, m.end_ms) not in new)
    return with_appliance(home, replace(machine, marks=(*kept, *marks)))


def with_cycle(home: Home, machine_id: str, span: CycleSpan, programme: str = "") -> Home:
    """Return a home in which a stretch [start, end) ms is one cycle of a machine."""
    machine = home.appliance(machine_id)
    return _with_marks(home, machine, (CycleMark(start_ms=span[0], end_ms=span[1], programme=programme),))


def without_cycle(home: Home, machine_id: str, span: CycleSpan) -> Home:
    """Return a home in which a stretch is no cycle."""
    machine = home.appliance(machine_id)
    return _with_marks(home, machine, (CycleMark(start_ms=span[0], end_ms=span[1], is_cycle=False),))


def with_split(home: Home, machine_id: str, span: CycleSpan, at_ms: int, programme: str = "") -> Home:
    """Return a home in which a cycle is two, the second from an instant on.

    Raises
    ------
    HomeError
        If the instant does not lie inside the cycle.
    """
    if not span[0] < at_ms < span[1]:
        raise HomeError("a run can be split only between its start and its end")
    machine = home.appliance(machine_id)
    parts = ((span[0], at_ms), (at_ms, span[1]))
    marks = tuple(CycleMark(start_ms=a, end_ms=b, programme=programme) for a, b in parts)
    return _with_marks(home, machine, marks)


def as_found(home: Home, machine_id: str, span: CycleSpan) -> Home:
    """Return a home in which nothing is said any more of what a stretch touches."""
    machine = home.appliance(machine_id)
    kept = tuple(m for m in machine.marks if m.end_ms <= span[0] or m.start_ms >= span[1])
    return with_appliance(home, replace(machine, marks=kept))


def with_phase_name(home: Home, machine_id: str, name: str, low_w: float, high_w: float) -> Home:
    """Return a home in which phases of a mean power within [low, high) have a name; an empty one takes it away."""
    machine = home.appliance(machine_id)
    kept = tuple(p for p in machine.phase_names if p.high_w <= low_w or p.low_w >= high_w)
    added = (PhaseName(name=name, low_w=low_w, high_w=high_w),) if name else ()
    return with_appliance(home, replace(machine, phase_names=(*kept, *added)))


def with_setting(home: Home, machine_id: str, setting: ToldSetting) -> Home:
    """Return a home in which a setting is in use, in place of the one that told the same."""
    machine = home.appliance(machine_id)
    kept = tuple(s for s in machine.settings if s.tells != setting.tells)
    return with_appliance(home, replace(machine, settings=(*kept, setting)))


def without_setting(home: Home, machine_id: str, tells: Asking) -> Home:
    """Return a home in which nothing tells something any more."""
    machine = home.appliance(machine_id)
    return with_appliance(home, replace(machine, settings=tuple(s for s in machine.settings if s.tells != tells)))
