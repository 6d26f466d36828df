"""Checks of a home: what is doubtful, in plain words, with a mend."""

from collections.abc import Iterator

from warmeter.core.finding import Finding
from warmeter.core.home.document import Home
from warmeter.core.home.presets import surveyed_room

DESIGN_OUTDOOR_C = -5.0
FROST_C = 7.0


def findings_of(home: Home) -> list[Finding]:
    """Return what the checks say of a home, in the order of its rooms."""
    return [*_rooms(home), *_levels(home), *_guard(home), *_tariff(home)]


def _rooms(home: Home) -> Iterator[Finding]:
    for room in home.rooms:
        heater = home.heater_of(room.id)
        if heater is None:
            yield Finding(
                kind="room without heater",
                severity="note",
                place=room.id,
                sentence=f"{room.name} has no heater, so nothing can be timed there.",
                mend="Give it one, or leave it.",
            )
            continue
        need_w = surveyed_room(room).loss_w_k * (home.levels[0].heating_c - DESIGN_OUTDOOR_C) if home.levels else 0.0
        if heater.rated_heat_w < need_w:
            yield Finding(
                kind="heater too small",
                severity="warning",
                place=room.id,
                sentence=(
                    f"{heater.name} covers about {100 * heater.rated_heat_w / need_w:.0f} % of {room.name}'s "
                    f"surveyed loss at {DESIGN_OUTDOOR_C:g} °C".replace("-", "\u2212")
                    + "."
                ),
                mend="Check its rated heat, or expect long warm-ups on cold days.",
            )


def _levels(home: Home) -> Iterator[Finding]:
    for zone in home.zones:
        for point in zone.day:
            asked = point.own_setpoint_c if point.own_setpoint_c is not None else home.level(point.level_id).heating_c
            if asked < home.guard.low_c:
                yield Finding(
                    kind="below guard",
                    severity="note",
                    place=zone.id,
                    sentence=f"{zone.name} asks for less than the lower guard limit; the guard limit holds instead.",
                    mend="Raise the setpoint to the guard limit.",
                )
                break


def _guard(home: Home) -> Iterator[Finding]:
    if home.guard.low_c < FROST_C:
        yield Finding(
            kind="guard low",
            severity="danger",
            place=home.id,
            sentence=f"The lower guard limit is below {FROST_C:g} °C: pipes may freeze and damp may settle.",
            mend="Set it to between 7 and 12 °C unless a person who knows the pipes says otherwise.",
        )


def _tariff(home: Home) -> Iterator[Finding]:
    for tariff in home.tariffs:
        if tariff.currency != home.currency:
            yield Finding(
                kind="currency",
                severity="warning",
                place=tariff.id,
                sentence=f"{tariff.name} is in {tariff.currency}, the home in {home.currency}.",
                mend="Change one of them.",
            )
    if not home.tariffs:
        yield Finding(
            kind="no tariff",
            severity="note",
            place=home.id,
            sentence="There is no tariff, so no costs can be given.",
            mend="Type its rates under Tariff.",
        )
