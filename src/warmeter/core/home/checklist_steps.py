"""The steps of each kind of checklist, in the order in which they are done."""

from dataclasses import dataclass

from warmeter.core.home.checklists import ChecklistKind


@dataclass(frozen=True, slots=True)
class Step:
    """A step: its key, what to do, and whether a licensed person does it."""

    key: str
    text: str
    is_licensed: bool = False


CHECKLIST_TITLE: dict[ChecklistKind, str] = {
    "floor_circuit": "Circuit of underfloor heating",
    "thermostat_swap": "Thermostat swapped",
    "valve_stroke": "Radiator valve fitted",
    "leak_test": "Alarm path of water tested",
    "device_birth": "Device put into service",
}
STEPS: dict[ChecklistKind, tuple[Step, ...]] = {
    "floor_circuit": (
        Step("dead", "Circuit dead, proved dead, locked off", True),
        Step("ohm_before", "Ohms and insulation of each mat read before laying", True),
        Step("probe", "Floor probe and its spare laid in tubes, ohms of both read"),
        Step("ohm_laid", "Ohms read after laying, before it is covered", True),
        Step("photo", "Photo of the mats with a measure in the picture"),
        Step("ohm_covered", "Ohms and insulation read after covering", True),
        Step("trip", "Fault-current device tested, milliseconds saved", True),
        Step("limiter", "Limiter set for the cover of the floor", True),
        Step("first_heat", "First heating only when the floor has cured"),
    ),
    "thermostat_swap": (
        Step("power_off", "Power of the plant off at its switch, proved dead", True),
        Step("photo", "Photo of the wires in their terminals"),
        Step("label", "Each wire labelled by its terminal, not by its colour"),
        Step("common", "A common wire is there, or a licensed person adds one", True),
        Step("voltage", "Low voltage confirmed; mains wires end the job for everybody else", True),
        Step("wires", "Wires into the terminals of their function"),
        Step("tug", "Each wire tugged: none comes out"),
        Step("power_on", "Power on; heat, cold and fan tried one after another"),
        Step("stages", "Second stage and its delay tried"),
    ),
    "valve_stroke": (
        Step("open", "Valve fully open while its head is fitted"),
        Step("stroke", "Stroke run: the head finds both ends by itself"),
        Step("adaptation", "Adaptation finished without an error"),
        Step("offset", "Its own reading held against the room's, offset typed in"),
        Step("window", "Its own window detection off where a contact watches"),
        Step("lock", "Child lock as wanted"),
        Step("exercise", "Weekly exercise on, at an hour that disturbs nobody"),
    ),
    "leak_test": (
        Step("drip", "A wet cloth or a spoon of water on the sensor's feet"),
        Step("told", "Seconds until it was told, saved"),
        Step("shut", "Seconds until the valve was shut, saved"),
        Step("tap", "A tap behind the valve runs dry"),
        Step("open", "Valve opened again by hand, sensor dried"),
    ),
    "device_birth": (
        Step("label", "Name and address on the device and in the register"),
        Step("battery", "Date of its battery saved"),
        Step("command", "One command sent, its effect seen in the room"),
        Step("outage", "Power cut and restored: it comes back as wanted"),
    ),
}
