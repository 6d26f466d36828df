"""Speeds of the timetable: a week of ten rooms redrawn after an edit, four timetables over a season."""

import shutil
import tempfile
import time
from dataclasses import replace
from datetime import date
from decimal import Decimal
from pathlib import Path
from urllib.parse import urlencode
from urllib.request import Request, urlopen

import numpy as np

from warmeter.cli.bench_tools import private_bench
from warmeter.cli.served import Served
from warmeter.core.home.document import Home
from warmeter.core.home.tariffs import Rate, RateHours, Tariff
from warmeter.core.home.timetables import ChangePoint, DayKind, DayProfile, Timetable
from warmeter.core.home.zones import Level
from warmeter.service.timetable.comparisons import ComparisonRequest, compare
from warmeter.simulators.many_rooms import many_rooms
from warmeter.store.codec import home_to_json

ROOMS, EDITS = 10, 40
DAY = "2026-01-21"
_BOUNDARY = "warmeter-bench"


def ten_rooms() -> Home:
    """Return ten rooms of the house of many, each a zone with workdays, days off, two levels and two timetables."""
    house = many_rooms(1)
    kept = {room.id for room in house.rooms[:ROOMS]}
    levels = (
        Level(id="l", name="In use", heating_c=20.0),
        Level(id="low", name="Idle", heating_c=16.0, is_saving=True),
    )
    morning = (ChangePoint(start_min=390, level_id="l"), ChangePoint(start_min=510, level_id="low"))
    evening = (ChangePoint(start_min=1020, level_id="l"), ChangePoint(start_min=1350, level_id="low"))
    off = (ChangePoint(start_min=480, level_id="l"), ChangePoint(start_min=1410, level_id="low"))
    zones = tuple(
        replace(
            zone,
            timetables=(
                Timetable(
                    id=f"{zone.id}-a",
                    name="Winter",
                    usual=(*morning, *evening),
                    days=(DayProfile(of="off", points=off),),
                ),
                Timetable(id=f"{zone.id}-b", name="Away", usual=(ChangePoint(start_min=0, level_id="low"),)),
            ),
        )
        for zone in house.zones
        if set(zone.room_ids) <= kept
    )
    rates = (
        Rate(name="night", hours=RateHours(from_min=0, to_min=360), price_per_unit=Decimal("0.15")),
        Rate(name="day", price_per_unit=Decimal("0.30")),
    )
    return replace(
        house,
        id="ten-rooms",
        name="Ten rooms",
        rooms=tuple(r for r in house.rooms if r.id in kept),
        openings=tuple(o for o in house.openings if o.room_id in kept),
        heaters=tuple(h for h in house.heaters if h.room_id in kept),
        devices=tuple(d for d in house.devices if d.room_id in kept),
        levels=levels,
        day_kinds=(DayKind(id="off", name="Day off", weekdays=(5, 6)),),
        zones=zones,
        tariffs=(Tariff(id="tariff", name="Two rates", currency="EUR", rates=rates),),
    )


def week_redraws() -> None:
    """Time what an edit of the week costs at the server, over HTTP, ten zones and their rooms with ranges."""
    folder = Path(tempfile.mkdtemp(prefix="warmeter-bench-"))
    try:
        with Served(folder / "data", "--no-demo") as served:
            _bring_in(served.address)
            path = f"{served.address}/homes/ten-rooms/timetable"
            view = f"day={DAY}&pane=week&low=-4&high=5"
            urlopen(f"{path}?{view}").read()  # noqa: S310  (loopback)
            taken = [_edit(path, view, k) for k in range(EDITS)]
    finally:
        shutil.rmtree(folder, ignore_errors=True)
    middle, late = np.quantile(taken, [0.5, 0.95])
    print(
        f"redraw of the week after a moved period, ten rooms: median {1000 * middle:.0f} ms, "
        f"p95 {1000 * late:.0f} ms (asked: 300 ms)"
    )


def _bring_in(address: str) -> None:
    """Bring the home in through the page of homes, as a file."""
    body = (
        f'--{_BOUNDARY}\r\nContent-Disposition: form-data; name="file"; filename="ten.json"\r\n\r\n'
        f"{home_to_json(ten_rooms()).decode()}\r\n--{_BOUNDARY}--\r\n"
    ).encode()
    headers = {"Content-Type": f"multipart/form-data; boundary={_BOUNDARY}", "Origin": address}
    with urlopen(Request(f"{address}/homes/bring-in", data=body, headers=headers)) as answer:  # noqa: S310  (loopback)
        answer.read()


def _edit(path: str, view: str, k: int) -> float:
    """Move a block of one zone and return how long the answer took [s]."""
    zone = f"z-0-{k % ROOMS}"
    fields = {"zone_id": zone, "block": "20260121.2", "start": f"16:{5 * (k % 11):02d}", "base": 1 + k}
    request = Request(  # noqa: S310  (loopback)
        f"{path}/start?{view}", data=urlencode(fields).encode(), headers={"HX-Request": "true", "X-Window": f"w{k}"}
    )
    start = time.perf_counter()
    with urlopen(request) as answer:  # noqa: S310  (loopback)
        answer.read()
    return time.perf_counter() - start


def season() -> None:
    """Time four timetables of ten rooms over a season of made-up weather."""
    with private_bench() as app:
        home = ten_rooms()
        app.homes.create(home, author="bench", at_ms=app.now_ms(), summary="made")
        asked = ComparisonRequest(
            variants=("now", "hold", "name:Winter", "name:Away"), first=date(2025, 10, 1), last=date(2026, 4, 30)
        )
        taken = []
        for _ in range(3):
            start = time.perf_counter()
            compare(app, home, 1, asked, lambda _share, _words: None)
            taken.append(time.perf_counter() - start)
    print(f"four timetables of ten rooms over 212 days: {min(taken):.2f} s (asked: 5 s)")
