"""A home from the short form: place, rooms with heaters, first levels, a machine."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Annotated, Any, Literal, TypeVar, get_args

from annotated_types import Ge, Le, Len

from warmeter.core.edits.home_edits import with_first_levels, with_room
from warmeter.core.edits.ids import new_id
from warmeter.core.errors import TimeError
from warmeter.core.home.document import GUARD, Home, Place
from warmeter.core.home.machines import Appliance
from warmeter.core.home.part import Name, SetpointC, Unit, Word
from warmeter.core.home.plant import Heater, HeaterKind, Source, SplitUnit
from warmeter.core.home.presets import HEATER_LABEL
from warmeter.core.home.rooms import Built, Described, Room
from warmeter.core.home.zones import GuardLimits
from warmeter.core.thermal.survey import MassClass
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import LengthUnit, TemperatureUnit, Units
from warmeter.web.form_reader import FormError, Texts, read_form

MOST_ROOMS = 3
Currency = Literal["GBP", "EUR", "USD", "CHF", "SEK", "NOK", "DKK", "PLN", "CZK", "CAD", "AUD", "NZD", "JPY"]
CURRENCIES: tuple[Currency, ...] = get_args(Currency)
_Form = TypeVar("_Form")
COP_AT_C = (-7, 2, 7, 12)


@dataclass(frozen=True, slots=True, kw_only=True)
class _HomeForm:
    """A home as the short form has it."""

    name: Name
    zone: Annotated[str, Len(1, 64)]
    temperature_unit: TemperatureUnit
    length_unit: LengthUnit = "m"
    guard_low: SetpointC | None = None
    guard_high: SetpointC | None = None
    latitude: Annotated[float, Ge(-90), Le(90), Unit("°")]
    longitude: Annotated[float, Ge(-180), Le(180), Unit("°")]
    appliance: Word = ""
    currency: Currency
    country: Annotated[str, Len(2, 2)]
    source: Literal["direct", "heat_pump"]
    cop: Mapping[str, Annotated[float, Ge(0.5), Le(15)]]

    @property
    def limits(self) -> dict[str, float]:
        """The protection limits, the usual ones where none were typed [°C]."""
        return {
            "low_c": GUARD.low_c if self.guard_low is None else self.guard_low,
            "high_c": GUARD.high_c if self.guard_high is None else self.guard_high,
        }


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomForm:
    """A room with its heater as a form has them."""

    name: Name
    height: Annotated[float, Ge(1), Le(20), Unit("m")]
    built: Built
    mass: MassClass
    area: Annotated[float, Ge(1), Le(2000), Unit("m²")]
    walls: Annotated[int, Ge(0), Le(4)] = 2
    roof: bool = False
    ground: bool = False
    heater: HeaterKind
    watts: Annotated[float, Ge(50), Le(100_000), Unit("W")]
    step_k: Annotated[float, Ge(0.1), Le(2), Unit("K")] = 0.5
    step_min: Annotated[int, Ge(1), Le(60), Unit("min")] = 15
    min_on: Annotated[int, Ge(0), Le(120), Unit("min")] = 2
    min_off: Annotated[int, Ge(0), Le(120), Unit("min")] = 2

    @property
    def described(self) -> Described:
        """The room in words."""
        return Described(
            floor_area_m2=self.area, outside_walls=self.walls, has_roof=self.roof, has_ground_floor=self.ground
        )

    def room(self) -> Room:
        """Return a new room."""
        return Room(
            id=new_id(),
            name=self.name,
            height_m=self.height,
            built=self.built,
            mass_class=self.mass,
            described=self.described,
        )

    def heater_of(self, before: Heater | None, room_id: str, source_id: str) -> Heater:
        """Return the heater as it is described, a new one if there was none."""
        told: dict[str, Any] = {
            "kind": self.heater,
            "rated_heat_w": self.watts,
            "split": (before.split if before else None) or (SplitUnit() if self.heater == "split_unit" else None),
            "step_k": self.step_k,
            "step_min": self.step_min,
            "min_on_min": self.min_on,
            "min_off_min": self.min_off,
        }
        if before is not None:
            return replace(before, **told)
        name = f"{self.name} {HEATER_LABEL[self.heater]}"[:80]
        return Heater(id=new_id(), room_id=room_id, name=name, source_id=source_id, **told)


def _units_of(texts: Texts) -> Units:
    """Return the units that a form asks for."""
    return Units(
        "F" if texts.get("temperature_unit") == "F" else "C", "ft" if texts.get("length_unit") == "ft" else "m"
    )


def read_home(texts: Texts) -> Home:
    """Return the home that a form describes.

    Raises
    ------
    FormError
        With a sentence for every field that is wrong.
    """
    errors: dict[str, str] = {}

    def tried(model: type[_Form], prefix: str = "") -> _Form | None:
        try:
            return read_form(model, texts, _units_of(texts), prefix)
        except FormError as error:
            errors.update(error.errors)
            return None

    numbers = [k for k in range(1, MOST_ROOMS + 1) if k == 1 or texts.get(f"room{k}_name", "").strip()]
    # A home to be drawn begins without rooms.
    rooms = [] if texts.get("empty") else [tried(RoomForm, f"room{k}_") for k in numbers]
    form = tried(_HomeForm)
    if form is not None and not form.limits["low_c"] < form.limits["high_c"]:
        errors["guard_low"] = "The lower protection limit must lie below the upper"
    if form is not None and form.source == "heat_pump" and not form.cop:
        errors["cop.7"] = "Give the COP at one outdoor temperature or more"
    try:
        LocalClock(texts.get("zone", "").strip() or "UTC")
    except TimeError:
        errors["zone"] = "This is no time zone; write one such as Europe/London"
    if errors or form is None:
        raise FormError(errors)
    return _home_of(form, [room for room in rooms if room is not None])


def _home_of(form: _HomeForm, described: list[RoomForm]) -> Home:
    points = tuple((float(outdoor), form.cop[key]) for outdoor in COP_AT_C if (key := str(outdoor)) in form.cop)
    source = (
        Source(id=new_id(), name="Direct electric", kind="direct")
        if form.source == "direct"
        else Source(id=new_id(), name="Heat pump", kind="heat_pump", cop_points=points)
    )
    home = Home(
        id=new_id(),
        name=form.name,
        place=Place(latitude_deg=form.latitude, longitude_deg=form.longitude),
        time_zone=form.zone,
        country=form.country.upper(),
        currency=form.currency,
        temperature_unit=form.temperature_unit,
        length_unit=form.length_unit,
        guard=GuardLimits(**form.limits),
        sources=(source,),
        appliances=(Appliance(id=new_id(), name=form.appliance),) if form.appliance else (),
    )
    home = with_first_levels(home)
    for each in described:
        room = each.room()
        home = with_room(home, room, each.heater_of(None, room.id, source.id))
    return home
