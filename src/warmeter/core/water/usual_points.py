"""What is usual of each kind of point of water: its name, what flows from it and how often it leaks."""

from dataclasses import dataclass

from warmeter.core.home.water import WaterPoint, WaterPointKind


@dataclass(frozen=True, slots=True, kw_only=True)
class UsualPoint:
    """A kind of point: its word, flow of a burst [L/min], leaks a year, and whether a valve can end it."""

    word: str
    flow_l_min: float
    leaks_year: float
    can_be_shut: bool = True


USUAL_POINT: dict[WaterPointKind, UsualPoint] = {
    "tap": UsualPoint(word="tap", flow_l_min=12.0, leaks_year=0.01),
    "tub": UsualPoint(word="tub", flow_l_min=15.0, leaks_year=0.01),
    "shower": UsualPoint(word="shower", flow_l_min=12.0, leaks_year=0.01),
    "toilet": UsualPoint(word="toilet", flow_l_min=8.0, leaks_year=0.02),
    "washing_machine": UsualPoint(word="washing machine", flow_l_min=15.0, leaks_year=0.02),
    "dishwasher": UsualPoint(word="dishwasher", flow_l_min=12.0, leaks_year=0.02),
    "water_heater": UsualPoint(word="water heater", flow_l_min=20.0, leaks_year=0.015),
    "boiler_filling": UsualPoint(word="filling of the heating", flow_l_min=6.0, leaks_year=0.01),
    "sump": UsualPoint(word="sump", flow_l_min=20.0, leaks_year=0.02, can_be_shut=False),
    "condensate": UsualPoint(word="condensate", flow_l_min=0.05, leaks_year=0.05, can_be_shut=False),
    "pool": UsualPoint(word="pool", flow_l_min=30.0, leaks_year=0.02),
    "garden": UsualPoint(word="garden", flow_l_min=15.0, leaks_year=0.02),
    "sprinkler": UsualPoint(word="sprinkler", flow_l_min=60.0, leaks_year=0.002),
}


def flow_of(point: WaterPoint) -> float:
    """Return what flows when a point bursts: typed, else as usual of its kind [L/min]."""
    return point.flow_l_min or USUAL_POINT[point.kind].flow_l_min


def leaks_of(point: WaterPoint) -> float:
    """Return how many leaks a year a point is reckoned with: typed, else as usual of its kind."""
    return USUAL_POINT[point.kind].leaks_year if point.leaks_year is None else point.leaks_year
