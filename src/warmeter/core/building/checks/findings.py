"""All checks of a home, and the rule that each states."""

from warmeter.core.building.checks import command, drawing, sensing_place, zoning
from warmeter.core.finding import Finding
from warmeter.core.home.document import Home

_ORDER = ("danger", "warning", "note")
RULES: dict[str, str] = drawing.RULES | zoning.RULES | command.RULES | sensing_place.RULES


def findings_of(home: Home) -> list[Finding]:
    """Return what the checks say of a home, dangers first, then warnings, then notes."""
    found = [
        *drawing.drawing_findings(home),
        *zoning.zone_findings(home),
        *command.command_findings(home),
        *sensing_place.place_findings(home),
    ]
    return sorted(found, key=lambda finding: _ORDER.index(finding.severity))
