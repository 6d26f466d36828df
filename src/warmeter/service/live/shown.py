"""What devices show of themselves: the newest readings that can confirm a command, whatever they came over."""

from collections.abc import Iterable
from dataclasses import dataclass

from warmeter.core.home.document import Home
from warmeter.core.home.links import CommandMapping
from warmeter.core.live.command_run import ShownState
from warmeter.core.units import to_stored
from warmeter.service.app import App
from warmeter.store.live_readings import HeardReading
from warmeter.store.readings import StoredSeries


@dataclass(frozen=True, slots=True, kw_only=True)
class ConfirmingSeries:
    """The series that confirm each command, by its mapping."""

    series: dict[str, tuple[StoredSeries, ...]]

    @property
    def ids(self) -> set[int]:
        """The numbers of all of them."""
        return {each.id for row in self.series.values() for each in row}

    def shown(self, mapping_id: str, heard: Iterable[HeardReading]) -> list[ShownState]:
        """Return what was heard that can confirm a command, in order of hearing."""
        records = {each.id: each.record for each in self.series.get(mapping_id, ())}
        return [
            ShownState(each.real_ms, to_stored(each.value, quantity=record.quantity, unit=record.unit))
            for each in heard
            if (record := records.get(each.series_id)) is not None
        ]


def confirming_series(app: App, home: Home) -> ConfirmingSeries:
    """Return which series confirm each command of a home: of the target itself, of its device, or of its witness."""
    every = app.readings.series(home.id)
    return ConfirmingSeries(
        series={
            mapping.id: tuple(
                each
                for each in every
                if each.record.quantity == mapping.confirm_quantity
                and each.record.subject in confirming_subjects(home, mapping)
            )
            for mapping in home.command_mappings
            if mapping.confirm_quantity
        }
    )


def confirming_subjects(home: Home, mapping: CommandMapping) -> set[str]:
    """Return the parts of a home whose readings can confirm a command."""
    found = {mapping.target_id}
    for device in home.devices:
        if device.drives_id == mapping.target_id or device.id == mapping.target_id:
            found |= {device.id, *([device.witness_id] if device.witness_id else [])}
            if mapping.witness_from is not None and device.room_id is not None:
                # A room's warmth or a plug's power, where no witness is named, tells of what stands in it.
                found |= set() if device.witness_id else {device.room_id}
    return found
