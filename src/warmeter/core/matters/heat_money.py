"""What something is worth in rooms over a year, by the causes of its doubt, and how that was worked out."""

from collections.abc import Callable, Sequence

from warmeter.core.figure import Figure, Input
from warmeter.core.matters.evidence import ClimateYear, HeatedRoom
from warmeter.core.matters.heat_year import kelvin_costs, with_loss, with_store
from warmeter.core.matters.line import MoneyDoubt, YearlyMoney
from warmeter.core.sentence import kelvin, sentence
from warmeter.core.units import J_PER_WH

# 95 % half widths over the amount: what one year differs from the next in degree days, and the closed form of one
# store from a room of two stores.
YEAR_DOUBT, MADE_UP_DOUBT, FORM_DOUBT = 0.12, 0.20, 0.30
LOGGED_DAYS = 300  # of a year; with fewer its weather is made up for the most part

Worth = Callable[[HeatedRoom], float]


def rooms_money(
    climate: ClimateYear, rooms: Sequence[HeatedRoom], worth: Worth, form: float = FORM_DOUBT
) -> YearlyMoney:
    """Return what something is worth in some rooms, with the doubt of each room's loss and mass, the year and the form."""
    values = [worth(room) for room in rooms]
    value = sum(values)
    doubts = []
    for room, best in zip(rooms, values, strict=True):
        loss, store = room.loss_w_k, room.store_j_k
        doubts.append(_doubt(f"loss:{room.room_id}", best, [worth(with_loss(room, x)) for x in (loss.low, loss.high)]))
        ends = [worth(with_store(room, x)) for x in (store.low, store.high)]
        doubts.append(_doubt(f"store:{room.room_id}", best, ends))
    year = YEAR_DOUBT if climate.logged_days > LOGGED_DAYS else MADE_UP_DOUBT
    doubts.append(MoneyDoubt(cause="weather", down=year * abs(value), up=year * abs(value)))
    if form:
        doubts.append(MoneyDoubt(cause="one store", down=form * abs(value), up=form * abs(value)))
    return YearlyMoney(value=value, doubts=tuple(doubts))


def _doubt(cause: str, best: float, ends: Sequence[float]) -> MoneyDoubt:
    return MoneyDoubt(cause=cause, down=max(0.0, best - min(ends)), up=max(0.0, max(ends) - best))


def setback_figure(
    key: str, title: str, climate: ClimateYear, rooms: Sequence[HeatedRoom], money: YearlyMoney
) -> Figure:
    """Return how a setback's money was worked out, with the numbers of the largest room."""
    lead = max(rooms, key=lambda room: room.loss_w_k.value)
    return Figure(
        key=key,
        title=title,
        unit=f"{lead.currency} a year",
        value=money.value,
        low=money.low,
        high=money.high,
        decimals=0,
        formula="Σ days Σ periods: cost(now) − cost(lower), each by E4 with outdoors raised by gains/H",
        substituted=f"{len(rooms)} room{'s' * (len(rooms) != 1)}, {climate.outdoor_c.size} bins of the year's days, "
        f"{climate.logged_days} of them logged",
        method="E4 cost of a setback, one store",
        inputs=_room_inputs(lead),
        note="The largest room's numbers are shown. The range holds each room's loss and mass, what one year differs from "
        "the next, and what one store differs from a room of two.",
    )


def kelvin_figure(key: str, room: HeatedRoom, climate: ClimateYear, excess_k: float, money: YearlyMoney) -> Figure:
    """Return how the money of a room's excess was worked out."""
    return Figure(
        key=key,
        title=f"{room.name}, warmer than asked",
        unit=f"{room.currency} a year",
        value=money.value,
        low=money.low,
        high=money.high,
        decimals=0,
        formula="excess · H · 8760 h · share of heated days · price/efficiency",
        substituted=sentence("{} · {:.1f} a year for each", kelvin(excess_k, 2), kelvin_costs(room, climate)),
        method="steady loss over the year's days",
        inputs=_room_inputs(room),
    )


def _room_inputs(room: HeatedRoom) -> tuple[Input, ...]:
    return (
        Input(
            symbol="H",
            name=f"heat loss, {room.name}",
            value=room.loss_w_k.value,
            unit="W/K",
            decimals=1,
            origin="measured" if room.is_fitted else "surveyed",
        ),
        Input(
            symbol="C",
            name="thermal mass",
            value=room.store_j_k.value / J_PER_WH,
            unit="Wh/K",
            decimals=0,
            origin="measured" if room.is_fitted else "surveyed",
        ),
        Input(symbol="G", name="gains", value=room.gain_w, unit="W", decimals=0, origin="assumed"),
        Input(symbol="p", name="price, mean of a week", value=room.price, unit="/kWh", decimals=3, origin="typed"),
    )
