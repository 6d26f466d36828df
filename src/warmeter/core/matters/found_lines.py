"""What checks found: dangers and faults of the home, its rules and the days to come."""

from collections.abc import Iterator

from warmeter.core.finding import Finding, Severity
from warmeter.core.matters.evidence import HomeEvidence
from warmeter.core.matters.line import MatterKind, MatterLine
from warmeter.core.page_step import PageStep
from warmeter.core.sentence import celsius, sentence

KIND_OF: dict[Severity, MatterKind] = {"danger": "danger", "warning": "wrong"}
FINDING_MIN, RULE_MIN, COLD_MIN = 10, 5, 20


def found_lines(evidence: HomeEvidence) -> Iterator[MatterLine]:
    """Yield dangers and faults; what checks only note is not among them."""
    for finding in evidence.findings:
        if finding.severity in KIND_OF:
            yield MatterLine(
                key=f"{finding.kind}:{finding.place}",
                kind=KIND_OF[finding.severity],
                sentence=finding.sentence,
                why=finding.fix,
                minutes=FINDING_MIN,
                step=_step_of(evidence, finding),
                part_id=finding.place,
            )
    for found in evidence.rule_findings:
        if found.severity in KIND_OF:
            rule = evidence.home.rule(found.rule_id)
            yield MatterLine(
                key=f"rule {found.check}:{found.rule_id}:{found.part}",
                kind=KIND_OF[found.severity],
                sentence=f"{rule.name}: {found.check}",
                why=sentence("{} {}", found.sentence, found.fix) if found.fix else found.sentence,
                minutes=RULE_MIN,
                step="rules",
                part_id=found.rule_id,
            )
    for cold in evidence.cold:
        likely = "" if cold.share > 1 / 2 else f" in {cold.share:.0%} of outcomes"
        yield MatterLine(
            key=f"cold:{cold.room_id}",
            kind="danger",
            sentence=sentence(
                "{} is predicted at {}, under its protection limit of {}{}",
                cold.room_name,
                celsius(cold.lowest_c, 1),
                celsius(cold.limit_c),
                likely,
            ),
            why="Look at its heater, or ask for more warmth before. Pipes may freeze.",
            minutes=COLD_MIN,
            step="timetable",
            part_id=cold.room_id,
        )


def _step_of(evidence: HomeEvidence, finding: Finding) -> PageStep:
    """Return the page where a finding is corrected: the one of the part it is about."""
    home, place = evidence.home, finding.place
    pages: tuple[tuple[PageStep, tuple[tuple[object, ...], ...]], ...] = (
        ("water", (home.water_points, tuple(chain for chain in home.safety_chains if chain.tests))),
        ("circuits", (home.circuits,)),
        ("ducts", (home.ducts,)),
        ("devices", (home.devices, home.safety_chains)),
        ("heating", (home.heaters, home.sources)),
        ("zones", (home.zones,)),
        ("timetable", (home.levels, home.day_kinds)),
        ("tariff", (home.tariffs,)),
    )
    for step, groups in pages:
        if any(getattr(part, "id", "") == place for group in groups for part in group):
            return step
    return "survey"
