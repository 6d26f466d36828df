"""What is usual of each kind of witness: how long its word stands, how often it is right, what it is made of."""

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

from warmeter.core.home.devices import DeviceKind
from warmeter.core.home.people import Witness, WitnessKind
from warmeter.core.units import MS_PER_S, S_PER_H, S_PER_MIN

# Trust in a word that may be about somebody else, and in one that is never said.
AMONG_OTHERS, NO_WORD = 0.65, 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class WitnessTraits:
    """What is usual of a kind of witness.

    ``trust_out`` is None where it never says out; ``devices`` are the kinds that it is made of, ``asks_of_people`` what
    it needs people to do, ``says_who`` whether its word is about one person, ``sees`` what whoever reads its log learns.
    """

    label: str
    devices: tuple[DeviceKind, ...]
    hold_s: int
    trust_in: float
    trust_out: float | None
    says_who: bool
    asks_of_people: str
    sees: str


WITNESS_TRAITS: Mapping[WitnessKind, WitnessTraits] = MappingProxyType(
    {
        "telephone": WitnessTraits(
            label="telephone",
            devices=("telephone",),
            hold_s=8 * S_PER_H,
            trust_in=0.9,
            trust_out=0.9,
            says_who=True,
            asks_of_people="carry it, keep it charged",
            sees="where each one goes",
        ),
        "door_motion": WitnessTraits(
            label="door and motion",
            devices=("contact", "motion"),
            hold_s=6 * S_PER_H,
            trust_in=0.8,
            trust_out=0.8,
            says_who=False,
            asks_of_people="nothing",
            sees="that somebody came or left",
        ),
        "motion": WitnessTraits(
            label="motion",
            devices=("motion",),
            hold_s=5 * S_PER_MIN,
            trust_in=0.85,
            trust_out=None,
            says_who=False,
            asks_of_people="move",
            sees="that somebody moves, by room",
        ),
        "mattress": WitnessTraits(
            label="mattress",
            devices=("mattress",),
            hold_s=20 * S_PER_MIN,
            trust_in=0.9,
            trust_out=None,
            says_who=True,
            asks_of_people="nothing",
            sees="when each one sleeps",
        ),
        "machine": WitnessTraits(
            label="appliance plug",
            devices=(),
            hold_s=30 * S_PER_MIN,
            trust_in=0.9,
            trust_out=None,
            says_who=True,
            asks_of_people="switch it off after use",
            sees="when the appliance is used",
        ),
        "presence_sensor": WitnessTraits(
            label="presence sensor",
            devices=("presence_sensor",),
            hold_s=10 * S_PER_MIN,
            trust_in=0.9,
            trust_out=None,
            says_who=False,
            asks_of_people="nothing",
            sees="that somebody is there, even still",
        ),
        "statement": WitnessTraits(
            label="own word",
            devices=(),
            hold_s=12 * S_PER_H,
            trust_in=0.99,
            trust_out=0.99,
            says_who=True,
            asks_of_people="say so, each time",
            sees="what each one says",
        ),
    }
)


def holds_ms(witness: Witness) -> tuple[int, int]:
    """Return how long a report of in, and of out, stands: as typed, else as usual [ms]."""
    usual = WITNESS_TRAITS[witness.kind].hold_s
    return (witness.hold_in_s or usual) * MS_PER_S, (witness.hold_out_s or usual) * MS_PER_S


def usual_trust(witness: Witness, is_alone: bool) -> tuple[float, float]:
    """Return how often its word for in, and for out, is right: as typed, else as usual of its kind.

    What does not say who has less of a word for in where several live (``is_alone`` false).
    """
    traits = WITNESS_TRAITS[witness.kind]
    usual_in = traits.trust_in if is_alone or traits.says_who else AMONG_OTHERS
    return witness.trust_in or usual_in, witness.trust_out or traits.trust_out or NO_WORD
