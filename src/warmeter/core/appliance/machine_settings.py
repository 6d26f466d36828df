"""Settings that tell what a machine does: proposed from its log, judged, rounded to the plug's steps."""

import numpy as np

from warmeter.core.appliance.machine_record import MachineRecord
from warmeter.core.home.machines import Appliance, Asking
from warmeter.core.signature.recommending import SettingProposal, propose
from warmeter.core.signature.tuner import HandedOver, Setting, Verdict, handed_over, judge


def proposal_of(record: MachineRecord, tells: Asking, hysteresis_w: float = 0.0) -> SettingProposal:
    """Return the setting proposed to tell something, with everything that was tried; kept for the next request.

    Raises
    ------
    NotKnowable
        If the log holds fewer than two whole cycles.
    """
    key = record.appliance.marks, tells, hysteresis_w
    if key not in record.proposals:
        record.proposals[key] = propose(record.power_w, record.step_s, record.found, record.day, tells, hysteresis_w)
    return record.proposals[key]


def setting_in_use(appliance: Appliance, tells: Asking) -> Setting | None:
    """Return the setting in use that tells something."""
    told = appliance.setting(tells)
    if told is None:
        return None
    return Setting(threshold_w=told.threshold_w, wait_s=told.wait_s, hysteresis_w=told.hysteresis_w)


def judged(record: MachineRecord, tells: Asking, setting: Setting) -> Verdict:
    """Return what a setting would have told over the record."""
    key = record.appliance.marks, tells, setting
    if key not in record.verdicts:
        record.verdicts[key] = judge(record.power_w, record.step_s, record.asked(tells), setting)
    return record.verdicts[key]


def handed(record: MachineRecord, tells: Asking, setting: Setting) -> HandedOver:
    """Return the sentence that hands a setting over, judged over the record as it is typed."""
    return handed_over(record.power_w, record.step_s, record.asked(tells), setting)


def rounded_setting(setting: Setting, step_w: float, step_min: float, least_w: float = 0.0) -> Setting:
    """Return a setting in the plug's own steps: threshold to the nearest that is no lower than ``least_w``, wait up."""
    waits = int(np.ceil(setting.wait_s / (60 * step_min) - 1e-9))
    steps = max(1, round(setting.threshold_w / step_w), int(np.ceil(least_w / step_w - 1e-9)))
    return Setting(threshold_w=steps * step_w, wait_s=max(1, waits) * 60 * step_min, hysteresis_w=setting.hysteresis_w)
