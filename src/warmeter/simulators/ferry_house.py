"""Ferry House, a demo home of two people with their witnesses: described rooms, electric heaters, four weeks of logs."""

from dataclasses import replace
from datetime import date

from warmeter.core.home.document import Home, Place
from warmeter.core.home.plant import Heater, Source
from warmeter.core.home.timetables import ChangePoint, DayKind, every_day
from warmeter.core.home.zones import Zone
from warmeter.simulators.demo import LEVELS
from warmeter.simulators.ferry_energy import ferry_meter_csv, ferry_tariffs
from warmeter.simulators.household import household, log_csv
from warmeter.simulators.household_distance import with_distances

FERRY_ID, SEED, COMMUTE_SEED = "ferry-house", 24, 29
FILE_NAME = "ferry-house-people.csv"
PRICED_TO = date(2026, 3, 31)
HEARD_UNTIL_MS = 1_769_990_400_000  # 2026-02-02 00:00 UTC
HEAT_W = {"hall": 800.0, "kitchen": 1200.0, "parlour": 2000.0, "study": 1200.0, "bedroom": 1500.0, "bath": 1000.0}


def ferry_house() -> tuple[Home, str]:
    """Return the home with its people, and what was heard of them over four weeks as a log."""
    made = with_distances(household(SEED), COMMUTE_SEED)
    home = made.home
    day = (
        ChangePoint(start_min=390, level_id="lv-in-use"),
        ChangePoint(start_min=510, level_id="lv-out"),
        ChangePoint(start_min=1020, level_id="lv-in-use"),
        ChangePoint(start_min=1350, level_id="lv-asleep"),
    )
    return (
        replace(
            home,
            id=FERRY_ID,
            name="Ferry House",
            place=Place(latitude_deg=38.7, longitude_deg=-9.1, label="a made-up quay"),
            time_zone="Europe/Lisbon",
            country="PT",
            levels=LEVELS,
            day_kinds=(
                DayKind(id="workday", name="Workday", weekdays=(0, 1, 2, 3, 4)),
                DayKind(id="day-off", name="Day off", weekdays=(5, 6)),
            ),
            sources=(Source(id="so-mains", name="Electricity", kind="direct"),),
            heaters=tuple(
                Heater(
                    id=f"he-{room.id}",
                    room_id=room.id,
                    name=f"{room.name} panel",
                    kind="electric_panel",
                    source_id="so-mains",
                    rated_heat_w=HEAT_W[room.id],
                )
                for room in home.rooms
            ),
            zones=tuple(
                Zone(
                    id=f"zo-{room.id}", name=room.name, room_ids=(room.id,), timetables=every_day(f"tt-{room.id}", *day)
                )
                for room in home.rooms
            ),
            tariffs=ferry_tariffs(PRICED_TO),
        ),
        log_csv(made.heard, home),
    )


def ferry_meter() -> str:
    """Return the home's meter over the thirteen months before its people's log ends."""
    return ferry_meter_csv("Europe/Lisbon", HEARD_UNTIL_MS)
