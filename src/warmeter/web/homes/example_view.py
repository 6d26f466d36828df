"""The example of a strip as ready coordinates: one room, one day, five numbers that explain it."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

from warmeter.core.arrays import Floats
from warmeter.core.forecast.example_day import DUE_MIN, HELD_C, PERIODS, PRICES, ExampleDay, example_day
from warmeter.core.units import MIN_PER_DAY
from warmeter.core.wording import clock_time
from warmeter.web import format as show

LEFT, PLOT = 92, 480  # px; 20 px an hour
ROOM_TOP, ROOM_HEIGHT, LOW_C, PX_K = 26, 84, 13.0, 9.0
PRICE_TOP, PRICE_HEIGHT, PRICE_PX = 110, 42, 76.0
LEAST_LABEL_PX = 16
POWER_TOP, POWER_HEIGHT = 152, 48
EVERY_MIN, DENSEST = 5, 8


@dataclass(frozen=True, slots=True)
class ExampleBlock:
    """A block of what is asked: its rectangle [px], its label, and how dense its hatching is."""

    x: float
    y: float
    width: float
    height: float
    words: str
    density: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ExampleView:
    """The picture and the words beside its five numbers."""

    width: int
    height: int
    hours: list[tuple[float, str]]
    blocks: list[ExampleBlock]
    line: str
    wedge: str
    price: str
    prices: list[tuple[float, float, str]]
    power: str
    marks: list[tuple[float, float, str]]
    start: str
    due: str
    saved_kwh: str
    saved_money: str


@lru_cache(maxsize=1)
def example_view() -> ExampleView:
    """Return the picture, worked out once."""
    day = example_day()
    ends = [at for at, _, _ in PERIODS[1:]] + [MIN_PER_DAY]
    blocks = [
        ExampleBlock(
            _x(at),
            _y(c),
            round(_x(end) - _x(at), 1),
            round(ROOM_TOP + ROOM_HEIGHT - _y(c), 1),
            f"{word} {c:g}" if end - at > 200 else f"{c:g}",
            min(DENSEST, max(1, round(c - LOW_C))),
        )
        for (at, c, word), end in zip(PERIODS, ends, strict=True)
    ]
    start = DUE_MIN - day.lead_min
    before = _y(next(c for at, c, _ in reversed(PERIODS) if at < DUE_MIN))
    wedge = f"M{_x(start)} {before}H{_x(DUE_MIN)}V{_y(HELD_C)}z"
    return ExampleView(
        width=LEFT + PLOT + 8,
        height=POWER_TOP + POWER_HEIGHT + 6,
        hours=[(_x(60 * hour), f"{hour:02d}") for hour in range(0, 25, 4)],
        blocks=blocks,
        line=_path(day.air_c[::EVERY_MIN], _y),
        wedge=wedge,
        price=_price_path(),
        prices=[(_x(at) + 5, _price_label_y(each), f"{100 * each:.1f}") for at, each in PRICES],
        power=_power_path(day),
        marks=[
            (_x(1150), _y(17.0), "1"),
            (_x(240), _y(17.4), "2"),
            (_x(start) - 12, _y(20.6), "3"),
            (_x(1080), _price_y(0.446) + 16, "4"),
            (_x(700), POWER_TOP + 16.0, "5"),
        ],
        start=clock_time(round(start)),
        due=clock_time(DUE_MIN),
        saved_kwh=show.number(day.saved_kwh, 1),
        saved_money=show.number(100 * day.saved_money, 0),
    )


def _x(minute: float) -> float:
    return round(LEFT + PLOT * minute / MIN_PER_DAY, 1)


def _y(c: float) -> float:
    return round(ROOM_TOP + ROOM_HEIGHT - PX_K * (c - LOW_C), 1)


def _price_label_y(price: float) -> float:
    """Return where a price is written: in its step where that is high enough, else over it."""
    return _price_y(price) + (12 if PRICE_PX * price > LEAST_LABEL_PX else -4)


def _price_y(price: float) -> float:
    return round(PRICE_TOP + PRICE_HEIGHT - PRICE_PX * price, 1)


def _path(values: Floats, y: Callable[[float], float]) -> str:
    return "M" + "L".join(f"{_x(k * EVERY_MIN)} {y(float(v))}" for k, v in enumerate(values))


def _price_path() -> str:
    ends = [at for at, _ in PRICES[1:]] + [MIN_PER_DAY]
    steps = "".join(f"V{_price_y(p)}H{_x(end)}" for (_, p), end in zip(PRICES, ends, strict=True))
    return f"M{_x(0)} {PRICE_TOP + PRICE_HEIGHT}{steps}V{PRICE_TOP + PRICE_HEIGHT}z"


def _power_path(day: ExampleDay) -> str:
    """Return the mean power of each quarter of an hour as a silhouette."""
    means = day.power_w.reshape(-1, EVERY_MIN * 3).mean(axis=1)
    top = float(day.power_w.max())
    steps = "".join(
        f"V{round(POWER_TOP + POWER_HEIGHT - (POWER_HEIGHT - 8) * w / top, 1)}H{_x((k + 1) * EVERY_MIN * 3)}"
        for k, w in enumerate(means)
    )
    return f"M{_x(0)} {POWER_TOP + POWER_HEIGHT}{steps}V{POWER_TOP + POWER_HEIGHT}z"
