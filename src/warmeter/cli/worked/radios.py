"""Worked examples of radio sensors (Q6, Q13)."""

from collections.abc import Callable

from warmeter.cli.worked import Case
from warmeter.core.radio.match import DisplayReading, MatchNoise, Message, radio_match
from warmeter.core.radio.odds import Ranking
from warmeter.core.radio.successor import QuantityNoise, radio_successor


def q6(i: Case) -> Case:
    """Radio match."""
    found = radio_match(
        [Message(t_s=m["t_s"], id=m["id"], channel=_channel(m), values=_values(m)) for m in i["messages"]],
        [
            DisplayReading(
                quantity="T", t_s=r["t_s"], value=r["value"], step=r["step"], lag_s=r["lag_s"], channel=_channel(r)
            )
            for r in i["readings"]
        ],
        {"T": MatchNoise(sd=i["sd"], slip=i["slip"], none_span=i["none_span"])},
        i["sure"],
    )
    rows = [{"id": o.id, "p": o.p, "log10_odds": o.log10_odds, "used": o.used} for o in found.posterior]
    return {"posterior": rows, "best": found.best}


def q13(i: Case) -> Case:
    """Radio readopt."""
    found = radio_successor(
        _sender(i["old"]),
        [_sender(each) for each in i["new"]],
        {name: QuantityNoise(**noise) for name, noise in i["quantities"].items()},
        max_gap_s=i["max_gap_s"],
        channel_factor=i["channel_factor"],
        sure=i["sure"],
    )
    return _ranking(found)


def _ranking(found: Ranking) -> Case:
    return {
        "posterior": [{"id": o.id, "p": o.p, "log10_odds": o.log10_odds} for o in found.posterior],
        "best": found.best,
    }


def _sender(case: Case) -> Message:
    return Message(id=case["id"], t_s=case["t_s"], channel=_channel(case), values=case["values"])


def _values(case: Case) -> dict[str, float]:
    return {} if case["value"] is None else {"T": case["value"]}


def _channel(case: Case) -> str | None:
    return None if case["channel"] is None else str(case["channel"])


METHODS: dict[str, Callable[[Case], Case]] = {"Q6.radio_match": q6, "Q13.radio_readopt": q13}
