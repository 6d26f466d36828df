"""A limit against mould with its working."""

from warmeter.core.building.damp import CORNER_FACTOR, DampLimit
from warmeter.core.figure import Figure, Input


def damp_figure(limit: DampLimit) -> Figure:
    """Return how a limit against mould was worked out."""
    return Figure(
        key=f"damp.{limit.room.id}",
        title=f"Protection against mould, {limit.room.name}",
        unit="°C",
        value=limit.low_c,
        decimals=1,
        formula="θlow = θe + (θsi − θe)/f; θsi from φ·p(θi)/0.8",
        substituted=(
            f"{limit.outdoor_c:.1f} + ({limit.surface_c:.1f} − {limit.outdoor_c:.1f})/{limit.factor:.2f} = {limit.low_c:.1f}"
        ).replace("-", "−"),
        inputs=(
            Input(symbol="θi", name="room, mean", value=limit.indoor_c, unit="°C", decimals=1, origin="measured"),
            Input(symbol="φ", name="humidity, mean", value=100 * limit.rh, unit="%", decimals=0, origin="measured"),
            Input(symbol="θe", name="outdoor, mean", value=limit.outdoor_c, unit="°C", decimals=1, origin="measured"),
            Input(symbol="U", name=limit.element, value=limit.u_w_m2k, unit="W/(m² K)", decimals=2, origin="surveyed"),
            Input(symbol="f", name="factor of a corner", value=limit.factor, unit="", decimals=2, origin="surveyed"),
        ),
        method="D8 mould at a surface by 80 %",
        note=(
            f"A corner with furniture is taken {CORNER_FACTOR:g} below the plain element. 80 % counts as a monthly mean: "
            "one wet evening is no mould season. Any mould: find the water first."
        ),
    )
