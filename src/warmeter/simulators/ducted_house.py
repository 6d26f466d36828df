"""A house on ducts of another form than the model: three stores a room, doors between rooms, dampers as they come.

It is stepped by a plain loop of ten seconds. What it shows is what somebody with a thermometer in each room would read.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.ducts.shared_air import AIR_J_M3K
from warmeter.core.floor_plan.shape import Rect
from warmeter.core.home.document import Design, Home, Place
from warmeter.core.home.ducts import DuctSystem, HeatStage, Vent
from warmeter.core.home.plant import Source
from warmeter.core.home.rooms import Room, RoomUse, Storey
from warmeter.core.home.timetables import ChangePoint, every_day
from warmeter.core.home.zones import Level, Zone
from warmeter.core.units import S_PER_DAY, S_PER_H

STEP_S = 10.0
ROOMS: tuple[tuple[str, str, RoomUse, float, float, float, float], ...] = (
    ("living", "Living room", "living", 0.0, 0.0, 6.0, 5.0),
    ("kitchen", "Kitchen", "kitchen", 6.0, 0.0, 4.0, 5.0),
    ("study", "Study", "office", 10.0, 0.0, 3.5, 5.0),
    ("front", "Front bedroom", "sleeping", 0.0, 5.0, 5.0, 4.0),
    ("back", "Back bedroom", "sleeping", 5.0, 5.0, 4.5, 4.0),
    ("nursery", "Nursery", "sleeping", 9.5, 5.0, 4.0, 4.0),
)


def ducted_home() -> Home:
    """Return a home of six rooms on one furnace, surveyed; each vent has its air by area."""
    rooms = tuple(
        Room(
            id=key,
            name=name,
            use=use,
            height_m=2.5,
            built="1978_1994",
            mass_class="medium",
            storey_id="ground",
            rects=(Rect(x_m=x, y_m=y, width_m=width, depth_m=depth),),
            design_c=20.0,
        )
        for key, name, use, x, y, width, depth in ROOMS
    )
    level = Level(id="in-use", name="In use", heating_c=20.0)
    return Home(
        id="ducted",
        name="Ducted House",
        place=Place(latitude_deg=45.0, longitude_deg=-75.0),
        time_zone="America/Toronto",
        country="CA",
        currency="CAD",
        design=Design(outdoor_c=-18.0, annual_mean_c=7.0),
        storeys=(Storey(id="ground", name="Ground floor", level=0),),
        rooms=rooms,
        sources=(Source(id="furnace", name="Furnace", kind="boiler", efficiency=0.92),),
        levels=(level,),
        zones=(
            Zone(
                id="z",
                name="House",
                room_ids=tuple(room.id for room in rooms),
                timetables=every_day("tt", ChangePoint(start_min=0, level_id="in-use")),
            ),
        ),
        ducts=(
            DuctSystem(
                id="ducts",
                name="Furnace on ducts",
                source_id="furnace",
                flow_m3_h=1500.0,
                static_pa=95.0,
                static_most_pa=150.0,
                flow_least_m3_h=1000.0,
                stages=(HeatStage(heat_w=9000.0), HeatStage(heat_w=5000.0, short_k=0.9, delay_min=10.0)),
                thermostat_room_id="living",
                vents=tuple(
                    Vent(id=f"v-{key}", name=f"{name} vent", room_id=key, area_cm2=15.0 * width * depth, notch=3)
                    for key, name, _, _, _, width, depth in ROOMS
                ),
            ),
        ),
    )


@dataclass(frozen=True, slots=True)
class OtherHouse:
    """The house as it really is: per room losses to outdoors [W/K], air's strength at its vent, and its dampers.

    ``pull`` is each open vent's part of the air, ``closing`` what a notch leaves of it (ratio).
    """

    loss_w_k: Floats
    door_w_k: float
    pull: Floats
    closing: Floats
    gain_w: Floats

    def measured_k(self, system: DuctSystem, notches: Mapping[str, int], *, set_c: float, outdoor_c: float) -> Floats:
        """Return how far each room is from the mean of all over a night, after three days of settling [K]."""
        count = self.loss_w_k.size
        notch = np.array([notches[f"v-{key}"] for key, *_ in ROOMS])
        open_share = self.pull * self.closing**notch
        share = open_share / open_share.sum()
        flow = system.flow_m3_h / S_PER_H * (0.85 + 0.15 * open_share.sum() / self.pull.sum())
        air_j, room_j, fabric_j = 90e3, 900e3, 5e6
        air, inner, fabric = (np.full(count, set_c) for _ in range(3))
        fabric = fabric - 4.0
        total, heard, is_on = np.zeros(count), 0, False
        steps = int(4 * S_PER_DAY / STEP_S)
        for k in range(steps):
            lead = inner[0]
            if lead < set_c - 0.25:
                is_on = True
            elif lead > set_c + 0.25:
                is_on = False
            heat = 9000.0 if is_on else 0.0
            into = -(0.45 * self.loss_w_k) * (air - outdoor_c) + 220.0 * (inner - air) + self.gain_w
            into += self.door_w_k * (air.mean() - air)
            if is_on:
                back = float(share @ air)
                into += share * heat + AIR_J_M3K * flow * share * (back - air)
            to_inner = 220.0 * (air - inner) + 90.0 * (fabric - inner)
            to_fabric = 90.0 * (inner - fabric) - 0.55 * self.loss_w_k * (fabric - outdoor_c)
            air = air + STEP_S * into / air_j
            inner = inner + STEP_S * to_inner / room_j
            fabric = fabric + STEP_S * to_fabric / fabric_j
            if k >= steps - int(8 * S_PER_H / STEP_S):
                total, heard = total + inner, heard + 1
        mean = total / heard
        return np.asarray(mean - mean.mean(), dtype=np.float64)

    def shares(self, notches: Mapping[str, int]) -> Floats:
        """Return what part of the air each room really gets with its vents shut so far (ratios)."""
        open_share = self.pull * self.closing ** np.array([notches[f"v-{key}"] for key, *_ in ROOMS])
        return np.asarray(open_share / open_share.sum(), dtype=np.float64)

    def log(self, system: DuctSystem, notches: Mapping[str, int], *, hours: int, seed: int) -> tuple[Floats, Floats]:
        """Return (temperatures by room and minute, as sensors tell them [°C]; whether the burner works, by minute).

        Here rooms store by their floor, furnished more or less; outdoors swings over the day.
        """
        rng = np.random.default_rng(seed)
        area = np.array([width * depth for *_, width, depth in ROOMS])
        furnished = rng.uniform(0.85, 1.15, area.size)
        share, flow = self.shares(notches), system.flow_m3_h / S_PER_H
        air_j, room_j, fabric_j = 4500.0 * area * furnished, 40e3 * area * furnished, 2.5e5 * area
        air, inner, fabric = np.full(area.size, 20.0), np.full(area.size, 20.0), np.full(area.size, 17.0)
        room_c, heating = np.empty((area.size, hours * 60)), np.empty(hours * 60)
        is_on = False
        for k in range(round(hours * S_PER_H / STEP_S)):
            outdoor = -5 + 4 * np.sin(2 * np.pi * k * STEP_S / S_PER_DAY)
            is_on = inner[0] < 19.75 if not is_on else inner[0] <= 20.25
            into = -0.45 * self.loss_w_k * (air - outdoor) + 9.0 * area * (inner - air) + self.gain_w
            into += self.door_w_k * (air.mean() - air)
            if is_on:
                into += share * 9000.0 + AIR_J_M3K * flow * share * (float(share @ air) - air)
            to_inner = 9.0 * area * (air - inner) + 4.0 * area * (fabric - inner)
            to_fabric = 4.0 * area * (inner - fabric) - 0.55 * self.loss_w_k * (fabric - outdoor)
            air = air + STEP_S * into / air_j
            inner = inner + STEP_S * to_inner / room_j
            fabric = fabric + STEP_S * to_fabric / fabric_j
            minute, first = divmod(k, round(60 / STEP_S))
            if first == 0:
                # A sensor on a wall feels air and surfaces.
                told = 0.6 * air + 0.4 * inner + rng.normal(0, 0.03, area.size)
                room_c[:, minute], heating[minute] = np.round(told, 1), float(is_on)
        return room_c, heating


def other_house(seed: int) -> OtherHouse:
    """Return a made-up house: losses and vents that differ from the survey, dampers of their own."""
    rng = np.random.default_rng(seed)
    area = np.array([width * depth for *_, width, depth in ROOMS])
    return OtherHouse(
        loss_w_k=1.7 * area * rng.uniform(0.95, 1.07, area.size),
        door_w_k=float(rng.uniform(8.0, 25.0)),
        pull=area * rng.uniform(0.93, 1.08, area.size),
        closing=rng.uniform(0.93, 0.965, area.size),
        gain_w=rng.uniform(20.0, 120.0, area.size),
    )
