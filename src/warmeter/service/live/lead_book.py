"""Lead times of the next blocks, worked out beside the runner once an hour: a zone is warmed up for its next block."""

import logging
import threading
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import timedelta
from typing import Any

from warmeter.core.claims.arbiter import Claim
from warmeter.core.errors import WarmeterError
from warmeter.core.home.document import Home
from warmeter.core.timetable.day import warm_up_claim
from warmeter.core.units import MS_PER_H
from warmeter.service.app import App
from warmeter.service.forecast.day_forecasts import day_forecast
from warmeter.service.logfile import note
from warmeter.store.engine import DatabaseAway, DatabaseBusy

AHEAD_DAYS = 2


@dataclass(slots=True)
class LeadBook:
    """Warm-ups by zone, as last worked out; ``is_at_once`` works them out where they are asked for, not beside."""

    is_at_once: bool = False
    warm_ups: dict[str, tuple[Claim, ...]] = field(default_factory=dict)
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
            self.warm_ups, self.why = _warm_ups(app, home, revision, now_ms), ""
        except (WarmeterError, DatabaseAway, DatabaseBusy) as error:
            # Without lead times every block begins at its own time.
            self.warm_ups, self.why = {}, str(error)
        except Exception as error:
            note("lead times not worked out", level=logging.ERROR, error=error, home=home.id)
            self.warm_ups, self.why = {}, "they could not be worked out"

    def of(self, zone_id: str) -> tuple[Claim, ...]:
        """Return a zone's warm-ups."""
        return self.warm_ups.get(zone_id, ())

    def told(self) -> dict[str, list[list[object]]]:
        """Return them as they are kept for the pages."""
        return {
            zone_id: [[claim.from_ms, claim.until_ms, claim.value, claim.reason] for claim in claims]
            for zone_id, claims in self.warm_ups.items()
        }


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


def _warm_ups(app: App, home: Home, revision: int, now_ms: int) -> dict[str, tuple[Claim, ...]]:
    today = app.clock(home).local(now_ms).date()
    found: dict[str, dict[int, Claim]] = {}
    for day in range(AHEAD_DAYS):
        forecast = day_forecast(app, home, revision, today + timedelta(days=day))
        led: set[str] = set()
        for room in forecast.rooms:
            if room.zone.id in led:
                continue
            led.add(room.zone.id)  # the first room of a zone leads it, as on the timetable
            for lead in room.leads:
                # One that is too little known is no setting: its block begins at its own time.
                if lead.lead.best and not lead.measure_first:
                    claim = warm_up_claim(lead.block, lead.lead.best)
                    found.setdefault(room.zone.id, {})[lead.block.from_ms] = claim
    return {zone_id: tuple(claims.values()) for zone_id, claims in found.items()}
