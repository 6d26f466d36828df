"""Homes that read like speech, for tests."""

from collections.abc import Callable
from dataclasses import replace
from datetime import date
from decimal import Decimal

from warmeter.core.edits.edit import Command
from warmeter.core.home.document import Home, Place
from warmeter.core.home.machines import Appliance
from warmeter.core.home.plant import Heater, Source
from warmeter.core.home.rooms import Described, Room
from warmeter.core.home.tariffs import Rate, RateHours, Tariff
from warmeter.core.home.timetables import ChangePoint, every_day
from warmeter.core.home.zones import Level, Zone

LEVELS = (
    Level(id="in-use", name="In use", heating_c=20.0),
    Level(id="asleep", name="Asleep", heating_c=16.0),
    Level(id="idle", name="Idle", heating_c=12.0),
)


def small_home(zone: str = "Europe/London", currency: str = "GBP") -> Home:
    """Return one room with a panel heater, a day of three blocks, two rates and a machine."""
    return Home(
        id="home1",
        name="Reed House",
        place=Place(latitude_deg=52.0, longitude_deg=0.0),
        time_zone=zone,
        country="GB",
        currency=currency,
        rooms=(
            Room(
                id="study",
                name="Study",
                described=Described(floor_area_m2=20.0),
                height_m=2.5,
                built="1950_1977",
                mass_class="medium",
            ),
        ),
        sources=(Source(id="mains", name="Mains", kind="direct"),),
        heaters=(
            Heater(
                id="panel", room_id="study", name="Panel", kind="electric_panel", source_id="mains", rated_heat_w=2000.0
            ),
        ),
        levels=LEVELS,
        zones=(
            Zone(
                id="z-study",
                name="Study",
                room_ids=("study",),
                timetables=every_day(
                    "tt1",
                    ChangePoint(start_min=0, level_id="asleep"),
                    ChangePoint(start_min=420, level_id="in-use"),
                    ChangePoint(start_min=1320, level_id="asleep"),
                ),
            ),
        ),
        tariffs=(
            Tariff(
                id="t",
                name="Two rates",
                currency=currency,
                valid_to=date(2026, 12, 31),
                rates=(
                    Rate(name="night", hours=RateHours(from_min=0, to_min=360), price_per_unit=Decimal("0.10")),
                    Rate(name="day", price_per_unit=Decimal("0.30")),
                ),
            ),
        ),
        appliances=(Appliance(id="washer", name="Washer"),),
    )


def with_day(home: Home, *points: ChangePoint) -> Home:
    """Return a home whose first zone has another day."""
    return replace(home, zones=(replace(home.zones[0], timetables=every_day("tt1", *points)), *home.zones[1:]))


def becoming(home: Home) -> Callable[[Home], Home]:
    """Return an edit that puts a home in the place of what stands."""
    return lambda _: home


def done(home: Home, *commands: Command) -> Home:
    """Return a home after commands, in turn."""
    for command in commands:
        home = command.edit(home).home
    return home
