"""A made-up house of sixty rooms on five floors, for speed and for hard input: names in many scripts."""

from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home, Place
from warmeter.core.home.part import Spot
from warmeter.core.home.plant import Heater, Source
from warmeter.core.home.rooms import Opening, Room, Storey
from warmeter.core.home.zones import ChangePoint, CountedSensor, Level, Sensing, Zone
from warmeter.core.plan.shape import Rect

STOREYS, ACROSS, DOWN = 5, 4, 3
WIDTH_M, DEPTH_M, HEIGHT_M = 4.0, 3.5, 2.6
NAMES = (
    "Salón",
    "Küche",
    "部屋",
    "Кухня",
    "غرفة",
    "<b>Den</b>",
    "Σοφίτα",
    "छत",
    "Bad & Brause",
    "Łazienka",
    "객실",
    "Åre",
)


def many_rooms(storeys: int = STOREYS) -> Home:
    """Return the house: per storey twelve rooms in a grid, each with a window if outside, a radiator, a sensor."""
    rooms, openings, heaters, devices, zones = [], [], [], [], []
    level = Level(id="l", name="In use", heating_c=20.0)
    for s in range(storeys):
        for k in range(ACROSS * DOWN):
            column, row = k % ACROSS, k // ACROSS
            key = f"{s}-{k}"
            rooms.append(
                Room(
                    id=f"r-{key}",
                    name=f"{NAMES[k]} {s}",
                    height_m=HEIGHT_M,
                    built="1978_1994",
                    mass_class="heavy",
                    storey_id=f"s-{s}",
                    rects=(Rect(x_m=column * WIDTH_M, y_m=row * DEPTH_M, width_m=WIDTH_M, depth_m=DEPTH_M),),
                )
            )
            if row != 1:
                openings.append(
                    Opening(
                        id=f"o-{key}",
                        room_id=f"r-{key}",
                        kind="window",
                        side="up" if row == 0 else "down",
                        along_m=WIDTH_M / 2,
                        width_m=1.4,
                        height_m=1.3,
                    )
                )
            heaters.append(
                Heater(
                    id=f"h-{key}",
                    room_id=f"r-{key}",
                    name=f"Radiator {key}",
                    kind="radiator",
                    source_id="b",
                    rated_heat_w=2500.0,
                    at=Spot(x_m=WIDTH_M / 2, y_m=0.2 if row != 2 else DEPTH_M - 0.2, z_m=0.2),
                )
            )
            devices.append(
                Device(
                    id=f"d-{key}",
                    name=f"Sensor {key}",
                    kind="air_sensor",
                    room_id=f"r-{key}",
                    at=Spot(x_m=0.1 if column else WIDTH_M - 0.1, y_m=1.8, z_m=1.4),
                    quantities=("room_temperature",),
                )
            )
            zones.append(
                Zone(
                    id=f"z-{key}",
                    name=f"Zone {key}",
                    room_ids=(f"r-{key}",),
                    day=(ChangePoint(start_min=0, level_id="l"),),
                    sensing=(Sensing(rule="one", sensors=(CountedSensor(device_id=f"d-{key}"),)),),
                )
            )
    return Home(
        id="many-rooms",
        name="Sixty rooms",
        place=Place(latitude_deg=48.0, longitude_deg=11.0),
        zone="Europe/Berlin",
        country="DE",
        currency="EUR",
        storeys=tuple(Storey(id=f"s-{s}", name=f"Storey {s}", level=s, height_m=HEIGHT_M) for s in range(storeys)),
        rooms=tuple(rooms),
        openings=tuple(openings),
        sources=(Source(id="b", name="Boiler", kind="boiler", flow_c=60.0, spread_k=10.0),),
        heaters=tuple(heaters),
        devices=tuple(devices),
        levels=(level,),
        zones=tuple(zones),
    )
