"""Older formats of a home's document brought to the present one, so that old revisions open for ever."""

from collections.abc import Callable, Iterable
from typing import Any

from warmeter.core.errors import HomeError
from warmeter.core.home.document import FORMAT

Plain = dict[str, Any]


def upgraded(document: Plain) -> Plain:
    """Return a document of any known format in the present one; the given one is not changed.

    Raises
    ------
    HomeError
        If its format is not known, with what to do.
    """
    content = document
    while content.get("format") != FORMAT:
        step = _STEPS.get(str(content.get("format")))
        if step is None:
            raise HomeError(
                f"this is no home of a format that is known here (it says {content.get('format')!r}; "
                f"this Warmeter reads up to {FORMAT}); if a newer Warmeter wrote it, open it there"
            )
        content = step(content)
    return content


def _from_1(document: Plain) -> Plain:
    """Format 2 draws rooms: what format 1 knew of a room in words becomes its description."""
    words = ("floor_area_m2", "outside_walls", "has_roof", "has_ground_floor")
    rooms = [
        {
            **{key: value for key, value in room.items() if key not in words},
            "described": {key: room[key] for key in words if key in room},
        }
        for room in document.get("rooms", ())
    ]
    return {**document, "rooms": rooms, "format": "warmeter-home/2"}


def _from_2(document: Plain) -> Plain:
    """Format 3 has several timetables a zone: the one day of format 2 becomes the usual day of the first."""
    zones = [
        {
            **{key: value for key, value in zone.items() if key != "day"},
            "timetables": [
                {"id": f"{zone['id'][:18]}-t{place}", "name": "Every day", "usual": _over_midnight(zone["day"])}
            ],
        }
        for place, zone in enumerate(document.get("zones", ()))
    ]
    levels = [{**level, "is_saving": place > 0} for place, level in enumerate(document.get("levels", ()))]
    return {**document, "zones": zones, "levels": levels, "day_kinds": _FIRST_KINDS, "format": "warmeter-home/3"}


def _from_3(document: Plain) -> Plain:
    """Format 4 has several settings a machine: the one of format 3 tells that it has finished."""
    machines = []
    for machine in document.get("appliances", ()):
        rest = {key: value for key, value in machine.items() if key not in ("threshold_w", "wait_min")}
        threshold_w, wait_min = machine.get("threshold_w"), machine.get("wait_min")
        if threshold_w is not None and wait_min is not None:
            rest["settings"] = [{"tells": "finished", "threshold_w": threshold_w, "wait_s": 60 * wait_min}]
        machines.append(rest)
    return {**document, "appliances": machines, "format": "warmeter-home/4"}


def _from_4(document: Plain) -> Plain:
    """Format 5 has rules and the chains they tell; a home of format 4 has none yet."""
    return {**document, "format": "warmeter-home/5"}


def _from_5(document: Plain) -> Plain:
    """Format 6 has the fuel of a boiler with its price; a home of format 5 says nothing of it."""
    return {**document, "format": "warmeter-home/6"}


def _from_6(document: Plain) -> Plain:
    """Format 7 calls a few parts by the field's words; what they hold stays as it is."""
    words = {"zone": "time_zone", "chains": "safety_chains", "tell_chains": "notification_groups"}
    renamed = {words.get(key, key): value for key, value in document.items()}
    rules = [rule_of_2(rule) for rule in document.get("rules", ())]
    return {**renamed, "rules": rules, "format": "warmeter-home/7"}


def _from_7(document: Plain) -> Plain:
    """Format 8 has a unit of length, weather typed for a date, and says where the design temperature comes from."""
    return {**document, "format": "warmeter-home/8"}


def _from_8(document: Plain) -> Plain:
    """Format 9 says what was put aside of what matters; in a home of format 8 nothing is."""
    return {**document, "format": "warmeter-home/9"}


def _from_9(document: Plain) -> Plain:
    """Format 10 has circuits, points of water, tests and checklists; a home of format 9 has none yet."""
    return {**document, "format": "warmeter-home/10"}


def _from_10(document: Plain) -> Plain:
    """Format 11 has people and their witnesses; a home of format 10 has none yet."""
    return {**document, "format": "warmeter-home/11"}


def _from_11(document: Plain) -> Plain:
    """Format 12 has prices by part and season: months become seasons, kinds of day days of the week."""
    tariffs = [_tariff_of_12(tariff) for tariff in document.get("tariffs", ())]
    return {**document, "tariffs": tariffs, "format": "warmeter-home/12"}


def _from_12(document: Plain) -> Plain:
    """Format 13 says how messages become readings and how devices are commanded; a home of format 12 has no link."""
    return {**document, "format": "warmeter-home/13"}


def _tariff_of_12(tariff: Plain) -> Plain:
    standing = str(tariff.get("standing_per_day", "0"))
    kept = {key: value for key, value in tariff.items() if key != "standing_per_day"}
    charges = [{"name": "Standing charge", "amount": standing, "per": "day"}] if float(standing) else []
    return {
        **kept,
        "rates": [_rate_of_12(rate) for rate in tariff["rates"]],
        "standing": charges,
        "prices_include_tax": True,
    }


def _rate_of_12(rate: Plain) -> Plain:
    hours = {key: rate[key] for key in ("from_min", "to_min") if key in rate}
    kinds = rate.get("days", ("weekday", "weekend", "holiday"))
    days = [day for kind in ("weekday", "weekend", "holiday") if kind in kinds for day in _DAYS_OF_KIND[kind]]
    return {
        "name": rate["name"],
        "price_per_unit": rate["price_per_kwh"],
        "hours": {**hours, "days": days, "seasons": _seasons_of(rate.get("months", range(1, 13)))},
    }


def _seasons_of(months: Iterable[int]) -> list[Plain]:
    """Return months as seasons, neighbours together, also over the new year; none for the whole year."""
    inside = set(months)
    if len(inside) == 12:
        return []
    begins = [m for m in sorted(inside) if (m - 2) % 12 + 1 not in inside]
    seasons = []
    for begin in begins:
        end = begin
        while end % 12 + 1 in inside:
            end = end % 12 + 1
        seasons.append({"from_day": f"{begin:02d}-01", "to_day": f"{end:02d}-{_LAST_DAY[end - 1]}"})
    return seasons


def rule_of_2(rule: Plain) -> Plain:
    """Return a rule as of ``warmeter-rules/1`` and ``warmeter-home/6`` with whom it tells called a group."""
    steps = [{"group_id" if key == "chain_id" else key: value for key, value in step.items()} for step in rule["then"]]
    return {**rule, "then": steps}


def _over_midnight(points: list[Plain]) -> list[Plain]:
    """Return a day whose block at 00:00, where it is the last one going on, is left to it."""
    same = {**points[0], "start_min": points[-1]["start_min"]} == points[-1]
    return points[1:] if len(points) > 1 and same else points


_FIRST_KINDS: list[Plain] = [
    {"id": "workday", "name": "Workday", "weekdays": [0, 1, 2, 3, 4]},
    {"id": "day-off", "name": "Day off", "weekdays": [5, 6]},
]
_DAYS_OF_KIND = {"weekday": ["mon", "tue", "wed", "thu", "fri"], "weekend": ["sat", "sun"], "holiday": ["holiday"]}
_LAST_DAY = (31, 29, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)
_STEPS: dict[str, Callable[[Plain], Plain]] = {
    "warmeter-home/1": _from_1,
    "warmeter-home/2": _from_2,
    "warmeter-home/3": _from_3,
    "warmeter-home/4": _from_4,
    "warmeter-home/5": _from_5,
    "warmeter-home/6": _from_6,
    "warmeter-home/7": _from_7,
    "warmeter-home/8": _from_8,
    "warmeter-home/9": _from_9,
    "warmeter-home/10": _from_10,
    "warmeter-home/11": _from_11,
    "warmeter-home/12": _from_12,
}
