"""What one column could be: sure only where words, unit, values and this home agree."""

import unittest
from collections.abc import Sequence
from datetime import datetime, timedelta

from warmeter.core.readings.column_proposal import ColumnProposal, proposed_column
from warmeter.core.readings.column_subjects import LogSubject, LogSubjects
from warmeter.core.readings.column_values import column_values
from warmeter.core.readings.column_words import heading_words

ROOMS = (LogSubject(id="k", name="Kitchen", kind="room"), LogSubject(id="lr", name="Living room", kind="room"))
SENSOR = LogSubject(
    id="ks",
    name="Kitchen sensor",
    kind="device",
    device_kind="air_sensor",
    room_id="k",
    measures=("room_temperature",),
    has_battery=True,
)
HOME = LogSubjects(rooms=ROOMS, machines=(LogSubject(id="w", name="Washer", kind="machine"),), devices=(SENSOR,))
TEMPERATURES = [f"{19 + k % 7 / 10:.1f}" for k in range(20)]


def proposed(heading: str, cells: Sequence[str], minutes: int = 60) -> ColumnProposal:
    """Return what a column of cells, a step apart, could be in a home of two rooms."""
    walls = [datetime(2026, 1, 5) + timedelta(minutes=minutes * k) for k in range(len(cells))]
    return proposed_column(1, heading, column_values(cells, walls, "."), HOME)


class Sure(unittest.TestCase):
    def test_names_written_apart_together_or_with_signs_are_the_same(self) -> None:
        for heading in (
            "livingroom_temp_c",
            "Living room: temperature (°C)",
            "sensor.living_room.temperature °C",
            "LivingRoomTemp [C]",
        ):
            found = proposed(heading, TEMPERATURES)
            with self.subTest(heading):
                self.assertEqual(
                    (found.column.quantity, found.column.unit, found.column.subject), ("room_temperature", "°C", "lr")
                )
                self.assertFalse(found.asks, found.why)

    def test_a_unit_that_is_not_written_is_told_by_the_numbers_where_they_leave_no_other(self) -> None:
        fahrenheit = proposed("Kitchen temperature", [f"{66 + k % 7 / 10:.1f}" for k in range(20)])
        self.assertEqual((fahrenheit.column.unit, fahrenheit.certainty), ("°F", "sure"))
        self.assertEqual(proposed("Kitchen temperature", TEMPERATURES).column.unit, "°C")
        outdoors = proposed("Outdoor temperature", ["31.0", "38.5", "44.0"])
        self.assertEqual((outdoors.certainty, outdoors.units), ("likely", ("°C", "°F")))

    def test_cells_may_carry_the_unit(self) -> None:
        self.assertEqual(proposed("Kitchen temp", [f"{t} °C" for t in TEMPERATURES]).certainty, "sure")

    def test_a_counter_is_told_from_the_energy_of_steps(self) -> None:
        counting = [f"{900 + 0.2 * k:.1f}" for k in range(20)]
        a_day = [f"{0.1 * (k % 24):.1f}" for k in range(72)]
        steps = [f"{0.1 * (k % 5):.1f}" for k in range(20)]
        # Used in the night hours less: each day falls back at midnight, but it hardly ever rises.
        profile = [f"{0.03 if k % 24 < 6 else 0.4}" for k in range(72)]
        for cells, kind in ((counting, "counter"), (a_day, "daily"), (steps, "sum"), (profile, "sum")):
            self.assertEqual(proposed("Washer kWh", cells).column.kind, kind)


class Asked(unittest.TestCase):
    def test_words_that_nobody_can_place_are_asked(self) -> None:
        for heading in (
            "Kitchen fridge temperature °C",
            "Attic temperature °C",
            "Kitchen and Living room °C",
            "first floor temp",
        ):
            with self.subTest(heading):
                self.assertTrue(proposed(heading, TEMPERATURES).asks)

    def test_a_room_with_another_quantity_is_never_its_temperature(self) -> None:
        cells = [str(18 + k % 9) for k in range(20)]
        for heading in (
            "Kitchen battery voltage",
            "Kitchen link quality",
            "Kitchen V",
            "Kitchen score",
            "Kitchen radiator",
        ):
            found = proposed(heading, cells)
            with self.subTest(heading):
                self.assertTrue(found.asks or not found.column.quantity, found.why)

    def test_a_unit_that_contradicts_words_or_values_leaves_a_column_open(self) -> None:
        self.assertTrue(proposed("Kitchen temperature °C", ["66.0", "68.5", "67.0"]).asks)
        self.assertEqual(proposed("Kitchen humidity °C", TEMPERATURES).certainty, "open")

    def test_power_between_watts_and_kilowatts_is_asked(self) -> None:
        self.assertTrue(proposed("Washer power", ["0.1", "2.1", "0.0"]).asks)
        self.assertFalse(proposed("Washer power", ["1", "2100", "3"]).asks)

    def test_what_holds_no_readings_is_left_out_unasked(self) -> None:
        for heading, cells in (("Kitchen", ["", "unavailable"]), ("row", ["1", "2"]), ("Kitchen", ["ok", "fine"])):
            found = proposed(heading, cells)
            self.assertFalse(found.column.quantity or found.asks)


class Words(unittest.TestCase):
    def test_the_unit_is_taken_out_of_the_words(self) -> None:
        for heading, unit in (
            ("Temp (°F)", "°F"),
            ("power_w", "W"),
            ("Energy kWh", "kWh"),
            ("flow l/min", "l/min"),
            ("Temp°C", "°C"),
            ("K", ""),
        ):
            self.assertEqual(heading_words(heading).unit, unit, heading)
        self.assertEqual(heading_words("Gas m³").foreign_unit, "m³")


if __name__ == "__main__":
    unittest.main()
