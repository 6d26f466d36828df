"""Setpoints that a person turned at the device itself: kept as a change by hand of its zone."""

from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass

from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.links import CommandMapping
from warmeter.core.home.zones import Zone
from warmeter.core.live.turned_together import FOLLOWS_MS, WAIT_MS, begun_anew
from warmeter.core.timetable.manual_overrides import HandEnd
from warmeter.core.units import MIN_PER_DAY
from warmeter.service.app import App, Person
from warmeter.service.live.latest_values import LatestValue, LatestValues
from warmeter.service.live.shown import confirming_subjects
from warmeter.service.timetable.manual_overrides import changes_of, lay_by_hand
from warmeter.store.live_commands import KeptCommand

AT_DEVICE = Person("at the device")
LONGEST = HandEnd(kind="for", minutes=30 * MIN_PER_DAY)  # no longer than the zone allows


@dataclass(frozen=True, slots=True)
class _Turned:
    command: KeptCommand
    told: LatestValue
    zone: Zone


class TurnedSetpoints:
    """Looks for setpoints that read otherwise than they were confirmed, of one home.

    A heater that several devices tell of, one that never confirmed, and what lies outside the zone's range by hand
    are left alone.
    """

    def __init__(self) -> None:
        self._seen_ms: dict[str, int] = {}

    def keep(
        self,
        app: App,
        home: Home,
        revision: int,
        newest: Mapping[tuple[str, str], KeptCommand],
        values: LatestValues,
        real_ms: int,
    ) -> frozenset[str]:
        """Keep a change by hand for each zone whose setpoint was turned; return the targets to be asked again instead.

        Parameters
        ----------
        newest : mapping
            The last command of each target and what it does.
        real_ms : int
            Now, by the machine's clock [ms UTC].
        """
        turned = _turned(home, newest, values)
        earlier = {target: at_ms for target, at_ms in self._seen_ms.items() if real_ms - at_ms < FOLLOWS_MS}
        self._seen_ms = earlier | {target: self._seen_ms.get(target, real_ms) for target in turned}
        confirmed = sum(
            command.run.answered_ms is not None for (_, does), command in newest.items() if does == "setpoint"
        )
        anew = begun_anew(self._seen_ms, confirmed) & turned.keys()
        done: set[str] = set()
        for target, each in turned.items():
            is_due = target not in anew and real_ms - self._seen_ms[target] >= WAIT_MS
            if is_due and each.zone.id not in done and not _is_kept(app, home, each.zone.id, each.told):
                done.add(each.zone.id)
                _lay(app, home, revision, each)
        return anew


def _turned(home: Home, newest: Mapping[tuple[str, str], KeptCommand], values: LatestValues) -> dict[str, _Turned]:
    """Return the targets whose device tells another setpoint than it had confirmed."""
    mappings = {mapping.id: mapping for mapping in home.command_mappings}
    found: dict[str, _Turned] = {}
    for command in newest.values():
        mapping = mappings.get(command.run.mapping_id)
        if mapping is None or command.does != "setpoint" or command.run.answered_ms is None:
            continue
        cooled = newest.get((command.run.target_id, "cooling"))
        if cooled is not None and cooled.at_ms >= command.at_ms:
            continue  # it tells the limit that it cools to
        told = _told(home, mapping, values)
        if told is None or told.real_ms <= command.run.answered_ms:
            continue
        if command.run.state != "confirmed" or abs(told.value - command.run.value) <= mapping.tolerance:
            continue
        zone = next((zone for zone in home.zones if command.run.target_id in home.following(zone)), None)
        if zone is not None:
            found[command.run.target_id] = _Turned(command, told, zone)
    return found


def _lay(app: App, home: Home, revision: int, turned: _Turned) -> None:
    """Keep a change by hand, where the zone allows it."""
    with suppress(HomeError):
        lay_by_hand(
            app,
            home,
            revision,
            turned.zone.id,
            AT_DEVICE,
            at_ms=turned.told.at_ms,
            end=LONGEST,
            value_c=turned.told.value,
            reason="turned at the device",
        )


def _told(home: Home, mapping: CommandMapping, values: LatestValues) -> LatestValue | None:
    if mapping.confirm_quantity != "setpoint":
        return None
    rows = [values.values.get(("setpoint", subject)) for subject in confirming_subjects(home, mapping)]
    heard = [row for row in rows if row is not None]
    return heard[0] if len(heard) == 1 else None


def _is_kept(app: App, home: Home, zone_id: str, told: LatestValue) -> bool:
    """Return whether a zone's last change by hand is this one, or came after it."""
    mine = [change for _, change in changes_of(app, home.id) if change.zone_id == zone_id]
    if not mine:
        return False
    last = mine[-1]
    is_same = not last.is_release and abs(last.value_c - told.value) < 0.01
    is_over = last.until_ms is not None and last.until_ms <= told.at_ms
    return last.at_ms >= told.at_ms or (is_same and not is_over)
