"""A question about a machine answered from its log: the setting proposed, the one in use and one tried, each judged."""

from dataclasses import dataclass

from warmeter.core.appliance.machine_record import MachineRecord
from warmeter.core.appliance.machine_settings import handed, judged, proposal_of, rounded_setting, setting_in_use
from warmeter.core.errors import NotKnowable
from warmeter.core.home.machines import Asking
from warmeter.core.signature.recommending import SettingProposal, least_threshold_w
from warmeter.core.signature.tuner import HandedOver, Setting, Verdict


@dataclass(frozen=True, slots=True)
class JudgedSetting:
    """A setting with what it would have told over the log."""

    setting: Setting
    verdict: Verdict


@dataclass(frozen=True, slots=True, kw_only=True)
class ProposedSetting:
    """A proposal in the plug's own steps, judged, and as it is typed."""

    proposal: SettingProposal
    rounded: JudgedSetting
    handed_over: HandedOver


@dataclass(frozen=True, slots=True, kw_only=True)
class SettingAnswer:
    """What a log says of a question; ``why`` tells why nothing is proposed, "" where something is."""

    asking: Asking
    in_use: JudgedSetting | None
    tried: JudgedSetting | None
    proposed: ProposedSetting | None
    why: str

    @property
    def threshold_w(self) -> float | None:
        """The threshold that the answer comes to: of what is proposed, else of what is in use [W]."""
        best = self.proposed.rounded if self.proposed is not None else self.in_use
        return None if best is None else best.setting.threshold_w


def answer_of(
    record: MachineRecord, asking: Asking, *, hysteresis_w: float = 0.0, tried: Setting | None = None
) -> SettingAnswer:
    """Return a question's answer; ``hysteresis_w`` is how far above the threshold counts as on again [W]."""
    mine = setting_in_use(record.appliance, asking)
    proposed, why = None, ""
    try:
        proposal = proposal_of(record, asking, hysteresis_w)
    except NotKnowable as error:
        why = str(error)
    else:
        machine = record.appliance
        setting = rounded_setting(
            proposal.setting, machine.threshold_step_w, machine.wait_step_min, least_threshold_w(record.found)
        )
        proposed = ProposedSetting(
            proposal=proposal,
            rounded=JudgedSetting(setting, judged(record, asking, setting)),
            handed_over=handed(record, asking, setting),
        )
    return SettingAnswer(
        asking=asking,
        in_use=JudgedSetting(mine, judged(record, asking, mine)) if mine else None,
        tried=JudgedSetting(tried, judged(record, asking, tried)) if tried else None,
        proposed=proposed,
        why=why,
    )
