"""A room's heat loss at a design temperature, by element with its doubt, and its two stores."""

from collections import deque
from collections.abc import Iterator
from dataclasses import dataclass, replace
from math import sqrt

from warmeter.core.building.room_envelope import EnvelopePart, RoomEnvelope, design_c, envelope_of
from warmeter.core.figure import Origin
from warmeter.core.home.document import Home
from warmeter.core.home.presets import CONVECTIVE, LAG_S
from warmeter.core.home.rooms import Room
from warmeter.core.thermal.envelope import ventilation_loss_w
from warmeter.core.thermal.room_fit import Prior, prior_of_room
from warmeter.core.thermal.survey import DesignConditions, Element, RoomRc, element_load_w, room_from_survey

LEAST_OPAQUE_SHARE = 0.1  # of the floor: a room inside the home still loses a little through what surrounds it
LEAST_OPAQUE_U = 0.2


# A survey's loss is never known better than within a fifth, nor doubted by more than two fifths (standard deviations).
LEAST_SURVEY_SD, MOST_SURVEY_SD = 0.2, 0.4


@dataclass(frozen=True, slots=True, kw_only=True)
class LossRow:
    """One line of a loss: size in ``unit``, U [W/(m2 K)] or air change, share of the fall (ratio), watts."""

    label: str
    size: float
    unit: str
    u: float
    share: float
    watts: float
    low_w: float
    high_w: float
    group: str
    origin: Origin
    beyond_id: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomLoss:
    """A room's design load [W] with its 95 % doubt.

    ``safe_w`` leaves out gains from warmer neighbours; ``plant_w`` all heat between heated rooms.
    """

    indoor_c: float
    outdoor_c: float
    rows: tuple[LossRow, ...]
    total_w: float
    safe_w: float
    plant_w: float
    low_w: float
    high_w: float
    loss_w_k: float
    bridge_w_m2k: float

    @property
    def fall_k(self) -> float:
        """Indoor less outdoor temperature [K]."""
        return self.indoor_c - self.outdoor_c


_LOSSES: deque[tuple[Home, dict[str, tuple[Room, RoomLoss]]]] = deque(maxlen=4)


def loss_of(home: Home, room: Room, outdoor_c: float | None = None) -> RoomLoss:
    """Return a room's loss at the home's design temperature, or at another outdoor temperature [°C].

    Homes do not change, so design losses of the last few are kept by their identity.
    """
    if outdoor_c is not None:
        return loss_of_envelope(home, envelope_of(home, room), design_c(room), outdoor_c)
    known = next((losses for other, losses in tuple(_LOSSES) if other is home), None)
    if known is None:
        known = {}
        _LOSSES.appendleft((home, known))
    kept = known.get(room.id)
    if kept is None or kept[0] is not room:
        kept = room, loss_of_envelope(home, envelope_of(home, room), design_c(room), home.design.outdoor_c)
        known[room.id] = kept
    return kept[1]


def loss_of_envelope(home: Home, envelope: RoomEnvelope, indoor_c: float, outdoor_c: float) -> RoomLoss:
    """Return the loss of an envelope between two temperatures [°C]; the fall is at least a tenth of a kelvin."""
    at = _conditions(home, envelope, indoor_c, outdoor_c)
    rows = tuple(_rows(envelope, at))
    watts = [row.watts for row in rows]
    low, high = _doubt(rows)
    between = sum(row.watts for row, part in zip(rows, envelope.parts, strict=False) if part.element.to == "adjacent")
    total = sum(watts)
    return RoomLoss(
        indoor_c=indoor_c,
        outdoor_c=at.outdoor_c,
        rows=rows,
        total_w=total,
        safe_w=sum(max(0.0, w) for w in watts),
        plant_w=total - between,
        low_w=total - low,
        high_w=total + high,
        loss_w_k=(total - between) / (at.indoor_c - at.outdoor_c),
        bridge_w_m2k=home.design.bridge_w_m2k,
    )


def _conditions(home: Home, envelope: RoomEnvelope, indoor_c: float, outdoor_c: float) -> DesignConditions:
    return DesignConditions(
        indoor_c=indoor_c,
        outdoor_c=min(outdoor_c, indoor_c - 0.1),
        annual_mean_c=home.design.annual_mean_c,
        bridge_w_m2k=home.design.bridge_w_m2k,
        air_change_1_h=envelope.air_change.usual,
        reheat_w_m2=0.0,
    )


def safe_loss_w(home: Home, envelope: RoomEnvelope, indoor_c: float, outdoor_c: float) -> float:
    """Return an envelope's loss between two temperatures without gains from warmer neighbours [W]."""
    at = _conditions(home, envelope, indoor_c, outdoor_c)
    air = ventilation_loss_w(at.air_change_1_h, envelope.volume_m3, at.indoor_c - at.outdoor_c)
    return air + sum(max(0.0, element_load_w(part.element, at)) for part in envelope.parts)


def _rows(envelope: RoomEnvelope, at: DesignConditions) -> Iterator[LossRow]:
    fall = at.indoor_c - at.outdoor_c
    for part in envelope.parts:
        low, usual, high = (element_load_w(part.element, at, u) for u in _ends(part))
        area = part.element.area_m2
        bridged = at.bridge_w_m2k if part.element.to in ("outside", "unheated") else 0.0
        plain = area * (part.element.u_w_m2k + bridged) * fall
        yield LossRow(
            label=part.element.name,
            size=area,
            unit="m²",
            u=part.element.u_w_m2k,
            share=usual / plain if plain else 0.0,
            watts=usual,
            low_w=min(low, high),
            high_w=max(low, high),
            group=part.group,
            origin=part.origin,
            beyond_id=part.beyond_id,
        )
    change = envelope.air_change
    watts = [ventilation_loss_w(n, envelope.volume_m3, fall) for n in (change.low, change.usual, change.high)]
    yield LossRow(
        label="air, changes an hour",
        size=envelope.volume_m3,
        unit="m³",
        u=change.usual,
        share=1.0,
        watts=watts[1],
        low_w=watts[0],
        high_w=watts[2],
        group="air",
        origin=envelope.air_origin,
    )


def _ends(part: EnvelopePart) -> tuple[float, float, float]:
    return max(0.02, part.low), part.element.u_w_m2k, min(10.0, part.high)


def _doubt(rows: tuple[LossRow, ...]) -> tuple[float, float]:
    """Return half widths below and above: rows of one U-value together, different ones in quadrature [W]."""
    low: dict[str, float] = {}
    high: dict[str, float] = {}
    for row in rows:
        low[row.group] = low.get(row.group, 0.0) + row.watts - row.low_w
        high[row.group] = high.get(row.group, 0.0) + row.high_w - row.watts
    return sqrt(sum(v * v for v in low.values())), sqrt(sum(v * v for v in high.values()))


def surveyed_room(home: Home, room: Room) -> RoomRc:
    """Return a room's stores and conductances by its survey, its leading heater's lag with it (B7).

    Heat to unheated rooms and ground is laid on outdoors by its share at the design temperature; heat
    between heated rooms is left out.
    """
    envelope, heater = envelope_of(home, room), home.heater_of(room.id)
    inside, outside, mean = design_c(room), home.design.outdoor_c, home.design.annual_mean_c
    fall = max(inside - outside, 1.0)
    windows: list[tuple[str, float, float]] = []
    opaque: list[tuple[str, float, float]] = []
    for part in envelope.parts:
        element, bridge = part.element, home.design.bridge_w_m2k
        if element.to == "adjacent":
            continue
        if element.to == "ground":
            u = 1.45 * element.factor * element.u_w_m2k * max(inside - mean, 0.0) / fall
        else:
            share = element.factor if element.to == "unheated" else 1.0
            u = share * (element.u_w_m2k + bridge)
        (windows if part.is_glass else opaque).append((element.name, element.area_m2, u))
    floor = envelope.floor_area_m2
    lost = sum(area * u for _, area, u in opaque)
    least = LEAST_OPAQUE_SHARE * LEAST_OPAQUE_U * floor
    if lost < least:
        opaque.append(
            ("inner surfaces", LEAST_OPAQUE_SHARE * floor, (least - lost) / (LEAST_OPAQUE_SHARE * floor) + 0.02)
        )
    plain = room_from_survey(
        floor_area_m2=floor,
        volume_m3=envelope.volume_m3,
        air_change_1_h=envelope.air_change.usual,
        windows=[_plain(*w) for w in windows],
        opaque=[_plain(*o) for o in opaque],
        mass_class=room.mass_class,
    )
    if heater is None:
        return plain
    return replace(
        plain,
        # Furniture and surfaces answer with the air, so the prompt store is about twice the air's own.
        air_j_k=2.0 * plain.air_j_k,
        emitter_lag_s=LAG_S[heater.kind],
        convective=CONVECTIVE[heater.kind],
    )


def _plain(name: str, area_m2: float, u_w_m2k: float) -> Element:
    return Element(name=name, area_m2=area_m2, u_w_m2k=min(10.0, max(0.02, u_w_m2k)))


def prior_of(home: Home, room: Room) -> Prior:
    """Return what a survey lets one expect of a room, for a fit or a simulation without one.

    The survey's own doubt counts, but never as less than a fifth. Through walls to somebody else's rooms heat flows
    that no log shows; rooms of this home are taken to be as warm.
    """
    loss, parts = loss_of(home, room), envelope_of(home, room).parts
    doubt = (loss.high_w - loss.low_w) / 2 / 1.96 / max(loss.total_w, 1.0)
    foreign = [
        part
        for part in parts
        if part.element.to == "adjacent" and part.beyond_id and home.room(part.beyond_id).condition == "neighbour"
    ]
    conductance = sum(part.element.area_m2 * part.element.u_w_m2k for part in foreign)
    weighted = sum(part.element.area_m2 * part.element.u_w_m2k * (part.element.beyond_c or 0.0) for part in foreign)
    plain = prior_of_room(
        surveyed_room(home, room),
        envelope_of(home, room).floor_area_m2,
        loss_sd=min(max(doubt, LEAST_SURVEY_SD), MOST_SURVEY_SD),
    )
    return replace(plain, neighbour_w_k=conductance, neighbour_c=weighted / conductance if conductance > 0 else 18.0)
