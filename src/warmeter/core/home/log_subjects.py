"""The parts of a home to which the columns of a log can belong."""

from warmeter.core.home.document import Home
from warmeter.core.quantity import QUANTITIES
from warmeter.core.readings.column_subjects import LogSubject, LogSubjects
from warmeter.core.units import temperature_sign


def log_subjects(home: Home) -> LogSubjects:
    """Return the rooms, machines, people and devices in service of a home, with what each device is known to tell."""
    return LogSubjects(
        rooms=tuple(LogSubject(id=r.id, name=r.name, kind="room") for r in home.rooms),
        machines=tuple(LogSubject(id=a.id, name=a.name, kind="machine") for a in home.appliances),
        devices=tuple(
            LogSubject(
                id=d.id,
                name=d.name,
                kind="device",
                device_kind=d.kind,
                room_id=d.room_id or "",
                measures=(*d.measures, *(q.key for q in QUANTITIES.values() if q.states and d.kind in q.of_devices)),
                has_battery=d.power in ("battery", "mains_and_battery"),
            )
            for d in home.devices
            if d.is_in_service
        ),
        people=tuple(LogSubject(id=p.id, name=p.name, kind="person") for p in home.people),
        unit=temperature_sign(home.temperature_unit),
    )
