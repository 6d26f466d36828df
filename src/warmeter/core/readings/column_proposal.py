"""What one column of a log could be, how sure that is, and why: from its words, its unit, its values and this home."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from warmeter.core.quantity import QUANTITIES, Quantity
from warmeter.core.readings.column_subjects import LogSubject, LogSubjects, NamedParts, named_parts
from warmeter.core.readings.column_values import ColumnValues
from warmeter.core.readings.column_words import HeadingWords, Said, of_both, said_by
from warmeter.core.readings.csvlog import Column
from warmeter.core.readings.record import Kind
from warmeter.core.units import UNITS_OF, is_energy

Certainty = Literal["sure", "likely", "open"]
MOST_KW = 60.0  # no home's power in kW lies beyond
# Measures that say by themselves which quantity is meant.
_DIRECT = frozenset(
    {"battery", "radio_strength", "water_temperature", "setpoint", "valve_opening", "floor_temperature", "co2", "light"}
    | {"blind_position", "sun_w_m2"}
    | {
        "pressure",
        "water_flow",
        "device_mode",
        "heating_state",
        "is_wet",
        "is_moving",
        "machine_is_on",
        "is_in_bed",
        "distance_m",
        "market_price",
        "sun_power_w",
        "sun_forecast_w",
    }
)
# What stands in a log and is no quantity that can be read in.
_NOT_TAKEN: dict[str, str] = {
    "circuit": "the temperature of a heating circuit is no quantity that can be imported yet",
    "feels": "what is reckoned from other readings is not imported",
    "link": "link quality has no unit",
}
_NOTHING = frozenset(
    {"id", "index", "row", "no", "nr", "comment", "note", "remark", "serial", "unit", "units", "day", "week"}
)
_BY_UNIT = {"ppm": "co2", "lx": "light", "dBm": "radio_strength", "W/m²": "sun_w_m2"}


@dataclass(frozen=True, slots=True, kw_only=True)
class ColumnProposal:
    """What a column could be.

    Parameters
    ----------
    column : Column
        Filled in as far as anything can be said.
    reasons, doubts : tuple of str
        What spoke for it, and what is missing or speaks against it.
    units : tuple of str
        Those that its numbers can be in, where none is written.
    is_nothing : bool
        Whether it holds nothing that anybody would read in: it is left out unasked.
    """

    column: Column
    reasons: tuple[str, ...] = ()
    doubts: tuple[str, ...] = ()
    units: tuple[str, ...] = ()
    is_nothing: bool = False

    @property
    def certainty(self) -> Certainty:
        """Whether words, unit, values and subject agree, one of them is missing, or nobody can tell."""
        if not self.column.quantity:
            return "open"
        return "likely" if self.doubts else "sure"

    @property
    def asks(self) -> bool:
        """Whether it is not taken before a person has said so."""
        return self.certainty != "sure" and not self.is_nothing

    @property
    def why(self) -> str:
        """What spoke for it and what is missing, in words."""
        return "; ".join((*self.reasons, *self.doubts))


@dataclass(slots=True)
class _Case:
    """A column under consideration: what is known of it, what speaks for a reading of it, and what against."""

    heading: HeadingWords
    parts: NamedParts
    said: Said
    values: ColumnValues
    subjects: LogSubjects
    reasons: list[str] = field(default_factory=list)
    doubts: list[str] = field(default_factory=list)
    units: tuple[str, ...] = ()

    def names(self, kind: str) -> list[LogSubject]:
        """Return the parts of a kind whose whole names stand in the heading."""
        return [s for s in self.parts.whole if s.kind == kind]

    def says(self, *measures: str) -> bool:
        """Return whether the heading says one of some measures."""
        return bool(set(measures) & set(self.said.measures))


def proposed_column(
    index: int, heading: str, values: ColumnValues, subjects: LogSubjects, channel: str = ""
) -> ColumnProposal:
    """Return what a column could be, from its heading, the words that mark a series in it, its values and the home."""
    words = of_both(heading, channel)
    if values.unit and not words.unit:
        words = replace(words, unit=values.unit)
    parts = named_parts(words.words, subjects)
    case = _Case(words, parts, said_by(parts.rest), values, subjects)
    blank = Column(index=index, heading=f"{heading} {channel}".strip(), channel=channel)
    if (nothing := _nothing(case)) is not None:
        return ColumnProposal(column=blank, doubts=(nothing,), is_nothing=True)
    quantity = _quantity(case)
    if not quantity:
        told = case.doubts or ["neither its heading nor its values say what it is"]
        return ColumnProposal(column=blank, doubts=tuple(told))
    unit = _unit(case, quantity)
    subject = _subject(case, QUANTITIES[quantity])
    kind = _kind(case, quantity, unit)
    _doubt_words(case)
    column = replace(
        blank,
        quantity=quantity,
        unit=unit,
        kind=kind,
        stamp="start" if kind in ("mean", "sum") else "instant",
        subject=subject,
    )
    return ColumnProposal(column=column, reasons=tuple(case.reasons), doubts=tuple(case.doubts), units=case.units)


def _nothing(case: _Case) -> str | None:
    """Return why a column holds nothing that anybody would read in; None where it may."""
    if not case.values.filled:
        return "none of its cells is filled"
    if len(case.heading.words) == 1 and case.heading.words[0] in _NOTHING and not case.parts.whole:
        return "it names or counts lines"
    known = case.values.states_of() or case.values.are_two_states or case.values.words <= {"on", "off", "true", "false"}
    if not case.values.numbers.size and not known and not case.says("device_mode", "heating_state"):
        return "its words are no states that are known"
    return None


def _quantity(case: _Case) -> str:
    """Return which quantity a column most likely carries, "" where nothing speaks for one."""
    if case.heading.foreign_unit:
        case.doubts.append(f"{case.heading.foreign_unit} is no unit of a quantity that can be imported")
        return ""
    for measure, why in _NOT_TAKEN.items():
        if case.says(measure):
            case.doubts.append(why)
            return ""
    found = _by_words(case)
    if not found and not case.doubts:
        found = _by_unit(case) or _by_states(case) or _by_device(case) or _by_values(case)
    if not found:
        return ""
    if case.heading.unit and case.heading.unit not in UNITS_OF[found]:
        case.doubts.append(
            f"its words say {QUANTITIES[found].label}, its unit {case.heading.unit} does not measure that"
        )
        return ""
    if not case.heading.unit and case.values.words and not QUANTITIES[found].states:
        if not case.values.numbers.size:
            case.doubts.append(f"its cells are words, which are no {QUANTITIES[found].label}")
            return ""
        case.doubts.append(f"some of its cells are words ({', '.join(sorted(case.values.words)[:3])})")
    return found


def _by_words(case: _Case) -> str:
    """Return the quantity that a heading's words say; doubts where they say two."""
    measures = [m for m in case.said.measures if m != "storey"]
    if "storey" in case.said.measures:
        case.doubts.append("it names a storey, not a room")
    plain = [m for m in measures if m not in ("outdoor", "forecast", "ambient")]
    if case.says("outdoor", "forecast") and not case.parts.whole:
        return _outdoors(case, plain)
    if case.says("outdoor", "forecast"):
        case.doubts.append("it names a part of this home and outdoors")
        return ""
    if case.says("ambient") and not case.parts.whole:
        case.doubts.append("ambient can be the room's air or outdoors")
    found = {q for m in plain if (q := _measured(case, m))}
    # Heat, electricity and the grid's are said with one more word: the narrower one holds.
    for narrow, wide in (("heat_w", "electric_w"), ("grid_export_w", "grid_import_w"), ("grid_import_w", "electric_w")):
        if narrow in found:
            found.discard(wide)
    if case.names("machine") and found == {"grid_import_w"}:
        found = {"electric_w"}
    if case.says("radiator") and "room_temperature" in found:
        case.doubts.append("a radiator's temperature is not the room's")
        return ""
    if len(found) > 1:
        labels = " or ".join(sorted(QUANTITIES[q].label for q in found))
        case.doubts.append(f"its words say {labels}")
        return ""
    quantity = next(iter(found), "")
    if quantity:
        case.reasons.append(f"its words say {QUANTITIES[quantity].label}")
    return quantity


def _outdoors(case: _Case, plain: list[str]) -> str:
    if set(plain) - {"temperature", "humidity", "pressure"} or len(plain) > 1:
        case.doubts.append("its words say outdoors and something else")
        return ""
    if "pressure" in plain:
        return "pressure"
    if case.says("forecast") and "humidity" not in plain:
        case.reasons.append("its words say a forecast")
        return "outdoor_forecast"
    quantity = "outdoor_humidity" if "humidity" in plain or case.heading.unit == "%" else "outdoor_temperature"
    case.reasons.append("its words say outdoors")
    if not plain and not case.heading.unit:
        case.reasons.append("its numbers are taken for temperatures")
        if not case.values.lies_within("outdoor_temperature", "°C"):
            case.doubts.append("its numbers are no outdoor temperatures")
    return quantity


def _measured(case: _Case, measure: str) -> str:
    """Return the quantity of a word of a heading; "" where the word says none."""
    energy_unit = case.heading.unit in UNITS_OF["electric_w"]
    if measure in _DIRECT:
        return _of_direct(case, measure)
    if measure == "presence":
        return "is_in" if case.names("room") or _is_in_device(case) else "is_home"
    if measure == "is_open":
        return "machine_is_on" if case.names("machine") else "is_open"
    if measure == "humidity":
        return "relative_humidity"
    if measure in ("temperature", "ambient"):
        if case.names("machine"):
            case.doubts.append("an appliance's temperature can be that of its water or of its own")
            return "water_temperature"
        return "room_temperature"
    if measure in ("export", "import"):
        return f"grid_{measure}_w"
    if measure == "radiator":
        case.doubts.append("of a radiator it can be heat or a temperature")
        return "heat_w" if energy_unit else ""
    if measure == "heat":
        return _heat(case)
    return _electric(case) if measure == "electric" else ""


def _is_in_device(case: _Case) -> bool:
    """Return whether a device is named that tells of a room, not of a person."""
    return any(d.device_kind != "telephone" for d in case.names("device"))


def _of_direct(case: _Case, measure: str) -> str:
    if measure == "blind_position":
        case.doubts.append("100 can be wholly down or wholly open")
    if measure == "floor_temperature" and case.heading.unit not in ("", "°C", "°F", "K"):
        return ""
    if measure in ("heating_state", "device_mode") and case.values.numbers.size and not case.values.are_two_states:
        case.doubts.append("its states are numbers, whose meaning is not known")
        return ""
    return measure


def _heat(case: _Case) -> str:
    if case.values.are_two_states and not case.heading.unit:
        return "heating_state"
    states = case.values.states_of()
    if states:
        return "device_mode" if states == ("device_mode",) else "heating_state"
    if case.heading.unit == "%":
        case.doubts.append("heating in percent can be a valve's opening or a share of time")
        return "valve_opening"
    if case.names("machine"):
        return "electric_w"
    return "heat_w"


def _electric(case: _Case) -> str:
    if case.names("machine") or [d for d in case.names("device") if d.device_kind in ("plug", "relay")]:
        return "electric_w"
    if case.names("room"):
        case.doubts.append("power of a room can be its heater's or an appliance's")
        return ""
    if not case.subjects.machines or "plug" not in case.heading.words:
        if "plug" in case.heading.words:
            case.doubts.append("this home has no appliance on a plug")
            return ""
        return "grid_import_w" if case.says("import") or is_energy(case.heading.unit) else _whose_power(case)
    return "electric_w"


def _whose_power(case: _Case) -> str:
    case.doubts.append("it does not say whose power it is")
    return "electric_w" if case.subjects.machines else ""


def _by_unit(case: _Case) -> str:
    """Return the quantity of which a unit alone speaks."""
    unit = case.heading.unit
    if unit in _BY_UNIT:
        case.reasons.append(f"its unit is {unit}")
        return _BY_UNIT[unit]
    if unit in ("°C", "°F", "K") and case.names("room"):
        case.reasons.append(f"it names a room and {unit}")
        return "room_temperature"
    if unit in ("°C", "°F", "K") and not case.parts.whole:
        case.doubts.append("it does not say whose temperature it is")
        return "room_temperature"
    if unit in UNITS_OF["electric_w"]:
        if case.names("machine"):
            case.reasons.append(f"it names an appliance and {unit}")
            return "electric_w"
        if is_energy(unit) and not case.parts.whole:
            case.doubts.append("it does not say whose energy it is")
            return "grid_import_w"
        case.doubts.append(f"{unit} can be heat or electricity")
        return "heat_w" if case.names("room") else ""
    if unit == "%" and case.names("room"):
        case.doubts.append("percent can be humidity, a valve's opening or a battery")
        return "relative_humidity"
    return ""


def _by_states(case: _Case) -> str:
    """Return the quantity of which the words in the cells speak."""
    states = case.values.states_of()
    if not states:
        return ""
    told = [d for d in case.names("device") for q in d.measures if q in states]
    fitting = [q for q in states if any(q in d.measures for d in told)] or list(states)
    if len(fitting) > 1:
        case.doubts.append("its words can be " + " or ".join(QUANTITIES[q].label for q in fitting))
    else:
        case.reasons.append(f"its cells say {', '.join(sorted(case.values.words)[:3])}")
    return fitting[0]


def _by_device(case: _Case) -> str:
    """Return what a device that a heading names is known to tell."""
    devices = case.names("device")
    if not devices:
        return ""
    told = list(dict.fromkeys(q for d in devices for q in d.measures))
    two_states = [q for q in told if QUANTITIES[q].is_two_states]
    if case.values.are_two_states:
        told = two_states
    elif not case.heading.unit:
        told = [q for q in told if not QUANTITIES[q].states]
    if not told:
        return ""
    case.reasons.append(f"{devices[0].name} tells {QUANTITIES[told[0]].label}")
    if len(told) > 1 or (len(devices) > 1 and devices[0].name != devices[1].name):
        case.doubts.append("it tells more than that")
    elif not case.values.are_two_states and not case.heading.unit and not case.values.lies_within(told[0], "°C"):
        case.doubts.append("its numbers are not what that usually is")
    return told[0]


def _by_values(case: _Case) -> str:
    """Return what the numbers of a column that names a part of the home could be; never sure."""
    if case.names("room") and not case.values.words:
        if any(case.values.lies_within("room_temperature", unit) for unit in ("°C", "°F")):
            case.doubts.append("it names a room but no quantity; its numbers could be temperatures")
            return "room_temperature"
        case.doubts.append("it names a room but no quantity, and its numbers are no room temperatures")
        return ""
    if case.names("machine") and not case.values.words:
        case.doubts.append("it names an appliance but no quantity; its numbers could be its power")
        return "electric_w"
    return ""


def _unit(case: _Case, quantity: str) -> str:
    """Return the unit of a column: as written, else as its values leave no other."""
    unit, known = case.heading.unit, QUANTITIES[quantity]
    if unit:
        if not known.states and not is_energy(unit) and not case.values.lies_within(quantity, unit):
            case.doubts.append(f"its numbers are not what {known.label} in {unit} usually is")
        elif not known.states:
            case.reasons.append(f"its unit is {unit}")
        return unit
    if known.states:
        if not case.values.are_two_states and quantity not in case.values.states_of():
            case.doubts.append(f"its cells are no states of {known.label}")
        return "1"
    fitting = [u for u in ("°C", "°F", "K") if u in UNITS_OF[quantity] and case.values.lies_within(quantity, u)]
    if known.unit == "°C":
        return _temperature_unit(case, fitting)
    if known.is_power:
        if case.values.largest <= MOST_KW:
            case.doubts.append("its numbers can be W or kW")
        else:
            case.reasons.append("its numbers are too large for kW")
        return "W"
    if known.unit == "%":
        return _percent(case)
    if known.key == "co2" or (known.key == "radio_strength" and case.values.lies_within(quantity, "dBm")):
        return known.unit
    if known.key == "light":
        return "lx"
    case.doubts.append("its unit is not written")
    return known.unit


def _temperature_unit(case: _Case, fitting: Sequence[str]) -> str:
    if len(fitting) == 1:
        case.reasons.append(f"its numbers can only be {fitting[0]}")
        return fitting[0]
    if not fitting:
        case.doubts.append("its numbers are temperatures in no unit")
        return case.subjects.unit
    case.units = tuple(fitting)
    case.doubts.append(units_doubt(fitting))
    return case.subjects.unit if case.subjects.unit in fitting else fitting[0]


def units_doubt(units: Sequence[str]) -> str:
    """Return the doubt of numbers that can be in several units."""
    return "its numbers can be " + " or ".join(units)


def _percent(case: _Case) -> str:
    low, high = (float(f(case.values.numbers)) if case.values.numbers.size else 0.0 for f in (min, max))
    if high > 100 or low < 0:
        case.doubts.append("its numbers are no percent")
    elif high <= 1.0:
        case.doubts.append("its numbers can be a share of one")
    return "%"


def _subject(case: _Case, quantity: Quantity) -> str:
    """Return whose readings a column's are, "" where nobody can tell or it needs no subject."""
    if not quantity.needs_subject:
        named = [d for d in case.names("device") if quantity.is_of_device(d.device_kind)]
        named = named or (case.names("person") if quantity.of_person else [])
        if named:
            return named[0].id
        if case.parts.whole:
            case.doubts.append(f"it names {case.parts.whole[0].name}, but {quantity.label} is that of {quantity.whole}")
        return ""
    able = _able(case, quantity)
    named = [s for s in case.parts.whole if s in able]
    if not named and (quantity.of_devices or quantity.of_any_device):
        # The device that stands in the room that is named.
        rooms = {s.id for s in case.names("room")}
        named = [s for s in able if s.kind == "device" and s.room_id in rooms]
        if named:
            case.reasons.append(f"{named[0].name} stands there")
    if len({s.kind for s in named}) > 1:
        named = _narrowed(named, quantity)
    if len(named) == 1:
        case.reasons.append(
            f"it names {named[0].name}" if named[0] in case.parts.whole else f"so it is of {named[0].name}"
        )
        return named[0].id
    if named:
        case.doubts.append("it can be of " + " or ".join(s.name for s in named[:3]))
        return ""
    return _unnamed_subject(case, able)


def _narrowed(named: list[LogSubject], quantity: Quantity) -> list[LogSubject]:
    """Return of parts of several kinds those of one: a device known to tell a quantity, else the room, else the machine."""
    telling = [s for s in named if s.kind == "device" and quantity.key in s.measures]
    of_room = [s for s in named if s.kind == "room"] if quantity.of_room else []
    of_machine = [s for s in named if s.kind == "machine"] if quantity.of_machine else []
    return telling or of_room or of_machine or [s for s in named if s.kind == "device"]


def _able(case: _Case, quantity: Quantity) -> list[LogSubject]:
    """Return the parts of the home to which a quantity can belong."""
    rooms = case.subjects.rooms if quantity.of_room else ()
    machines = case.subjects.machines if quantity.of_machine else ()
    devices = [
        d
        for d in case.subjects.devices
        if (quantity.is_of_device(d.device_kind) and (quantity.key != "battery" or d.has_battery))
        or (quantity.key in d.measures and not quantity.of_machine)
    ]
    return [*devices, *machines, *rooms]


def _unnamed_subject(case: _Case, able: list[LogSubject]) -> str:
    partly = [s for s in case.parts.partly if s in able]
    if len(partly) == 1:
        case.doubts.append(f"it names {partly[0].name} only in part")
        return partly[0].id
    if partly:
        case.doubts.append("it can be of " + " or ".join(s.name for s in partly[:3]))
        return ""
    if case.parts.whole:
        case.doubts.append(f"no part of this home that could tell it stands at {case.parts.whole[0].name}")
        return ""
    if len(able) == 1 and able[0].kind != "device":
        # The only room or machine of the home; a word that nobody can place is doubted by itself.
        case.reasons.append(f"{able[0].name} is the only part of this home that it can be of")
        return able[0].id
    case.doubts.append("it names no part of this home")
    return ""


def _kind(case: _Case, quantity: str, unit: str) -> Kind:
    """Return what a value of a column stands for."""
    known, values = QUANTITIES[quantity], case.values
    if known.is_held or known.states:
        return "held"
    if not known.is_power:
        return "instant"
    if not is_energy(unit):
        return "mean" if values.is_even else "held"
    if case.says("day") and values.course != "varies":
        case.reasons.append("its words say that it counts each day")
        return "daily"
    if case.says("counter") and values.course != "counts each day":
        case.reasons.append("its words say a counter")
        return "counter"
    if values.course == "counts":
        case.reasons.append("it counts up")
        return "counter"
    if values.course == "counts each day":
        case.reasons.append("it counts up anew each day")
        return "daily"
    if values.course == "rises at times":
        case.doubts.append("it only rises on the lines looked at: a counter, or the energy of each step")
        rise = values.numbers[-1] - values.numbers[0]
        return "counter" if rise < values.numbers[-1] / 2 else "sum"
    if not values.is_even:
        case.doubts.append("its lines come unevenly, so that no energy of a step is known")
    return "sum"


def _doubt_words(case: _Case) -> None:
    """Doubt what has words that nobody can place."""
    rest = [
        word
        for word in case.said.unplaced
        if not any(word in "".join(s.name.lower().split()) for s in case.parts.whole)
    ]
    if rest:
        case.doubts.append(f"it also says “{' '.join(rest)}”")
    if len(case.names("room")) > 1:
        case.doubts.append("it names several rooms")
