"""Units that heat and cool: which of both is asked of them at an instant, by their room's temperature."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from warmeter.core.claims.arbiter import Claim, Decision, decisions
from warmeter.core.home.document import Home
from warmeter.core.home.zones import Zone
from warmeter.core.live.asked_now import LOOK_AHEAD_MS, AskedValue, ZoneAsked, command_for
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.day import blocks_between, cooling_claims, guards_of

RESTS = frozenset({"window_lock", "safety"})  # while one of these decides, nothing is cooled either


def cooling_limit(home: Home, zone: Zone, clock: LocalClock, at_ms: int) -> Decision:
    """Return what decides a zone's cooling limit at an instant; where no block has one, the guard's upper limit."""
    end = at_ms + LOOK_AHEAD_MS
    base = Claim(kind="base", value=home.guard_of(zone).high_c, from_ms=at_ms, reason="protection limit")
    claims = cooling_claims(blocks_between(home, zone, clock, at_ms, end), {})
    return decisions(claims, base, guards_of(home, zone), at_ms, end)[0]


def with_cooling(
    home: Home,
    asked: Sequence[AskedValue],
    zones: Sequence[ZoneAsked],
    clock: LocalClock,
    at_ms: int,
    rooms_c: Mapping[str, float | None],
    last_ms: Mapping[tuple[str, str], int],
) -> list[AskedValue]:
    """Return what is asked, where a unit that is told apart to heat and to cool is asked one of both.

    Parameters
    ----------
    rooms_c : mapping of str to float or None
        By heater: its room's temperature, None where it is not known [°C].
    last_ms : mapping
        When each target was last commanded, by what it does [ms UTC].

    Notes
    -----
    Above its zone's cooling limit a unit cools, at its heating setpoint or below it heats; between them, and where the
    room is not known, it goes on as it was last asked. A change of both is asked anew, also with the same setpoint.
    Until a room with a thermometer is heard for the first time nothing is asked: it may be summer.
    """
    decided = {heater_id: each for each in zones for heater_id in home.following(home.zone_of_id(each.zone_id))}
    found: list[AskedValue] = []
    for each in asked:
        cools = replace(each, does="cooling")
        if each.does != "setpoint" or each.target_id not in decided or command_for(home, cools) is None:
            found.append(each)
            continue
        zone = decided[each.target_id]
        limit = cooling_limit(home, home.zone_of_id(zone.zone_id), clock, at_ms)
        heated, cooled = last_ms.get((each.target_id, "setpoint"), 0), last_ms.get((each.target_id, "cooling"), 0)
        room_c = rooms_c.get(each.target_id)
        if room_c is None and not (cooled or heated) and _is_measured(home, each.target_id):
            continue
        is_cooling = cooled > heated
        if room_c is not None:
            is_cooling = room_c > limit.value or (is_cooling and room_c > each.value)
        if is_cooling and zone.now.claim.kind not in RESTS:
            kind = "guard" if limit.is_clamped else limit.claim.kind
            told = replace(cools, value=limit.value, kind=kind, reason=limit.claim.reason, from_ms=limit.claim.from_ms)
            found.append(_anew(told, heated) if heated > cooled else told)
        else:
            found.append(_anew(each, cooled) if cooled > heated else each)
    return found


def _is_measured(home: Home, heater_id: str) -> bool:
    """Return whether messages tell the temperature of a heater's room."""
    room_id = home.heater(heater_id).room_id
    there = {room_id, *(device.id for device in home.devices if device.room_id == room_id)}
    return any(m.quantity == "room_temperature" and m.subject_id in there for m in home.message_mappings)


def _anew(asked: AskedValue, after_ms: int) -> AskedValue:
    """Return what is asked as something new: the unit was asked the other of both last."""
    return replace(asked, from_ms=after_ms + 1, is_start=True)
