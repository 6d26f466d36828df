"""What is wrong with sensors that are heard: stuck, jumping, out of range, drifting against the others of their room."""

from typing import Literal

from warmeter.core.home.document import Home
from warmeter.core.sensing.drift import DRIFT_LIMIT_K
from warmeter.core.sensing.health import HealthFlag
from warmeter.service.app import App
from warmeter.service.readings.sensor_log import sensor_judgement

SensorFault = HealthFlag | Literal["drift"]


def sensor_faults(app: App, home: Home) -> dict[str, tuple[SensorFault, ...]]:
    """Return what is wrong with the thermometers in service, of those with a log; silence is told by its own rhythm."""
    found: dict[str, tuple[SensorFault, ...]] = {}
    for device in home.devices:
        judged = sensor_judgement(app, home, device) if device.is_in_service else None
        if judged is None:
            continue
        faults: list[SensorFault] = [flag for flag in judged.flags if flag != "stale"]
        if judged.drift is not None and judged.drift.exceeds(DRIFT_LIMIT_K) and judged.drift.is_one_way:
            faults.append("drift")
        if faults:
            found[device.id] = tuple(faults)
    return found
