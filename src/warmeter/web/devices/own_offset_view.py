"""A device's own reading against its room's, as ready strings."""

from dataclasses import dataclass

from warmeter.core.home.document import Home
from warmeter.core.sensing.own_offset import SPLIT_K, OffsetOf, OwnOffset
from warmeter.core.units import kelvin_to
from warmeter.web import format as show

BAR_PX, HEIGHT_PX, FOOT_PX = 12, 40, 14


@dataclass(frozen=True, slots=True, kw_only=True)
class HourBar:
    """The offset of one local hour: place and size [px], and its words."""

    x: int
    y: float
    height: float
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnOffsetView:
    """What to type into a device, its offset by state, and by hour."""

    sentence: str
    is_sure: bool
    rows: list[tuple[str, str, str, str]]
    bars: list[HourBar]
    width: int
    height: int
    zero_y: float
    hours: list[tuple[int, str]]
    foot_y: int


def own_offset_view(home: Home, found: OwnOffset | None) -> OwnOffsetView | None:
    """Return how far a device's own reading lies off its room; None where that is not known."""
    if found is None:
        return None
    unit = show.difference_unit(home)
    rows = [_row(home, "all hours", found.whole)]
    rows += [_row(home, "while it heats", found.heating)] if found.heating is not None else []
    rows += [_row(home, "at rest", found.resting)] if found.resting is not None else []
    span = max((abs(each) for each in found.by_hour_k if each is not None), default=0.0) or 1.0
    low = min(0.0, *(each for each in found.by_hour_k if each is not None), 0.0)
    high = max(0.0, *(each for each in found.by_hour_k if each is not None), 0.0)
    per_k = HEIGHT_PX / max(high - low, span)
    zero = round(high * per_k, 1)
    bars = [
        HourBar(
            x=BAR_PX * hour + 1,
            y=round(min(zero, zero - each * per_k), 1),
            height=round(abs(each) * per_k, 1),
            words=f"{hour:02d}:00 to {(hour + 1) % 24:02d}:00: {_signed(home, each)} {unit}",
        )
        for hour, each in enumerate(found.by_hour_k)
        if each is not None
    ]
    return OwnOffsetView(
        sentence=_sentence(home, found, unit),
        is_sure=found.correction_k is not None,
        rows=rows,
        bars=bars,
        width=24 * BAR_PX,
        height=HEIGHT_PX + FOOT_PX,
        zero_y=zero,
        hours=[(BAR_PX * hour + BAR_PX // 2, f"{hour:02d}") for hour in range(0, 24, 6)],
        foot_y=HEIGHT_PX + FOOT_PX - 2,
    )


def _sentence(home: Home, found: OwnOffset, unit: str) -> str:
    used = found.heating or found.whole
    if found.correction_k is None:
        return "Measure longer first: from day to day its own reading differs by more than a step of its correction."
    typed = f"Type {_signed(home, found.correction_k)} {unit} into its own correction"
    off = f"its own reading lies {_signed(home, used.mean_k)} {unit} off that of the room"
    when = " while it heats" if found.heating is not None else ""
    split = found.differs_by_k
    if split is None or found.resting is None or abs(split) <= SPLIT_K:
        return f"{typed}: {off}{when}."
    return (
        f"{typed}: {off}{when}. At rest it lies {_signed(home, found.resting.mean_k)} {unit} off, so one number cannot "
        "serve both: let a sensor in the room control it."
    )


def _row(home: Home, words: str, of: OffsetOf) -> tuple[str, str, str, str]:
    half = f"{kelvin_to(of.half_k, home.temperature_unit):.1f}"
    return words, _signed(home, of.mean_k), half, f"{of.hours:.0f}"


def _signed(home: Home, difference_k: float) -> str:
    text = f"{kelvin_to(difference_k, home.temperature_unit):+.1f}"
    return "0.0" if text in ("+0.0", "-0.0") else text.replace("-", show.MINUS)
