"""Weir Cottage: a made-up cottage beside a river, panel heaters, a plunge tub, guests at weekends."""

from datetime import date
from decimal import Decimal

from warmeter.core.home.devices import Chain, Command, Device, Mode
from warmeter.core.home.document import Appliance, Design, Home, Place, Tariff
from warmeter.core.home.part import Note, Spot
from warmeter.core.home.plant import Heater, Source
from warmeter.core.home.rooms import Opening, Room, RoomUse, Storey, Thing
from warmeter.core.home.zones import ChangePoint, CountedSensor, GuardLimits, Level, Sensing, Zone
from warmeter.core.plan.shape import Rect, Side
from warmeter.core.tariff.structure import Rate

_FOUND = date(2026, 2, 14)
_ROOMS: tuple[tuple[str, str, RoomUse, str, tuple[float, float, float, float], float], ...] = (
    ("parlour", "Parlour", "living", "wc-ground", (0.0, 0.0, 5.0, 4.2), 20.0),
    ("kitchen", "Kitchen", "kitchen", "wc-ground", (5.0, 0.0, 3.6, 4.2), 19.0),
    ("tub", "Tub room", "bath", "wc-ground", (8.6, 0.0, 3.0, 4.2), 22.0),
    ("guest", "Guest room", "sleeping", "wc-upper", (0.0, 0.0, 5.0, 4.2), 18.0),
    ("box", "Box room", "store", "wc-upper", (5.0, 0.0, 3.6, 4.2), 12.0),
)
_OPENINGS: tuple[tuple[str, str, str, Side, float, float, float], ...] = (
    ("parlour", "window", "river", "up", 2.5, 1.6, 1.2),
    ("parlour", "door", "garden", "left", 3.4, 0.9, 2.0),
    ("kitchen", "window", "river", "up", 1.8, 1.0, 1.0),
    ("kitchen", "door", "parlour", "left", 3.4, 0.8, 2.0),
    ("tub", "window", "river", "up", 1.5, 0.8, 0.6),
    ("tub", "door", "kitchen", "left", 3.2, 0.8, 2.0),
    ("guest", "window", "river", "up", 2.5, 1.2, 1.0),
    ("box", "window", "river", "up", 1.8, 0.8, 0.8),
    ("box", "door", "guest", "left", 3.4, 0.8, 2.0),
)
_PANELS: tuple[tuple[str, float, tuple[float, float]], ...] = (
    ("parlour", 2500.0, (2.5, 4.1)),
    ("kitchen", 2000.0, (2.4, 4.1)),
    ("tub", 2000.0, (1.5, 4.1)),
    ("guest", 2000.0, (2.5, 4.1)),
    ("box", 1000.0, (1.8, 4.1)),
)


def _panel(room: str, watts: float, place: tuple[float, float]) -> Heater:
    return Heater(
        id=f"wc-panel-{room}",
        room_id=f"wc-{room}",
        name=f"{room.capitalize()} panel heater",
        kind="electric_panel",
        source_id="wc-mains",
        rated_heat_w=watts,
        clearance_m=0.4,
        length_m=0.9,
        at=Spot(x_m=place[0], y_m=place[1], z_m=0.3),
    )


def _relay(room: str) -> Device:
    return Device(
        id=f"wc-relay-{room}",
        name=f"{room.capitalize()} heater relay",
        kind="relay",
        bus="868 MHz radio",
        room_id=f"wc-{room}",
        at=Spot(x_m=0.6, y_m=4.0, z_m=0.4),
        drives_id=f"wc-panel-{room}",
        guard_c=8.0,
        guard_read="on its label",
        guard_read_on=_FOUND,
        child_lock="on",
        works_without_controller=True,
        modes=(Mode(word="off", does="keeps 8 °C by its own sensor"),),
        commands=(
            Command(way="own_buttons", by="guests", state="shut"),
            Command(way="network", by="Warmeter", state="wanted"),
        ),
    )


def _sensor(room: str, place: tuple[float, float], *, power: str = "battery") -> Device:
    return Device(
        id=f"wc-s-{room}",
        name=f"{room.capitalize()} sensor",
        kind="air_sensor",
        bus="868 MHz radio",
        room_id=f"wc-{room}",
        at=Spot(x_m=place[0], y_m=place[1], z_m=1.4),
        power=power,  # type: ignore[arg-type]
        battery_new=date(2025, 11, 30),
        battery_pct=88,
        battery_read_on=_FOUND,
        quantities=("room_temperature",),
        works_without_controller=True,
    )


def cottage() -> Home:
    """Return Weir Cottage as surveyed, with every fault mended."""
    levels = (
        Level(id="wc-in-use", name="In use", heating_c=19.5),
        Level(id="wc-asleep", name="Asleep", heating_c=16.0),
        Level(id="wc-out", name="Out", heating_c=14.0),
        Level(id="wc-idle", name="Idle", heating_c=9.0),
    )
    lived = (
        ChangePoint(start_min=0, level_id="wc-asleep"),
        ChangePoint(start_min=450, level_id="wc-in-use"),
        ChangePoint(start_min=1380, level_id="wc-asleep"),
    )
    empty = (ChangePoint(start_min=0, level_id="wc-idle"),)
    zones = tuple(
        Zone(
            id=f"wc-z-{room}",
            name=name,
            room_ids=(f"wc-{room}",),
            day=empty if room == "box" else lived,
            sensing=(Sensing(rule="one", sensors=(CountedSensor(device_id=f"wc-s-{room}"),)),),
            low_c=8.0,
            high_c=23.0,
            off_means="relay keeps 8 °C by itself",
            off_c=8.0,
        )
        for room, name in (
            ("parlour", "Parlour"),
            ("kitchen", "Kitchen"),
            ("tub", "Tub room"),
            ("guest", "Guest room"),
            ("box", "Box room"),
        )
    )
    return Home(
        id="weir-cottage",
        name="Weir Cottage",
        place=Place(latitude_deg=50.9, longitude_deg=14.8, label="beside a river"),
        zone="Europe/Prague",
        country="CZ",
        currency="EUR",
        guard=GuardLimits(low_c=8.0, high_c=30.0),
        design=Design(outdoor_c=-12.0, annual_mean_c=8.0, ground_factor=1.15, north_deg=350.0),
        storeys=(
            Storey(id="wc-ground", name="Ground floor", level=0, height_m=2.4),
            Storey(id="wc-upper", name="Upper floor", level=1, height_m=2.2),
        ),
        rooms=tuple(
            Room(
                id=f"wc-{key}",
                name=name,
                height_m=2.4 if storey == "wc-ground" else 2.2,
                built="1995_2006",
                mass_class="medium",
                use=use,
                storey_id=storey,
                rects=(Rect(x_m=x, y_m=y, width_m=width, depth_m=depth),),
                design_c=wanted,
            )
            for key, name, use, storey, (x, y, width, depth), wanted in _ROOMS
        ),
        openings=tuple(
            Opening(
                id=f"wc-{room}-{key}",
                room_id=f"wc-{room}",
                kind="door" if kind == "door" else "window",
                side=side,
                along_m=along,
                width_m=width,
                height_m=height,
                sill_m=0.9 if kind == "window" else 0.0,
            )
            for room, kind, key, side, along, width, height in _OPENINGS
        ),
        things=(
            Thing(
                id="wc-pipe",
                room_id="wc-tub",
                name="Pipe to the tub",
                kind="water_pipe",
                at=Spot(x_m=2.7, y_m=1.0, z_m=0.2),
                width_m=0.5,
                depth_m=0.1,
            ),
            Thing(
                id="wc-pump",
                room_id="wc-tub",
                name="Tub pump",
                kind="pump",
                at=Spot(x_m=2.4, y_m=1.8, z_m=0.2),
                width_m=0.4,
                depth_m=0.4,
            ),
            Thing(
                id="wc-stairs",
                room_id="wc-kitchen",
                name="Stairs",
                kind="stairs",
                at=Spot(x_m=2.6, y_m=1.6, z_m=0.0),
                width_m=1.6,
                depth_m=0.8,
            ),
            Thing(
                id="wc-table",
                room_id="wc-kitchen",
                name="Table",
                kind="furniture",
                at=Spot(x_m=1.2, y_m=1.4, z_m=0.0),
                width_m=1.2,
                depth_m=0.8,
            ),
            Thing(
                id="wc-curtain",
                room_id="wc-guest",
                name="Guest curtain",
                kind="curtain",
                at=Spot(x_m=2.5, y_m=0.1, z_m=1.2),
                width_m=1.6,
                depth_m=0.1,
            ),
        ),
        sources=(Source(id="wc-mains", name="Mains", kind="direct", most_w=11_000.0),),
        heaters=tuple(_panel(*row) for row in _PANELS),
        devices=(
            _sensor("parlour", (4.9, 3.0)),
            _sensor("kitchen", (0.1, 2.0)),
            _sensor("tub", (0.1, 1.0), power="mains_and_battery"),
            _sensor("guest", (4.9, 3.0)),
            _sensor("box", (0.1, 1.0)),
            *(_relay(room) for room, _, _ in _PANELS),
            Device(
                id="wc-frost",
                name="Pipe probe",
                kind="floor_probe",
                bus="wired",
                room_id="wc-tub",
                at=Spot(x_m=2.8, y_m=1.1, z_m=0.2),
                works_without_controller=True,
            ),
            Device(
                id="wc-leak",
                name="Tub leak sensor",
                kind="leak_sensor",
                bus="wired",
                room_id="wc-tub",
                at=Spot(x_m=2.2, y_m=2.4, z_m=0.0),
                power="mains_and_battery",
                works_without_controller=True,
            ),
            Device(
                id="wc-water",
                name="Water stop",
                kind="water_valve",
                bus="wired",
                room_id="wc-kitchen",
                at=Spot(x_m=0.4, y_m=0.4, z_m=0.3),
                power="mains_and_battery",
                works_without_controller=True,
            ),
            Device(
                id="wc-pump-switch",
                name="Tub pump switch",
                kind="pump_switch",
                bus="868 MHz radio",
                room_id="wc-tub",
                at=Spot(x_m=2.4, y_m=2.0, z_m=0.8),
                works_without_controller=True,
                commands=(Command(way="own_buttons", by="guests", state="wanted"),),
            ),
            Device(
                id="wc-porch",
                name="Porch lamp",
                kind="lamp_switch",
                bus="868 MHz radio",
                room_id="wc-kitchen",
                at=Spot(x_m=3.2, y_m=3.0, z_m=2.2),
                fed_by_id="wc-wall-switch",
                works_without_controller=True,
            ),
            Device(
                id="wc-wall-switch",
                name="Porch wall switch",
                kind="wall_switch",
                room_id="wc-kitchen",
                at=Spot(x_m=3.4, y_m=3.3, z_m=1.1),
                child_lock="on",
                works_without_controller=True,
            ),
        ),
        chains=(
            Chain(id="wc-c-frost", name="Frost at the pipe", kind="frost", device_ids=("wc-frost", "wc-relay-tub")),
            Chain(id="wc-c-leak", name="Water in the tub room", kind="leak", device_ids=("wc-leak", "wc-water")),
        ),
        levels=levels,
        zones=zones,
        tariffs=(
            Tariff(
                id="wc-tariff",
                name="Two rates, cheap nights",
                currency="EUR",
                standing_per_day=Decimal("0.28"),
                rates=(
                    Rate(name="night", from_min=1320, to_min=360, price_per_kwh=Decimal("0.13")),
                    Rate(name="day", price_per_kwh=Decimal("0.29")),
                ),
                valid_from=date(2026, 1, 1),
            ),
        ),
        appliances=(
            Appliance(id="wc-tub-heat", name="Plunge tub", earliest_min=0, latest_end_min=1440, start_min=180),
        ),
        notes=(
            Note(
                id="wc-n-pipe",
                about_id="wc-pipe",
                text="Ends under the outside wall; drains at the low cock",
                reason="froze in an earlier winter",
                on=_FOUND,
            ),
        ),
    )
