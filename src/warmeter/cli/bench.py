"""``warmeter bench``: speeds as ratios measured in one run."""

import argparse
import itertools
import shutil
import tempfile
import time
from pathlib import Path
from urllib.parse import urlencode
from urllib.request import Request, urlopen

import numpy as np
from scipy.integrate import solve_ivp

from warmeter.cli.bench_long_logs import long_logs
from warmeter.cli.bench_plans import plans
from warmeter.cli.bench_rules import rules
from warmeter.cli.bench_signatures import signatures
from warmeter.cli.bench_timetable import season, week_redraws
from warmeter.cli.bench_tools import cpu_seconds, private_bench, wait_for_fits
from warmeter.cli.served import Served
from warmeter.core.arrays import Floats
from warmeter.core.building.checks.findings import findings_of
from warmeter.core.building.compiled import compile_home
from warmeter.core.building.groupings import Week, ZoneGroup, run_rooms
from warmeter.core.building.losses import loss_of
from warmeter.core.edits.room_commands import MoveRoom
from warmeter.core.kernel_loading import load_kernels
from warmeter.core.thermal.identify import fit_room
from warmeter.core.thermal.network import ExactStep, exact_step
from warmeter.core.thermal.room_fit import prior_of_room
from warmeter.core.thermal.simulate import (
    BoundaryConditions,
    OnOff,
    compile_rooms,
    controlled_run,
    latest_starts,
    plain_controlled_run,
    room_system,
)
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.units import MIN_PER_DAY, S_PER_H
from warmeter.service.app import App, Person
from warmeter.service.homes.editing import edit_home
from warmeter.simulators.agreement import LOG_DAYS, log_of_run, scene_of, survey_of
from warmeter.simulators.many_rooms import many_rooms

ROOMS, YEAR_MIN, PLAIN_MIN = 10, 525_600, 20_000


def _rooms(count: int) -> list[RoomRc]:
    return [
        RoomRc(
            air_out_w_k=18.0 + k,
            air_fabric_w_k=150.0 + 5 * k,
            fabric_out_w_k=20.0 + k,
            air_j_k=3e5 + 1e4 * k,
            fabric_j_k=3e6 + 2e5 * k,
            emitter_lag_s=600.0 + 30 * k,
            convective=0.7,
        )
        for k in range(count)
    ]


def _year_boundary(minutes: int) -> BoundaryConditions:
    minute = np.arange(minutes + 1)
    outdoor = 8 - 9 * np.cos(2 * np.pi * minute / YEAR_MIN) - 3 * np.cos(2 * np.pi * (minute - 180) / MIN_PER_DAY)
    setpoint = np.where((minute[:-1] % MIN_PER_DAY > 390) & (minute[:-1] % MIN_PER_DAY < 1320), 20.0, 16.5)
    return BoundaryConditions(
        outdoor_c=np.repeat(outdoor[None, :], ROOMS, axis=0),
        gain_w=np.full((ROOMS, minutes), 80.0),
        setpoint_c=setpoint,
        start_c=np.full((ROOMS, 3), 18.0),
    )


def house_year() -> None:
    """Compare a controlled house-year of one-minute steps with the same controller in plain NumPy."""
    step = compile_rooms(_rooms(ROOMS), 2000.0, 60.0)
    control = OnOff(full_heat_w=2000.0, band_k=0.4, min_on_steps=2, min_off_steps=2)
    boundary, short = _year_boundary(YEAR_MIN), _year_boundary(PLAIN_MIN)
    fast = cpu_seconds(lambda: controlled_run(step, boundary, control))
    slow = cpu_seconds(lambda: plain_controlled_run(step, short, control)) * YEAR_MIN / PLAIN_MIN
    print(
        f"house-year, {ROOMS} rooms, 1 min steps: {fast:.2f} s; plain NumPy loop {slow:.0f} s (from {PLAIN_MIN} steps)"
    )
    print(f"  ratio {slow / fast:.0f} (aim 100)")


def linear_week() -> None:
    """Compare one linear week with SciPy's solve_ivp, and their distance."""
    a, b = room_system(_rooms(1)[0], 2000.0)
    hours = np.arange(0, 7 * 24 + 1)
    rng = np.random.default_rng(5)
    outdoor = 4 + 4 * np.sin(hours / 24 * 2 * np.pi) + rng.normal(0, 1, hours.size)
    heat = np.repeat(rng.choice([0.0, 2000.0], 7 * 24), 60)
    at_minutes = np.interp(np.arange(7 * MIN_PER_DAY + 1) / 60, hours, outdoor)
    one = exact_step(a, b, 60.0)
    step = ExactStep(one.state[None], one.now[None], one.then[None])
    start = np.full(3, 18.0)
    boundary = BoundaryConditions(
        outdoor_c=at_minutes[None, :],
        gain_w=heat[None, :],
        setpoint_c=np.full(heat.size, -60.0),
        start_c=start[None, :],
    )
    off = OnOff(full_heat_w=2000.0, band_k=0.4, min_on_steps=1, min_off_steps=1)

    def exact() -> Floats:
        air_c: Floats = controlled_run(step, boundary, off).air_c[0, 1:]
        return air_c

    def slope(t: float, x: Floats, q: float, t0: float, o0: float, o1: float) -> Floats:
        slopes: Floats = a @ x + b @ np.array([o0 + (o1 - o0) * (t - t0) / S_PER_H, 0.0, q, 0.0])
        return slopes

    def scipy_week(rtol: float) -> Floats:
        ends, x = [], start
        minute_heat = heat.reshape(-1, 60)
        for h in range(7 * 24):
            edges = [0, *(np.flatnonzero(np.diff(minute_heat[h])) + 1).tolist(), 60]
            for begin, end in itertools.pairwise(edges):
                t0 = h * S_PER_H
                found = solve_ivp(
                    slope,
                    (t0 + begin * 60, t0 + end * 60),
                    x,
                    method="LSODA",
                    rtol=rtol,
                    atol=rtol,
                    args=(minute_heat[h, begin], t0, outdoor[h], outdoor[h + 1]),
                )
                x = found.y[:, -1]
            ends.append(x[0])
        return np.array(ends)

    reference = scipy_week(1e-12)
    error = float(np.abs(exact()[59::60] - reference).max())
    theirs = float(np.abs(scipy_week(1e-9) - reference).max())
    fast, slow = cpu_seconds(exact, 9), cpu_seconds(lambda: scipy_week(1e-9), 1)
    print(
        f"linear week: exact steps {1000 * fast:.1f} ms, solve_ivp (LSODA, 1e-9, off by {theirs:.0e} K) {1000 * slow:.0f} ms, ratio {slow / fast:.0f}"
    )
    print(f"  largest distance from solve_ivp at 1e-12: {error:.1e} K (asked: at most 1e-6 K)")


def fits_and_leads() -> None:
    """Time a fit of two weeks and a lead time with its range."""
    scene = scene_of(900_001, "stores")
    house, run = scene.house(), scene.run()
    log = log_of_run(scene.rng, run, LOG_DAYS)
    prior = prior_of_room(survey_of(scene.rng, house.parameters), house.parameters.floor_area_m2)
    fitted = []
    seconds = cpu_seconds(lambda: fitted.append(fit_room(log, prior, full_heat_w=house.parameters.full_heat_w)), 1)
    fit = fitted[0]
    step = compile_rooms(fit.rooms, house.parameters.full_heat_w, 60.0)
    draws, minutes = len(fit.rooms), 720
    boundary = BoundaryConditions(
        outdoor_c=np.full((draws, minutes + 1), 0.0),
        gain_w=np.repeat(np.array(fit.gains_w)[:, None], minutes, axis=1),
        setpoint_c=np.full(minutes, 16.0),
        start_c=np.full((draws, 3), 20.0),
    )
    control = OnOff(full_heat_w=house.parameters.full_heat_w, band_k=0.4, min_on_steps=2, min_off_steps=2)
    night = controlled_run(step, boundary, control)
    lead = cpu_seconds(
        lambda: latest_starts(
            step, boundary, night, full_heat_w=control.full_heat_w, target_c=20.0, due=minutes, earliest=0
        ),
        9,
    )
    one = cpu_seconds(lambda: controlled_run(step, boundary, control), 9)
    print(f"fit of 14 days at 5 min, three models: {seconds:.2f} s")
    print(f"lead time with its range ({draws} draws): {1000 * lead:.1f} ms, {lead / one:.1f} times one simulated night")


def redraws() -> None:
    """Time what a moved block costs at the server, eight rooms with ranges, over 40 edits of the demo."""
    folder = Path(tempfile.mkdtemp(prefix="warmeter-bench-"))
    try:
        with Served(folder / "data") as served:
            path = f"{served.address}/homes/sail-loft/timetable"
            start = time.perf_counter()
            urlopen(f"{path}?day=2026-01-21").read()  # noqa: S310  (loopback)
            first = time.perf_counter() - start
            wait_for_fits(served.address)
            page = urlopen(f"{path}?day=2026-01-21").read().decode()  # noqa: S310  (loopback)
            base = int(page.split('data-base="', 1)[1].split('"', 1)[0])
            taken = [_edit(path, base, k) for k in range(40)]
    finally:
        shutil.rmtree(folder, ignore_errors=True)
    middle, late = np.quantile(taken, [0.5, 0.95])
    print(f"first request after the start: {1000 * first:.0f} ms")
    print(
        f"redraw after a moved period, eight rooms: median {1000 * middle:.0f} ms, p95 {1000 * late:.0f} ms (asked: 300 ms)"
    )


def _edit(path: str, base: int, k: int) -> float:
    """Move a block and return how long the answer took [s]."""
    fields = {"zone_id": "zo-loft", "block": "20260121.2", "minute": 930 + 5 * (k % 12), "base": base + k}
    request = Request(  # noqa: S310  (loopback)
        f"{path}/minute?day=2026-01-21",
        data=urlencode(fields).encode(),
        headers={"HX-Request": "true", "X-Window": f"w{k}"},
    )
    start = time.perf_counter()
    with urlopen(request) as answer:  # noqa: S310  (loopback)
        answer.read()
    return time.perf_counter() - start


def survey_edits() -> None:
    """Time edits of the plan of sixty rooms: loading, validation, checks, losses, saving; and a week of groupings."""
    with private_bench() as app:
        home = many_rooms()
        app.homes.create(home, author="bench", at_ms=app.now_ms(), summary="made")
        taken = [_survey_edit(app, home.id, k) for k in range(40)]
    middle, late = np.quantile(taken, [0.5, 0.95])
    print(
        f"edit of a plan of sixty rooms, with checks and losses: median {1000 * middle:.0f} ms, "
        f"p95 {1000 * late:.0f} ms (asked: 100 ms)"
    )
    compiled = compile_home(home)
    rooms, steps = len(compiled.room_ids), 10 * MIN_PER_DAY
    week = Week(
        outdoor_c=np.zeros(steps), gain_w=np.zeros((rooms, steps)), needs_c=np.full((rooms, steps), 20.0), price=None
    )
    zones = tuple(ZoneGroup(name=str(k), rooms=(k,), setpoint_c=week.needs_c[k], weights=(1.0,)) for k in range(rooms))
    print(
        f"ten days of sixty rooms together, by the minute: {cpu_seconds(lambda: run_rooms(compiled, week, zones), 3):.2f} s"
    )


def _survey_edit(app: App, home_id: str, k: int) -> float:
    """Move a room, save, and work out all that follows; return how long it took [s]."""
    start = time.perf_counter()
    home, base = app.homes.load(home_id)
    room = home.rooms[k % len(home.rooms)].id
    edit_home(app, home_id, base, Person("bench"), MoveRoom(room_id=room, dx_m=0.01, dy_m=0.0))
    fresh, _ = app.homes.load(home_id)
    findings_of(fresh)
    for each in fresh.rooms:
        loss_of(fresh, each)
    return time.perf_counter() - start


def run(_: argparse.Namespace) -> int:
    """Print all of it."""
    load_kernels()
    house_year()
    linear_week()
    fits_and_leads()
    survey_edits()
    redraws()
    week_redraws()
    season()
    signatures()
    rules()
    for line in plans():
        print(line)
    long_logs()
    return 0
