"""What every kind of condition has in common, and what it is evaluated with."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Protocol

from annotated_types import Ge, Le, Len

from warmeter.core.home.conditions.phrase import Phrase
from warmeter.core.home.devices import Device
from warmeter.core.home.machines import Appliance
from warmeter.core.home.occasions import Occasion
from warmeter.core.home.part import Document, Id, Unit
from warmeter.core.home.timetables import Weekday
from warmeter.core.home.zones import Level, Zone
from warmeter.core.truth.scope import Scope
from warmeter.core.truth.track import Track
from warmeter.core.truth.truth import Truth
from warmeter.core.truth.watchers import Look, Reports
from warmeter.core.units import S_PER_DAY

WEEK_S = 7 * S_PER_DAY

Seconds = Annotated[int, Ge(0), Le(WEEK_S), Unit("s")]
Minute = Annotated[int, Ge(0), Le(1439), Unit("time of day")]
Weekdays = Annotated[tuple[Weekday, ...], Len(0, 7)]
Amount = Annotated[float, Ge(-1e6), Le(1e6)]
SunDeg = Annotated[float, Ge(-18), Le(60), Unit("°")]


@dataclass(frozen=True, slots=True, kw_only=True)
class Signal(Document):
    """A quantity of a room, device or machine; without a subject that of outdoors or of the home."""

    quantity: Annotated[str, Len(1, 40)]
    subject_id: Id | None = None


class HomeParts(Protocol):
    """The parts of a home that conditions can look at."""

    @property
    def appliances(self) -> tuple[Appliance, ...]:
        """Machines."""
        ...

    @property
    def devices(self) -> tuple[Device, ...]:
        """Devices, also those out of service."""
        ...

    @property
    def zones(self) -> tuple[Zone, ...]:
        """Zones."""
        ...

    @property
    def levels(self) -> tuple[Level, ...]:
        """Levels."""
        ...

    @property
    def occasions(self) -> tuple[Occasion, ...]:
        """Days that differ."""
        ...

    def appliance(self, appliance_id: str) -> Appliance:
        """Return a machine by id; ``HomeError`` if it is not there."""
        ...

    def device(self, device_id: str) -> Device:
        """Return a device by id; ``HomeError`` if it is not there."""
        ...

    def zone_of_id(self, zone_id: str) -> Zone:
        """Return a zone by id; ``HomeError`` if it is not there."""
        ...


class Evaluator(Protocol):
    """Evaluates conditions over arrays, each once."""

    @property
    def scope(self) -> Scope:
        """What is looked at."""
        ...

    def truth(self, condition: "Condition", stale_s: int) -> Truth:
        """Return when a condition holds; a value not heard for ``stale_s`` is not known."""
        ...

    def heard(self, signal: Signal, stale_s: int, minus: Signal | None = None) -> Track:
        """Return a signal, or its difference from another, not known where not heard for so long."""
        ...


class Watcher(Protocol):
    """Looks at conditions from instant to instant, as a device would."""

    @property
    def scope(self) -> Scope:
        """What is looked at."""
        ...

    @property
    def wake(self) -> Callable[[int], None]:
        """Called with instants at which something may change [ms UTC]."""
        ...

    def reports(self, signal: Signal) -> Reports:
        """Return a signal's reports as they come in."""
        ...


@dataclass(frozen=True, slots=True, kw_only=True)
class Condition(Document):
    """Something that a rule looks at."""

    # What the keys of its subjects begin with: "hours", or "machine" for machine:<id>.
    SUBJECT: ClassVar[str] = ""
    # Its place among what a first slot offers, low first; its name there and how it first stands, if it has one subject.
    LIST_PLACE: ClassVar[int] = 100
    NAME: ClassVar[str] = ""
    USUAL: ClassVar[Mapping[str, Any]] = {}

    def evaluate(self, on: Evaluator, stale_s: int) -> Truth:
        """Return when it holds, as truth over time."""
        raise NotImplementedError

    def watched(self, by: Watcher) -> Look:
        """Return what tells whether it holds now, called at every instant at which something may change."""
        raise NotImplementedError

    def phrase(self) -> Phrase:
        """Return its words and slots in order."""
        raise NotImplementedError

    @property
    def subject(self) -> str:
        """The key of what it looks at, as its first slot offers it."""
        return self.SUBJECT

    def on_other(self, subject_id: str) -> "Condition | None":  # noqa: ARG002  (for kinds that name a part)
        """Return it on another part of the same kind, None if it names none."""
        return None

    @classmethod
    def subjects(cls, home: HomeParts) -> Mapping[str, str]:  # noqa: ARG003
        """Return the names of what it can look at in a home, by key."""
        return {cls.SUBJECT: cls.NAME} if cls.NAME else {}

    @classmethod
    def usual(cls, home: HomeParts, rest: str) -> "Condition":  # noqa: ARG003
        """Return it as it first stands; ``rest`` of its subject's key names a part of the home."""
        return cls(**cls.USUAL)

    @property
    def opposite(self) -> "Condition | None":
        """What says that it is over, beyond its hysteresis; None where nothing does."""
        return None

    @property
    def is_moment(self) -> bool:
        """Whether it holds for a moment only (one second), not for a stretch."""
        return False

    @property
    def signals(self) -> tuple[Signal, ...]:
        """The signals that it looks at."""
        return ()

    @property
    def facts(self) -> frozenset[str]:
        """The facts that it hangs on."""
        return frozenset()

    @property
    def machines(self) -> frozenset[str]:
        """Ids of the machines whose power it follows."""
        return frozenset()

    @property
    def hears_reports(self) -> bool:
        """Whether it is not known where nothing is heard for long."""
        return bool(self.signals or self.machines)
