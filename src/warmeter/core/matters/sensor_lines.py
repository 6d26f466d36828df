"""Sensors that decide and were never checked: what they may cost, and what checking them brings."""

from collections.abc import Iterator

from warmeter.core.figure import Figure
from warmeter.core.matters.evidence import HomeEvidence
from warmeter.core.matters.heat_year import kelvin_costs
from warmeter.core.matters.line import LEAST_MONEY, MatterLine, MeasureOffer, MoneyDoubt, YearlyMoney
from warmeter.core.sentence import kelvin, sentence

SENSOR_DOUBT_K = 0.5  # a room sensor that nobody checked, as its maker promises
CHECKED_FACTOR = 0.3  # a checked thermometer knows a sensor to 0.15 K
CHECK_MIN, EACH_MIN = 10, 5


def sensor_lines(evidence: HomeEvidence) -> Iterator[MatterLine]:
    """Yield one line for all sensors that decide and were never checked; none without a year of weather and a price."""
    climate = evidence.climate
    if climate is None:
        return
    doubts, names, whole = [], [], 0.0
    for zone in evidence.home.zones:
        devices = [evidence.home.device(key) for key in zone.counted_ids]
        rooms = [room for room in evidence.rooms if room.zone_id == zone.id]
        unchecked = [d for d in devices if not d.calibrations]
        if not unchecked or not rooms:
            continue
        per_k = sum(kelvin_costs(room, climate) for room in rooms)
        half = per_k * SENSOR_DOUBT_K * len(unchecked) ** 0.5 / len(devices)
        doubts.append(MoneyDoubt(cause=f"sensor:{zone.id}", down=half, up=half))
        names += [d.name for d in unchecked]
        whole += per_k
    if whole * SENSOR_DOUBT_K < LEAST_MONEY:
        return
    money = YearlyMoney(value=0.0, doubts=tuple(doubts))
    yield MatterLine(
        key="sensors",
        kind="unknown",
        sentence=f"{len(names)} sensor{'s' * (len(names) != 1)} that decide{'s' * (len(names) == 1)} "
        f"{'were' if len(names) != 1 else 'was'} never checked",
        why=sentence(
            "{}: each may be {} off either way, which costs heat or comfort.", ", ".join(names), kelvin(SENSOR_DOUBT_K)
        ),
        minutes=CHECK_MIN + EACH_MIN * len(names),
        step="devices",
        money=money,
        figure=Figure(
            key="sensors",
            title="What sensors nobody checked may cost",
            unit=f"{evidence.home.currency} a year",
            value=0.0,
            low=money.low,
            high=money.high,
            decimals=0,
            formula="± 0.5 K/√n · Σ rooms (H · 8760 h · share of heated days · price/efficiency)",
            substituted=sentence("{} of all rooms cost {:.0f} a year", kelvin(1), whole),
            method="steady loss over the year's days; sensors err each by itself",
            note="Best is none: a sensor that nobody checked is as likely too high as too low.",
        ),
    )


def sensor_offers(evidence: HomeEvidence) -> Iterator[MeasureOffer]:
    """Yield the check of all sensors that decide and were never checked."""
    unchecked = [
        zone for zone in evidence.home.zones if any(not evidence.home.device(d).calibrations for d in zone.counted_ids)
    ]
    if unchecked:
        yield MeasureOffer(
            key="check-sensors",
            title="Lay the sensors that decide beside a checked thermometer",
            how="an hour in one place out of the sun; write what each shows",
            causes=tuple(f"sensor:{zone.id}" for zone in unchecked),
            factor=CHECKED_FACTOR,
            minutes=CHECK_MIN + EACH_MIN * len(unchecked),
            step="devices",
        )
