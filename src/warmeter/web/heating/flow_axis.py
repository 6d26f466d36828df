"""The flow that each room needs on the design day, on one axis with the flow now."""

from dataclasses import dataclass

from warmeter.core.building.heating import RoomHeating, SourceSummary, source_summary
from warmeter.core.home.document import Home
from warmeter.web import format as show


@dataclass(frozen=True, slots=True, kw_only=True)
class FlowDot:
    """A room's needed flow on the axis of flows."""

    name: str
    x: float
    text: str
    is_worst: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class FlowAxis:
    """The flow each room needs, on one axis."""

    width: int
    ticks: list[tuple[float, str]]
    dots: list[FlowDot]
    now_x: float | None
    now: str
    sentence: str


def summaries_of(home: Home, rooms: tuple[RoomHeating, ...]) -> list[SourceSummary]:
    """Return every source against its rooms."""
    return [source_summary(home, source, rooms) for source in home.sources]


def flow_axis(home: Home, rooms: tuple[RoomHeating, ...], width: int = 424) -> FlowAxis | None:
    """Return the flow that each room needs on one axis [px], None where no water flows to any."""
    found = [r for r in rooms if r.flow_needed_c is not None]
    summary = next((s for s in summaries_of(home, rooms) if s.lowest_flow_c is not None), None)
    if not found or summary is None:
        return None
    now = summary.source.flow_c
    values = [r.flow_needed_c or 0.0 for r in found] + ([now] if now is not None else [])
    low, high = min(values) // 2 * 2 - 2, max(values) // 2 * 2 + 4
    step = 2 if high - low <= 24 else 5 if high - low <= 50 else 10

    def x(value: float) -> float:
        return round(10 + (value - low) / (high - low) * (width - 20), 1)

    worst = summary.held_by
    reach = next((r for r in found if worst is not None and r.room.id == worst.id), found[0])
    above = "more than " if reach.is_out_of_reach else ""
    sentence = ""
    if worst is not None:
        lowest = show.temperature(summary.lowest_flow_c, home, 0)
        sentence = f"Lowest flow that serves all: {above}{lowest} {show.temperature_unit(home)}, for {worst.name}."
    return FlowAxis(
        width=width,
        ticks=[(x(v), f"{show.temperature(v, home, 0)}") for v in _range(low, high, step)],
        dots=[
            FlowDot(
                name=show.shortened(r.room.name, 20),
                x=x(r.flow_needed_c or 0.0),
                text=show.temperature(r.flow_needed_c, home, 0),
                is_worst=worst is not None and r.room.id == worst.id,
            )
            for r in found
        ],
        now_x=x(now) if now is not None else None,
        now=f"now {show.temperature(now, home, 0)}" if now is not None else "",
        sentence=sentence,
    )


def _range(low: float, high: float, step: float) -> list[float]:
    first = -(-low // step) * step
    return [first + k * step for k in range(int((high - first) / step) + 1)]
