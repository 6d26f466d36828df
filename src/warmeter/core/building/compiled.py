"""A home compiled once into the arrays that a simulation of all its rooms together needs."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.building.heating import heat_over_draw, heater_output_w
from warmeter.core.building.losses import surveyed_room
from warmeter.core.building.room_envelope import shared_w_k
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Heater, Source
from warmeter.core.home.presets import CONVECTIVE, LAG_S
from warmeter.core.thermal.network import Link, RcNetwork
from warmeter.core.thermal.survey import RoomRc

LEAST_LAG_S = 60.0


@dataclass(frozen=True, slots=True, kw_only=True)
class CompiledHome:
    """All rooms of a home as one network, its heaters and sources as arrays.

    Parameters
    ----------
    room_ids : tuple of str
        Heated rooms in order.
    a, b : (3 room, 3 room), (3 room, 1 + room) float arrays
        Continuous system of air, fabric and emitter of every room [1/s]; inputs are the outdoor temperature
        and the gain of each room [W]. The emitter's state is the heat that it gives [W]; ``fire`` drives it.
    fire : (3 room, heater) float array
        What a heater's heat [W] adds to the states a second.
    heater_room, heater_source : (heater,) int arrays
        Where each heater stands and hangs.
    full_w, band_k, most_w : float arrays
        Each heater's full heat and band; the most that each source gives, infinity where not known.
    plates : tuple of (Heater, Source)
        Each heater with its source; what is drawn for its heat goes by the outdoor temperature.
    heater_ids, source_ids : tuples of str
        Names in order.
    """

    room_ids: tuple[str, ...]
    a: Floats
    b: Floats
    fire: Floats
    heater_ids: tuple[str, ...]
    heater_room: Ints
    heater_source: Ints
    full_w: Floats
    band_k: Floats
    source_ids: tuple[str, ...]
    most_w: Floats
    plates: tuple[tuple[Heater, Source], ...]

    def efficiency(self, outdoor_c: Floats) -> Floats:
        """Return each heater's heat over what is drawn for it, shape (heater, step)."""
        return np.array([heat_over_draw(heater, source, outdoor_c) for heater, source in self.plates])


def compile_home(home: Home, learnt: dict[str, RoomRc] | None = None) -> CompiledHome:
    """Return a home's arrays; ``learnt`` gives rooms that logs have taught in place of their survey.

    Raises
    ------
    HomeError
        If no heated room has a heater.
    """
    rooms = [r for r in home.rooms if r.condition == "heated"]
    if not any(home.heaters_of(r.id) for r in rooms):
        raise HomeError("no heated room has a heater yet; place one under Survey")
    taught = learnt or {}
    names = [r.id for r in rooms]
    place = {key: k for k, key in enumerate(names)}
    stores: dict[str, float] = {}
    links: list[Link] = []
    for room in rooms:
        rc = taught.get(room.id) or surveyed_room(home, room)
        air, fabric = f"{room.id}.air", f"{room.id}.fabric"
        stores |= {air: rc.air_j_k, fabric: rc.fabric_j_k}
        links += [
            Link(air, "out", rc.air_out_w_k),
            Link(air, fabric, rc.air_fabric_w_k),
            Link(fabric, "out", rc.fabric_out_w_k),
        ]
        links += [
            Link(fabric, f"{beyond}.fabric", conductance)
            for beyond, conductance in shared_w_k(home, room).items()
            # What two rooms share stands in both envelopes; it is linked once.
            if place[room.id] < place[beyond]
        ]
    network = RcNetwork(capacities_j_k=stores, boundaries=["out"], links=links)
    heaters = [h for h in home.heaters if h.room_id in place]
    a, b, fire = _with_emitters(home, network, names, [h.id for h in heaters])
    sources = home.sources
    order = {s.id: k for k, s in enumerate(sources)}
    return CompiledHome(
        room_ids=tuple(names),
        a=a,
        b=b,
        fire=fire,
        heater_ids=tuple(h.id for h in heaters),
        heater_room=np.array([place[h.room_id] for h in heaters], dtype=np.int64),
        heater_source=np.array([order[h.source_id] for h in heaters], dtype=np.int64),
        full_w=np.array([heater_output_w(home, h, outdoor_c=home.design.outdoor_c) for h in heaters]),
        band_k=np.array([max(0.2, h.band_k) for h in heaters]),
        source_ids=tuple(s.id for s in sources),
        most_w=np.array([s.most_w or np.inf for s in sources]),
        plates=tuple((h, home.source(h.source_id)) for h in heaters),
    )


def _with_emitters(
    home: Home, network: RcNetwork, rooms: list[str], heater_ids: list[str]
) -> tuple[Floats, Floats, Floats]:
    """Return (A, B, fire) with one emitter state a room, in the order air, fabric, emitter of each room."""
    plain_a, plain_b = network.matrices()
    count = len(rooms)
    size = 3 * count
    a, b, fire = np.zeros((size, size)), np.zeros((size, 1 + count)), np.zeros((size, len(heater_ids)))
    seat = [3 * (k // 2) + k % 2 for k in range(2 * count)]
    a[np.ix_(seat, seat)] = plain_a
    b[seat, 0] = plain_b[:, 0]
    for k, room_id in enumerate(rooms):
        heater = home.heater_of(room_id)
        to_air, to_fabric = plain_b[2 * k, 1 + 2 * k], plain_b[2 * k + 1, 2 + 2 * k]
        share = CONVECTIVE[heater.kind] if heater else 1.0
        lag = max(LEAST_LAG_S, LAG_S[heater.kind]) if heater else LEAST_LAG_S
        air, fabric, emitter = 3 * k, 3 * k + 1, 3 * k + 2
        a[air, emitter], a[fabric, emitter], a[emitter, emitter] = share * to_air, (1 - share) * to_fabric, -1 / lag
        b[air, 1 + k] = to_air
        for h, key in enumerate(heater_ids):
            if home.heater(key).room_id == room_id:
                fire[emitter, h] = 1 / lag
    return a, b, fire
