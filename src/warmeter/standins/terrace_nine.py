"""Terrace Nine: a made-up flat in a hot inland town, tall west windows, split units worked by infra-red."""

from datetime import date
from decimal import Decimal

from warmeter.core.home.devices import Chain, Command, Device, Mode
from warmeter.core.home.document import Appliance, Design, Home, Place, Tariff
from warmeter.core.home.part import Spot
from warmeter.core.home.plant import FanStep, Heater, Source, SplitUnit
from warmeter.core.home.rooms import Opening, Overrule, Room, RoomUse, Storey, Thing
from warmeter.core.home.zones import ChangePoint, CountedSensor, GuardLimits, Level, Sensing, Zone
from warmeter.core.plan.shape import Rect, Side
from warmeter.core.tariff.structure import Rate

_FOUND = date(2026, 6, 2)
_FLATS = "flats above and below, as warm as this one"
_ROOMS: tuple[tuple[str, str, RoomUse, tuple[float, float, float, float], float], ...] = (
    ("living", "Living room", "living", (0.0, 0.0, 6.0, 5.2), 21.0),
    ("bedroom", "Bedroom", "sleeping", (0.0, 5.2, 4.4, 4.0), 19.0),
    ("study", "Study", "office", (6.0, 0.0, 3.4, 4.0), 20.0),
    ("kitchen", "Kitchen", "kitchen", (6.0, 4.0, 3.4, 2.8), 19.0),
    ("bath", "Bath", "bath", (6.0, 6.8, 3.4, 2.4), 22.0),
    ("hall", "Hall", "hall", (4.4, 5.2, 1.6, 4.0), 18.0),
    ("next", "Flat next door", "living", (0.0, 9.2, 4.4, 1.2), 20.0),
)
_OPENINGS: tuple[tuple[str, str, str, Side, float, float, float, float, float], ...] = (
    # room, kind, id, side, along, wide, high, sill, shade
    ("living", "window", "west-1", "left", 1.4, 1.4, 2.3, 0.2, 0.2),
    ("living", "window", "west-2", "left", 3.8, 1.4, 2.3, 0.2, 0.2),
    ("bedroom", "window", "west", "left", 1.0, 1.4, 2.3, 0.2, 0.2),
    ("study", "window", "north", "up", 1.7, 1.2, 1.5, 0.8, 1.0),
    ("bath", "window", "south", "down", 1.7, 0.6, 0.6, 1.6, 1.0),
    ("living", "door", "hall", "down", 5.2, 0.9, 2.1, 0.0, 1.0),
    ("hall", "door", "stairs", "down", 0.8, 0.9, 2.1, 0.0, 1.0),
    ("hall", "door", "bedroom", "left", 1.0, 0.9, 2.1, 0.0, 1.0),
    ("kitchen", "door", "hall", "left", 2.0, 0.9, 2.1, 0.0, 1.0),
)


def _room(key: str, name: str, use: RoomUse, rect: tuple[float, float, float, float], wanted: float) -> Room:
    x, y, width, depth = rect
    return Room(
        id=f"tn-{key}",
        name=name,
        height_m=2.9,
        built="1978_1994",
        mass_class="heavy",
        use=use,
        condition="neighbour" if key == "next" else "heated" if key in ("living", "bedroom", "study") else "unheated",
        storey_id="tn-floor",
        rects=(Rect(x_m=x, y_m=y, width_m=width, depth_m=depth),),
        design_c=wanted,
        overrules=(
            Overrule(figure="roof_m2", value=0.0, reason=_FLATS, on=_FOUND),
            Overrule(figure="ground_m2", value=0.0, reason=_FLATS, on=_FOUND),
        ),
    )


def _split(room: str, heat_w: float, cold_w: float, place: tuple[float, float]) -> Heater:
    return Heater(
        id=f"tn-split-{room}",
        room_id=f"tn-{room}",
        name=f"{room.capitalize()} split unit",
        kind="split_unit",
        source_id="tn-mains",
        rated_heat_w=heat_w,
        band_k=1.0,
        min_on_min=5,
        min_off_min=5,
        step_k=1.0,
        length_m=0.8,
        at=Spot(x_m=place[0], y_m=place[1], z_m=2.4),
        split=SplitUnit(
            cop=3.8,
            cooling_w=cold_w,
            eer=3.4,
            fan_steps=(
                FanStep(word="quiet", share=0.4),
                FanStep(word="low", share=0.6),
                FanStep(word="high", share=1.0),
            ),
        ),
    )


def _sender(room: str, place: tuple[float, float]) -> Device:
    return Device(
        id=f"tn-ir-{room}",
        name=f"{room.capitalize()} infra-red sender",
        kind="infrared_sender",
        bus="infra-red, house network",
        room_id=f"tn-{room}",
        at=Spot(x_m=place[0], y_m=place[1], z_m=1.8),
        is_two_way=False,
        witness_id=f"tn-plug-{room}",
        drives_id=f"tn-split-{room}",
        modes=(Mode(word="auto", does="heats and cools as it likes"), Mode(word="dry", does="cools at low fan")),
        commands=(
            Command(way="remote", by="the household", state="wanted"),
            Command(way="network", by="Warmeter", state="wanted"),
        ),
    )


def _plug(room: str, place: tuple[float, float]) -> Device:
    return Device(
        id=f"tn-plug-{room}",
        name=f"{room.capitalize()} unit's meter",
        kind="plug",
        bus="house network",
        room_id=f"tn-{room}",
        at=Spot(x_m=place[0], y_m=place[1], z_m=2.2),
        quantities=("electric_w",),
        works_without_controller=True,
    )


def _sensor(key: str, name: str, room: str, place: tuple[float, float]) -> Device:
    return Device(
        id=f"tn-{key}",
        name=name,
        kind="air_sensor",
        bus="2.4 GHz radio",
        room_id=f"tn-{room}",
        at=Spot(x_m=place[0], y_m=place[1], z_m=1.4),
        power="battery",
        battery_new=date(2026, 3, 20),
        battery_pct=91,
        battery_read_on=_FOUND,
        quantities=("room_temperature",),
        works_without_controller=True,
    )


def _blind(room: str, key: str, place: tuple[float, float]) -> Device:
    return Device(
        id=f"tn-blind-{key}",
        name=f"{room.capitalize()} blind {key[-1]}",
        kind="blind_motor",
        bus="433 MHz radio",
        room_id=f"tn-{room}",
        at=Spot(x_m=place[0], y_m=place[1], z_m=2.5),
        is_two_way=False,
        witness_id=f"tn-contact-{room}",
        commands=(Command(way="remote", by="the household", state="wanted"),),
    )


def _contact(room: str, place: tuple[float, float]) -> Device:
    return Device(
        id=f"tn-contact-{room}",
        name=f"{room.capitalize()} blind end contact",
        kind="contact",
        bus="2.4 GHz radio",
        room_id=f"tn-{room}",
        at=Spot(x_m=place[0], y_m=place[1], z_m=0.3),
        power="battery",
        battery_new=date(2026, 3, 20),
        works_without_controller=True,
    )


def _tariff() -> Tariff:
    """Return a price for groups of hours, as published a day ahead on an ordinary summer's day."""
    hours = ((0, 360, "0.11"), (360, 600, "0.19"), (600, 900, "0.08"), (900, 1080, "0.16"), (1080, 1320, "0.34"))
    rates = tuple(
        Rate(name=f"{a // 60:02d} to {b // 60:02d} h", from_min=a, to_min=b, price_per_kwh=Decimal(price))
        for a, b, price in hours
    )
    return Tariff(
        id="tn-tariff",
        name="Hourly prices, typical summer",
        currency="EUR",
        standing_per_day=Decimal("0.31"),
        rates=(*rates, Rate(name="late evening", price_per_kwh=Decimal("0.17"))),
        valid_from=date(2026, 1, 1),
    )


def terrace() -> Home:
    """Return Terrace Nine as surveyed, with every fault mended."""
    levels = (
        Level(id="tn-in-use", name="In use", heating_c=20.5, cooling_c=25.5),
        Level(id="tn-asleep", name="Asleep", heating_c=17.5, cooling_c=26.0),
        Level(id="tn-out", name="Out", heating_c=16.0, cooling_c=29.0),
        Level(id="tn-idle", name="Idle", heating_c=14.0, cooling_c=30.0),
    )
    day = (
        ChangePoint(start_min=0, level_id="tn-asleep"),
        ChangePoint(start_min=420, level_id="tn-in-use"),
        ChangePoint(start_min=540, level_id="tn-out"),
        ChangePoint(start_min=1020, level_id="tn-in-use"),
        ChangePoint(start_min=1410, level_id="tn-asleep"),
    )
    zones = tuple(
        Zone(
            id=f"tn-z-{room}",
            name=name,
            room_ids=(f"tn-{room}",),
            day=day,
            sensing=(Sensing(rule="one", sensors=(CountedSensor(device_id=f"tn-s-{room}"),)),),
            low_c=14.0,
            high_c=25.0,
            off_means="the unit rests; its lamp stays on, 3 W",
        )
        for room, name in (("living", "Living room"), ("bedroom", "Bedroom"), ("study", "Study"))
    )
    return Home(
        id="terrace-nine",
        name="Terrace Nine",
        place=Place(latitude_deg=39.9, longitude_deg=-3.6, label="a hot inland town"),
        zone="Europe/Madrid",
        country="ES",
        currency="EUR",
        guard=GuardLimits(low_c=9.0, high_c=31.0),
        design=Design(outdoor_c=-3.0, annual_mean_c=15.0, north_deg=0.0),
        storeys=(Storey(id="tn-floor", name="Third floor", level=3, height_m=2.9),),
        rooms=tuple(_room(*row) for row in _ROOMS),
        openings=tuple(
            Opening(
                id=f"tn-{room}-{key}",
                room_id=f"tn-{room}",
                kind="door" if kind == "door" else "window",
                side=side,
                along_m=along,
                width_m=width,
                height_m=height,
                sill_m=sill,
                shade=shade,
            )
            for room, kind, key, side, along, width, height, sill, shade in _OPENINGS
        ),
        things=(
            Thing(
                id="tn-sofa",
                room_id="tn-living",
                name="Sofa",
                kind="furniture",
                at=Spot(x_m=3.2, y_m=3.4, z_m=0.0),
                width_m=2.2,
                depth_m=0.9,
            ),
            Thing(
                id="tn-lamp",
                room_id="tn-study",
                name="Desk lamp",
                kind="lamp",
                at=Spot(x_m=1.2, y_m=0.9, z_m=0.8),
                width_m=0.4,
                depth_m=0.4,
            ),
        ),
        sources=(Source(id="tn-mains", name="Mains", kind="direct", most_w=9200.0),),
        heaters=(
            _split("living", 4000.0, 3500.0, (3.0, 0.2)),
            _split("bedroom", 3200.0, 2500.0, (2.2, 0.2)),
            _split("study", 2500.0, 2000.0, (3.2, 2.6)),
        ),
        devices=(
            _sensor("s-living", "Living room sensor", "living", (0.8, 5.1)),
            _sensor("s-bedroom", "Bedroom sensor", "bedroom", (1.6, 3.9)),
            _sensor("s-study", "Study sensor", "study", (0.1, 3.6)),
            _sender("living", (4.6, 0.6)),
            _sender("bedroom", (4.0, 1.0)),
            _sender("study", (2.2, 3.2)),
            _plug("living", (3.6, 0.3)),
            _plug("bedroom", (2.8, 0.3)),
            _plug("study", (3.0, 3.2)),
            _blind("living", "living-1", (0.2, 1.4)),
            _blind("living", "living-2", (0.2, 3.8)),
            _contact("living", (0.2, 2.6)),
            Device(
                id="tn-leak",
                name="Kitchen leak sensor",
                kind="leak_sensor",
                bus="2.4 GHz radio",
                room_id="tn-kitchen",
                at=Spot(x_m=2.8, y_m=0.4, z_m=0.0),
                power="mains_and_battery",
                works_without_controller=True,
            ),
            Device(
                id="tn-water",
                name="Kitchen water stop",
                kind="water_valve",
                bus="2.4 GHz radio",
                room_id="tn-kitchen",
                at=Spot(x_m=3.2, y_m=0.8, z_m=0.4),
                power="mains_and_battery",
                works_without_controller=True,
            ),
            Device(
                id="tn-heat",
                name="Hall heat watch",
                kind="air_sensor",
                bus="2.4 GHz radio",
                room_id="tn-hall",
                at=Spot(x_m=0.8, y_m=2.0, z_m=1.5),
                power="mains_and_battery",
                quantities=("room_temperature",),
                works_without_controller=True,
            ),
            Device(
                id="tn-bell",
                name="Hall bell",
                kind="relay",
                bus="wired",
                room_id="tn-hall",
                at=Spot(x_m=0.2, y_m=3.0, z_m=2.0),
                works_without_controller=True,
            ),
        ),
        chains=(
            Chain(id="tn-c-leak", name="Water in the kitchen", kind="leak", device_ids=("tn-leak", "tn-water")),
            Chain(id="tn-c-heat", name="Heat while nobody is there", kind="heat", device_ids=("tn-heat", "tn-bell")),
        ),
        levels=levels,
        zones=zones,
        tariffs=(_tariff(),),
        appliances=(Appliance(id="tn-dish", name="Dishwasher", earliest_min=0, latest_end_min=1320, start_min=780),),
    )
