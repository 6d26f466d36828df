"""What tests ask of figures."""

from warmeter.core.figure import Figure


def decimals_by_unit(figure: Figure) -> set[tuple[str, int]]:
    """Return the decimals with which a figure and what went into it are shown, by unit."""
    shown = {(each.unit, each.decimals) for each in figure.inputs}
    return shown | {(each.unit, each.decimals) for each in (figure, *figure.alternatives)}
