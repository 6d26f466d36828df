"""What a plan of rooms promised against what the full simulation says of it."""

from dataclasses import dataclass

from warmeter.core.home.preheats import ZoneFigures

FAR_OFF_K, FAR_COST = 0.3, 0.05
# Of a zone that costs next to nothing a share says nothing [currency].
LEAST_COST = 0.02


@dataclass(frozen=True, slots=True)
class FarOff:
    """Whether simulation lies far off the promise in comfort and in cost, and whether it saves at all."""

    comfort: bool
    cost: bool
    pays: bool


def far_off(written: ZoneFigures, promised: ZoneFigures, simulated: ZoneFigures) -> FarOff:
    """Return where simulation and promise part: 0.3 K further off what is asked, 5 % of cost either way."""
    return FarOff(
        comfort=simulated.off_k > promised.off_k + FAR_OFF_K,
        cost=abs(simulated.cost - promised.cost) > max(FAR_COST * abs(promised.cost), LEAST_COST),
        pays=simulated.cost < written.cost,
    )
