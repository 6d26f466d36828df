"""All kinds of lines and of measurements: a new kind is one function and its place here."""

from collections.abc import Collection

from warmeter.core.matters.evidence import HomeEvidence
from warmeter.core.matters.found_lines import found_lines
from warmeter.core.matters.heat_lines import heat_lines, heat_offers
from warmeter.core.matters.line import MatterLine
from warmeter.core.matters.machine_lines import machine_lines, machine_offers
from warmeter.core.matters.ranking import Matters, matters_of, ranked
from warmeter.core.matters.sensor_lines import sensor_lines, sensor_offers
from warmeter.core.matters.waiting_lines import waiting_lines

LINES = (found_lines, heat_lines, sensor_lines, machine_lines, waiting_lines)
OFFERS = (heat_offers, sensor_offers, machine_offers)


def quick_lines(evidence: HomeEvidence) -> tuple[MatterLine, ...]:
    """Return the lines that follow from the document alone, in their order; they are those of all that need no sum."""
    return ranked([*found_lines(evidence), *waiting_lines(evidence)])


def home_matters(evidence: HomeEvidence, put_aside: Collection[str] = ()) -> Matters:
    """Return what matters in a home, without what was put aside by key."""
    lines = [line for kind in LINES for line in kind(evidence)]
    offers = [offer for kind in OFFERS for offer in kind(evidence)]
    return matters_of(lines, offers, put_aside)
