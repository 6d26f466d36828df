"""Every room of a home that anything tells of: how likely somebody is in it by minute."""

from dataclasses import dataclass

from warmeter.core.arrays import Bytes
from warmeter.core.home.document import Home
from warmeter.core.presence.household_presence import HouseholdPresence, minutes_of
from warmeter.core.presence.presence_log import PresenceLog
from warmeter.core.presence.room_probability import RoomProbability, room_probability, room_signs
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MIN_PER_H


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomPresence:
    """A room with how likely somebody is in it, and the state taken from that, by minute."""

    room_id: str
    probability: RoomProbability
    state: Bytes


def rooms_presence(
    home: Home, log: PresenceLog, household: HouseholdPresence, clock: LocalClock
) -> tuple[RoomPresence, ...]:
    """Return the rooms of which a sensor, a bed or a machine that needs a hand was heard."""
    minutes = minutes_of(log.start_ms, log.end_ms)
    home_state = household.home.state.at(minutes)
    _, of_day = clock.local_minutes(minutes)
    found = []
    for room in home.rooms:
        machines = [
            judged.reports.standing(minutes)
            for person in household.persons
            for judged in person.witnesses
            if judged.reports is not None and judged.witness.kind == "machine" and judged.witness.room_id == room.id
        ]
        signs = room_signs(home, log, room.id, home_state, machines, minutes, of_day // MIN_PER_H)
        if signs is not None:
            probability = room_probability(signs)
            state = probability.state(home.presence_practice.sure)
            found.append(RoomPresence(room_id=room.id, probability=probability, state=state))
    return tuple(found)
