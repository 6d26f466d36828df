"""What is worked out beside the runner once an hour: lead times of the next blocks, expected temperatures, sensors' health."""

import logging
import threading
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import timedelta
from typing import Any

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.claims.arbiter import Claim
from warmeter.core.errors import WarmeterError
from warmeter.core.forecast.from_now import expected_from
from warmeter.core.home.document import Home
from warmeter.core.timetable.day import warm_up_claim
from warmeter.core.units import MS_PER_H, MS_PER_MIN
from warmeter.service.app import App
from warmeter.service.forecast.day_forecasts import day_forecast
from warmeter.service.live.latest_values import latest_values
from warmeter.service.live.sensor_faults import SensorFault, sensor_faults
from warmeter.service.logfile import note
from warmeter.store.engine import DatabaseAway, DatabaseBusy

AHEAD_DAYS = 2
EXPECTED_MIN, EXPECTED = 15, 24  # the next six hours: they are worked out anew every hour


@dataclass(frozen=True, slots=True, kw_only=True)
class ExpectedRoom:
    """A room's expected temperature [°C] at even times from an instant on [ms UTC]."""

    from_ms: int
    values_c: tuple[float, ...]


@dataclass(slots=True)
class HourlyWork:
    """Warm-ups by zone, expected temperatures by room and what is wrong with sensors, as last worked out.

    ``is_at_once`` works it out where it is asked for, not beside.
    """

    is_at_once: bool = False
    sensors: dict[str, tuple[SensorFault, ...]] = field(default_factory=dict)
    warm_ups: dict[str, tuple[Claim, ...]] = field(default_factory=dict)
    expected: dict[str, ExpectedRoom] = field(default_factory=dict)
    why: str = ""
    _key: tuple[object, ...] = ()
    _thread: threading.Thread | None = None

    def renew(self, app: App, home: Home, revision: int, now_ms: int) -> None:
        """Work them out anew if an hour or an edit has passed since; what stands counts until that is done."""
        key = (revision, now_ms // MS_PER_H, app.work.fit_stamp(home.id))
        if key == self._key or (self._thread is not None and self._thread.is_alive()):
            return
        self._key = key
        if self.is_at_once:
            self._work_out(app, home, revision, now_ms)
            return
        self._thread = threading.Thread(target=self._work_out, args=(app, home, revision, now_ms), daemon=True)
        self._thread.start()

    def _work_out(self, app: App, home: Home, revision: int, now_ms: int) -> None:
        try:
            self.warm_ups, self.expected = _hours_ahead(app, home, revision, now_ms)
            self.why = ""
        except (WarmeterError, DatabaseAway, DatabaseBusy) as error:
            # Without lead times every block begins at its own time.
            self.warm_ups, self.expected, self.why = {}, {}, str(error)
        except Exception as error:
            note("lead times not worked out", level=logging.ERROR, error=error, home=home.id)
            self.warm_ups, self.expected, self.why = {}, {}, "they could not be worked out"

        try:
            self.sensors = sensor_faults(app, home)
        except (WarmeterError, DatabaseAway, DatabaseBusy):
            self.sensors = {}
        except Exception as error:
            note("sensors not judged", level=logging.ERROR, error=error, home=home.id)

    def of(self, zone_id: str) -> tuple[Claim, ...]:
        """Return a zone's warm-ups."""
        return self.warm_ups.get(zone_id, ())

    def told(self) -> dict[str, list[list[object]]]:
        """Return them as they are kept for the pages."""
        return {
            zone_id: [[claim.from_ms, claim.until_ms, claim.value, claim.reason] for claim in claims]
            for zone_id, claims in self.warm_ups.items()
        }

    def expected_told(self) -> dict[str, list[object]]:
        """Return the expected temperatures as they are kept for the pages."""
        return {room_id: [each.from_ms, list(each.values_c)] for room_id, each in self.expected.items()}


def warm_ups_told(told: Mapping[str, Any], zone_id: str) -> tuple[Claim, ...]:
    """Return a zone's warm-ups as they were kept."""
    return tuple(
        Claim(
            kind="timetable",
            value=float(value),
            from_ms=int(from_ms),
            until_ms=int(until_ms),
            reason=str(reason),
            id=f"warm-up.{until_ms}",
        )
        for from_ms, until_ms, value, reason in told.get(zone_id, [])
    )


def expected_told(told: Mapping[str, Any], room_id: str) -> ExpectedRoom | None:
    """Return a room's expected temperatures as they were kept, None where there are none."""
    found = told.get(room_id)
    return None if found is None else ExpectedRoom(from_ms=int(found[0]), values_c=tuple(map(float, found[1])))


def _hours_ahead(
    app: App, home: Home, revision: int, now_ms: int
) -> tuple[dict[str, tuple[Claim, ...]], dict[str, ExpectedRoom]]:
    today = app.clock(home).local(now_ms).date()
    found: dict[str, dict[int, Claim]] = {}
    values = latest_values(app, home)
    ends_c: dict[str, float] = {}
    by_minute: dict[str, Floats] = {}
    for day in range(AHEAD_DAYS):
        forecast = day_forecast(app, home, revision, today + timedelta(days=day))
        led: set[str] = set()
        for room in forecast.rooms:
            if room.zone.id in led:
                continue
            led.add(room.zone.id)  # the first room of a zone leads it, as on the timetable
            minute = max(0, (now_ms - forecast.day.start_ms) // MS_PER_MIN)
            last_c = values.fresh("room_temperature", room.room.id, now_ms) if day == 0 else ends_c.get(room.room.id)
            if last_c is not None:
                ahead_c = expected_from(room, minute, last_c)
                ends_c[room.room.id] = float(ahead_c[-1])
                by_minute[room.room.id] = np.append(by_minute.get(room.room.id, np.zeros(0)), ahead_c)
            for lead in room.leads:
                # One that is too little known is no setting: its block begins at its own time.
                if lead.lead.best and not lead.measure_first:
                    claim = warm_up_claim(lead.block, lead.lead.best)
                    found.setdefault(room.zone.id, {})[lead.block.from_ms] = claim
    warm_ups = {zone_id: tuple(claims.values()) for zone_id, claims in found.items()}
    expected = {
        room_id: ExpectedRoom(
            from_ms=now_ms, values_c=tuple(round(float(v), 2) for v in row[: EXPECTED * EXPECTED_MIN : EXPECTED_MIN])
        )
        for room_id, row in by_minute.items()
    }
    return warm_ups, expected
