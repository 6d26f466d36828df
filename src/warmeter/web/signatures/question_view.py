"""A question about a machine on its page: what is proposed and why, what is in use, what was tried; all ready strings."""

from dataclasses import dataclass

from warmeter.core.appliance.machine_record import MachineRecord
from warmeter.core.appliance.setting_question import JudgedSetting, ProposedSetting, SettingAnswer
from warmeter.core.home.machines import Asking
from warmeter.core.home.presets import TELLS_LABEL
from warmeter.service.signatures.machines import ComparedWitness
from warmeter.web import format as show
from warmeter.web.signatures.error_map import MapView, map_view
from warmeter.web.signatures.stretch import SettingTells
from warmeter.web.signatures.words import setting_sentence, setting_words, wait, watts

MAP_PX = (470, 196)


@dataclass(frozen=True, slots=True, kw_only=True)
class QuestionView:
    """One thing to be told: the proposal with its reasons, the setting in use, another to be judged."""

    tells: Asking
    hysteresis: str
    mine: str
    mine_threshold: str
    mine_wait: str
    tried: str
    why: str
    witness: str
    map: MapView | None = None
    proposed: str = ""
    sentence: str = ""
    reasons: tuple[str, ...] = ()
    threshold: str = ""
    wait: str = ""
    start_s: str = "0"


def drawn_settings(answer: SettingAnswer) -> list[SettingTells]:
    """Return what the strip draws of an answer: when the setting in use tells, and the one proposed."""
    drawn = []
    if answer.in_use is not None:
        words = f"set now {setting_words(answer.in_use.setting)}"
        drawn.append(SettingTells(name="Told now", words=words, verdict=answer.in_use.verdict))
    if answer.proposed is not None:
        words = f"proposed {setting_words(answer.proposed.rounded.setting)}"
        drawn.append(SettingTells(name="Proposed", words=words, verdict=answer.proposed.handed_over.verdict))
    return drawn


def question_view(
    record: MachineRecord, answer: SettingAnswer, hysteresis_w: float, witness: ComparedWitness | None
) -> QuestionView:
    """Return the question's part of the page."""
    mine, best = answer.in_use, answer.proposed
    proposed = None if best is None else best.rounded.setting
    return QuestionView(
        tells=answer.asking,
        hysteresis=f"{hysteresis_w:g}",
        mine=_verdict_words(mine) if mine else f"nothing tells yet that it {TELLS_LABEL[answer.asking]}",
        mine_threshold=f"{mine.setting.threshold_w:g}" if mine else "",
        mine_wait=f"{mine.setting.wait_s / 60:g}" if mine else "",
        tried=_verdict_words(answer.tried) if answer.tried else "",
        why=answer.why,
        witness=_witness_words(witness) if witness else "",
        map=map_view(best.proposal, proposed, mine.setting if mine else None, *MAP_PX) if best and proposed else None,
        proposed=setting_words(proposed) if proposed else "",
        sentence=_sentence(record, answer.asking, best) if best else "",
        reasons=tuple(_reasons(record, best)) if best else (),
        threshold=f"{proposed.threshold_w:g}" if proposed else "",
        wait=f"{proposed.wait_s / 60:g}" if proposed else "",
        start_s=f"{best.handed_over.start_s:g}" if best else "0",
    )


def _sentence(record: MachineRecord, asking: Asking, best: ProposedSetting) -> str:
    name = f"the {record.appliance.name.lower()}"
    return setting_sentence(name, asking, best.rounded.setting, best.handed_over.start_s)


def _witness_words(compared: ComparedWitness) -> str:
    """Return how a vibration sensor or contact would do, and which of the two is the better witness."""
    verdict = compared.witness.verdict
    late = "never" if verdict.late_s is None else f"{wait(verdict.late_s)} late"
    better = "the vibration or contact" if compared.is_better else "the power"
    return (
        f"Its vibration sensor or contact, waiting {wait(compared.witness.setting.wait_s)}: of {verdict.asked}, "
        f"{verdict.missed} messages missed, {verdict.false} false messages, {late}. The better witness is {better}."
    )


def _verdict_words(judged: JudgedSetting) -> str:
    verdict = judged.verdict
    told = f"of {verdict.asked}, {verdict.missed} messages missed, {verdict.false} false messages"
    late = "" if verdict.late_s is None else f", {wait(verdict.late_s)} late"
    return f"{setting_words(judged.setting)}: {told}{late}"


def _reasons(record: MachineRecord, best: ProposedSetting) -> list[str]:
    """Return why this setting: its errors, its safe region, and how far the machine may change."""
    verdict, proposal = best.rounded.verdict, best.proposal
    errors = (
        f"No error over {verdict.asked} in {show.number(record.days, 0)} days"
        if verdict.errors == 0
        else f"Of {verdict.asked}, {verdict.missed} messages missed and {verdict.false} false messages: no setting does better"
    )
    late = "" if verdict.late_s is None else f", told {wait(verdict.late_s)} after"
    rise, fall, stretch = proposal.margins(best.rounded.setting)
    reasons = [
        f"{errors}{late}.",
        f"As good from {watts(proposal.safe_w[0])} to {watts(proposal.safe_w[1])} W, and from "
        f"{wait(proposal.safe_s[0])} to {wait(proposal.safe_s[1])}: this stands in the middle.",
        f"It fails once its rest draws {show.number(rise, 1)} times as much or its low work "
        f"{show.number(100 * max(1 - fall, 0), 0)} % less"
        + (
            f", or a pause lasts {show.number(stretch, 1)} times as long."
            if proposal.question in ("finished", "idle") and proposal.safe_s[0] > record.step_s
            else "."
        ),
    ]
    if proposal.question == "left_on" and verdict.asked == 0:
        reasons[0] = (
            "It was never left on in this log: the wait stands beyond its longest run, as far as a quarter and more."
        )
    return reasons
