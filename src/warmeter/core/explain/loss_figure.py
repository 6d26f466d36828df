"""A room's heat loss as its log taught it, with its working."""

from warmeter.core.figure import Figure, Input, Sensitivity
from warmeter.core.sentence import kelvin, sentence
from warmeter.core.thermal.room_fit import MODEL_NAME, RoomFit


def loss_figure(fit: RoomFit, room_name: str) -> Figure:
    """Return the fitted heat loss with the plain balance beside it."""
    balance = fit.balance
    hand = Figure(
        key="hand",
        title="By hand, plain balance",
        unit="W/K",
        value=balance.loss_w_k,
        low=balance.low_w_k,
        high=balance.high_w_k,
        decimals=1,
        formula="H = (mean heat + usual gains)/(θ̄i − θ̄e)",
        substituted=f"= ({balance.mean_heat_w:.0f} + {balance.usual_gain_w:.0f})/{balance.mean_excess_k:.1f}",
        method="B1 steady balance",
    )
    return Figure(
        key="loss",
        title=f"Heat loss, {room_name}",
        unit="W/K",
        value=fit.loss_w_k.value,
        low=fit.loss_w_k.low,
        high=fit.loss_w_k.high,
        decimals=1,
        formula="the H with which the modelled temperature runs closest to the measured one",
        substituted=sentence(
            "{}, error {} over {:.0f} h of readings", MODEL_NAME[fit.model], kelvin(fit.rmse_k, 2), fit.hours
        ),
        method="multi-step output error; B8 is not used",
        inputs=(
            Input(symbol="Φ", name="mean heat", value=balance.mean_heat_w, unit="W", decimals=0, origin="measured"),
            Input(
                symbol="G",
                name="gains nobody logged",
                value=fit.gain_w.value,
                unit="W",
                decimals=0,
                origin="worked out",
            ),
            Input(
                symbol="ΔT", name="mean excess", value=balance.mean_excess_k, unit="K", decimals=1, origin="measured"
            ),
        ),
        alternatives=(hand,),
        note="The balance must guess what people, appliances and sun gave; its range runs from none to twice the usual. The "
        "fit sees them in the shape of the days, and counts stored heat.",
        sensitivities=(
            Sensitivity(assumption="100 W more of unlogged gains", change=100 / balance.mean_excess_k),
            Sensitivity(
                assumption=sentence("room sensor {} too high", kelvin(0.5)),
                change=-0.5 * fit.loss_w_k.value / balance.mean_excess_k,
            ),
        ),
    )
