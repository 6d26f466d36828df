"""A room's loss and thermal mass with their ranges, as surveyed or as a log taught them."""

from warmeter.core.thermal.room_fit import Estimate, Prior, RoomFit, learnt_from, survey_draws


def surveyed_heat(prior: Prior) -> tuple[Estimate, Estimate]:
    """Return a surveyed room's loss [W/K] and thermal mass [J/K]."""
    rooms, _, _ = survey_draws(prior)
    losses = [room.loss_w_k for room in rooms]
    stores = [room.air_j_k + room.fabric_j_k for room in rooms]
    return learnt_from(losses[0], losses), learnt_from(stores[0], stores)


def fitted_heat(fit: RoomFit) -> tuple[Estimate, Estimate]:
    """Return a fitted room's loss [W/K] and thermal mass [J/K]."""
    stores = [room.air_j_k + room.fabric_j_k for room in fit.rooms]
    return fit.loss_w_k, learnt_from(stores[0], stores)
