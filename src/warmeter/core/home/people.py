"""People of a home, what bears witness to each being in, and how presence is made of it."""

from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le, Len

from warmeter.core.errors import HomeError
from warmeter.core.home.part import Document, Id, Name, Unit

WitnessKind = Literal["telephone", "door_motion", "motion", "mattress", "machine", "presence_sensor", "statement"]
Care = Literal["none", "infant", "ill", "old"]
HoldS = Annotated[int, Ge(60), Le(172_800), Unit("s")]
ShareTrusted = Annotated[float, Ge(0.5), Le(0.99)]


@dataclass(frozen=True, slots=True, kw_only=True)
class Witness(Document):
    """What can tell that a person is in or out.

    ``device_ids`` are the telephone, mattress, sensors or door contacts that it is made of, ``machine_id`` the machine
    that needs a hand, which tells from ``on_w`` on and stands in ``room_id``. Of door and motion, ``within_s`` lies at most between both, and
    motion up to ``cancel_s`` after the door is no leaving. ``hold_in_s`` and ``hold_out_s`` say how long a report
    stands, ``trust_in`` and ``trust_out`` how often it is right: as usual of its kind, or learnt, where nobody typed it.
    ``is_private`` keeps it out of the home's file.
    """

    id: Id
    kind: WitnessKind
    device_ids: Annotated[tuple[Id, ...], Len(0, 20)] = ()
    machine_id: Id | None = None
    on_w: Annotated[float, Gt(0), Le(10_000), Unit("W")] = 20.0
    room_id: Id | None = None
    within_s: Annotated[int, Ge(5), Le(1800), Unit("s")] = 120
    cancel_s: Annotated[int, Ge(30), Le(7200), Unit("s")] = 600
    hold_in_s: HoldS | None = None
    hold_out_s: HoldS | None = None
    trust_in: ShareTrusted | None = None
    trust_out: ShareTrusted | None = None
    is_private: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Occupant(Document):
    """Somebody who lives here. ``care`` says who cannot bear or tell heat and cold as others do."""

    id: Id
    name: Name
    care: Care = "none"
    witnesses: Annotated[tuple[Witness, ...], Len(0, 20)] = ()

    def __post_init__(self) -> None:
        if sum(w.kind == "statement" for w in self.witnesses) > 1:
            raise HomeError(f"{self.name!r} speaks for themselves once")


@dataclass(frozen=True, slots=True, kw_only=True)
class PresencePractice(Document):
    """When a state is believed: from which probability on, and how long it must have lasted [s].

    ``way_max_s`` is how long word of being on the way counts.
    """

    sure: Annotated[float, Gt(0.5), Le(0.99)] = 0.8
    least_in_s: Annotated[int, Ge(0), Le(7200), Unit("s")] = 0
    least_out_s: Annotated[int, Ge(0), Le(7200), Unit("s")] = 0
    least_not_known_s: Annotated[int, Ge(0), Le(7200), Unit("s")] = 0
    way_max_s: Annotated[int, Ge(60), Le(43_200), Unit("s")] = 3600
