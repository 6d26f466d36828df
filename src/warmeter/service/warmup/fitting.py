"""Fitting a room from its readings."""

from collections.abc import Callable

from warmeter.core.building.heating import full_heat_w
from warmeter.core.building.losses import prior_of
from warmeter.core.thermal.identify import fit_room
from warmeter.service.app import App
from warmeter.service.readings.room_logs import room_log


def fit_logged(app: App, home_id: str, room_id: str, revision: int, progress: Callable[[float, str], None]) -> None:
    """Fit a room of a revision from its readings and store the fit; ``progress`` is told shares and may raise."""
    home, _ = app.homes.load(home_id, revision)
    room = home.room(room_id)
    heater = home.heater_of(room_id)
    logged = room_log(app, home, room)
    fit = fit_room(
        logged.log,
        prior_of(home, room),
        full_heat_w=full_heat_w(home, room_id) if heater else 1000.0,
        plate_w=full_heat_w(home, room_id) if heater else None,
        progress=progress,
    )
    app.work.save_fit(
        home_id,
        room_id,
        fit,
        log_start_ms=logged.start_ms,
        step_s=logged.log.step_s,
        at_ms=app.now_ms(),
        revision=revision,
    )
