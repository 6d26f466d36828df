"""All checks of a home, and the rule that each states."""

from collections import deque

from warmeter.core.building.checks import (
    circuit_checks,
    command,
    drawing,
    duct_checks,
    level_use,
    panel_checks,
    raw_checks,
    sensing_place,
    setting_checks,
    water_checks,
    witness_checks,
    zoning,
)
from warmeter.core.finding import Finding
from warmeter.core.home.document import Home

_FOUND: deque[tuple[Home, list[Finding]]] = deque(maxlen=4)
_ORDER = ("danger", "warning", "note")
RULES: dict[str, str] = (
    drawing.RULES
    | zoning.RULES
    | level_use.RULES
    | command.RULES
    | sensing_place.RULES
    | circuit_checks.RULES
    | water_checks.RULES
    | duct_checks.RULES
    | raw_checks.RULES
    | panel_checks.RULES
    | witness_checks.RULES
    | setting_checks.RULES
)


def findings_of(home: Home) -> list[Finding]:
    """Return what the checks say of a home, dangers first, then warnings, then notes.

    Homes do not change, so what was found of the last few is kept by their identity.
    """
    known = next((found for other, found in tuple(_FOUND) if other is home), None)
    if known is None:
        known = _found(home)
        _FOUND.appendleft((home, known))
    return list(known)


def _found(home: Home) -> list[Finding]:
    found = [
        *drawing.drawing_findings(home),
        *zoning.zone_findings(home),
        *level_use.level_findings(home),
        *command.command_findings(home),
        *sensing_place.place_findings(home),
        *circuit_checks.circuit_findings(home),
        *water_checks.water_findings(home),
        *duct_checks.duct_findings(home),
        *raw_checks.raw_findings(home),
        *panel_checks.panel_findings(home),
        *witness_checks.witness_findings(home),
        *setting_checks.setting_findings(home),
    ]
    return sorted(found, key=lambda finding: _ORDER.index(finding.severity))
