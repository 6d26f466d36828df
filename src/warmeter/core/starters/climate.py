"""Rules to start from for damp air, cooling and sun."""

from dataclasses import replace

from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Condition, Signal
from warmeter.core.home.conditions.hours import Hours
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.conditions.sun_stands import SunStands
from warmeter.core.home.document import Home
from warmeter.core.home.rules import Blinds, PutBack, Rule, RuleLimits, Switch
from warmeter.core.shading.room_windows import window_plane
from warmeter.core.starters.openings import opening_contacts
from warmeter.core.starters.starter import rule_of
from warmeter.core.units import S_PER_DAY, S_PER_H

SIDE_DEG, SHADED = (
    75.0,
    0.8,
)  # the sun reaches well into a window so far to either side of it; a blind then comes so far down


def _fans(home: Home, room_id: str) -> list[str]:
    """Return what could dry a room: relays and plugs in it that drive no heater, and dryers anywhere."""
    near = [
        d.id
        for d in home.devices
        if d.kind in ("relay", "plug") and d.room_id == room_id and d.is_in_service and d.drives_id is None
    ]
    return near + [m.id for m in home.appliances if m.kind == "dehumidifier"]


def damp_places(home: Home) -> list[tuple[str, str]]:
    """Return heated rooms in which something could dry the air."""
    return [(r.id, r.name) for r in home.rooms if r.condition == "heated" and _fans(home, r.id)]


def damp_by_threshold(home: Home, room_id: str) -> Rule:
    """Return the rule that dries a room above a relative humidity."""
    damp = Compared(of=Signal(quantity="relative_humidity", subject_id=room_id), how="over", value=65.0, hysteresis=5.0)
    return _damp_rule(home, room_id, damp, "65 % and back under 60 %")


def damp_by_difference(home: Home, room_id: str) -> Rule:
    """Return the rule that dries a room while the air outside is drier by so much."""
    inside = Signal(quantity="absolute_humidity", subject_id=room_id)
    outside = Signal(quantity="absolute_humidity")
    damp = Compared(of=inside, minus=outside, how="over", value=3.0, hysteresis=1.0)
    return _damp_rule(home, room_id, damp, "only while airing dries")


def _damp_rule(home: Home, room_id: str, damp: Compared, words: str) -> Rule:
    return rule_of(
        f"{home.room(room_id).name} damp",
        "rule",
        damp,
        [Switch(target_ids=(_fans(home, room_id)[0],), is_on=True)],
        reading="is",
        for_s=300,
        put_back=PutBack(
            when=((replace(damp, how="under", value=damp.value - damp.hysteresis, hysteresis=0.0),),),
            for_s=300,
            after_s=2 * S_PER_H,
        ),
        intent=f"Out with the steam: {words}.",
        limits=RuleLimits(min_on_s=300, min_off_s=600, when_stale="put_back", cool_off_s=600),
    )


def split_places(home: Home) -> list[tuple[str, str]]:
    """Return the split units."""
    return [(h.id, h.name) for h in home.heaters if h.kind == "split_unit"]


def split_rule(home: Home, heater_id: str) -> Rule:
    """Return the rule that cools where somebody is and the windows are shut."""
    heater = home.heater(heater_id)
    room = home.room(heater.room_id)
    signal = Signal(quantity="room_temperature", subject_id=room.id)
    ids = {i for i, _ in opening_contacts(home)}
    contacts = [d for d in home.devices if d.id in ids and d.room_id == room.id]
    guards: list[tuple[Condition, ...]] = [(InState(of=Signal(quantity="is_in", subject_id=room.id)),)]
    guards += [(InState(of=Signal(quantity="is_open", subject_id=d.id), is_on=False),) for d in contacts]
    return rule_of(
        f"{room.name} cooled",
        "rule",
        Compared(of=signal, how="over", value=27.0, hysteresis=1.5),
        [Switch(target_ids=(heater_id,), is_on=True)],
        reading="is",
        for_s=600,
        only_while=tuple(guards),
        as_long_as=tuple(guards),
        put_back=PutBack(when=((Compared(of=signal, how="under", value=25.5),),), for_s=300),
        intent="Cool only where somebody is, and not out of the window.",
        limits=RuleLimits(min_on_s=600, min_off_s=600, when_stale="put_back"),
    )


def blind_places(home: Home) -> list[tuple[str, str]]:
    """Return the rooms with blinds."""
    rooms = {d.room_id for d in home.devices if d.kind == "blind_motor" and d.is_in_service}
    return [(r.id, r.name) for r in home.rooms if r.id in rooms]


def _blinds_of(home: Home, room_id: str) -> tuple[str, ...]:
    return tuple(d.id for d in home.devices if d.kind == "blind_motor" and d.room_id == room_id and d.is_in_service)


def blinds_by_sun(home: Home, room_id: str) -> Rule:
    """Return the rule that shades a room while the sun stands before it, and only blinds known to be further up.

    Raises
    ------
    HomeError
        If none of its blinds is said to hang before a window.
    """
    blinds = _blinds_of(home, room_id)
    bearings = [
        plane.bearing_deg
        for o in home.openings_of(room_id)
        if o.blind_motor_id in blinds and (plane := window_plane(home, o)) is not None
    ]
    if not bearings:
        raise HomeError(
            f"which window do the blinds of {home.room(room_id).name} hang before? Say it under Sun, or go by heat alone"
        )
    middle = bearings[0]
    warm = Compared(of=Signal(quantity="room_temperature", subject_id=room_id), how="over", value=23.5, hysteresis=0.5)
    before = SunStands(from_deg=(middle - SIDE_DEG) % 360, until_deg=(middle + SIDE_DEG) % 360)
    higher = tuple(
        (
            Compared(
                of=Signal(quantity="blind_position", subject_id=blind), how="under", value=100 * SHADED, hysteresis=2.0
            ),
        )
        for blind in blinds
    )
    return rule_of(
        f"{home.room(room_id).name} shaded from the sun",
        "rule",
        [before],
        [Blinds(target_ids=blinds, down=SHADED)],
        reading="is",
        for_s=600,
        only_while=((warm,), *higher),
        put_back=PutBack(when=((replace(warm, how="under", value=22.5, hysteresis=0.0),),), for_s=1800, at_min=1290),
        intent="Down before the sun has warmed it; never up a blind that somebody let down, never on a guess where it is.",
        limits=RuleLimits(min_on_s=1800, min_off_s=1800, most_a_day=4),
        stale_s=S_PER_DAY,
    )


def blinds_rule(home: Home, room_id: str) -> Rule:
    """Return the rule that shades a room in two steps before it is hot."""
    blinds = _blinds_of(home, room_id)
    hot = Compared(of=Signal(quantity="room_temperature", subject_id=room_id), how="over", value=25.0, hysteresis=1.0)
    return rule_of(
        f"{home.room(room_id).name} shaded",
        "rule",
        hot,
        [Blinds(target_ids=blinds, down=0.5), Blinds(target_ids=blinds, down=0.8, wait_s=900)],
        reading="is",
        for_s=900,
        only_while=((Hours(from_min=540, until_min=1260),),),
        put_back=PutBack(when=((replace(hot, how="under", value=24.0, hysteresis=0.0),),), for_s=1800, at_min=1290),
        intent="Shade before the room is hot, in two steps so that nobody sits in the dark at once.",
        limits=RuleLimits(min_on_s=1800, min_off_s=1800, most_a_day=4),
    )
