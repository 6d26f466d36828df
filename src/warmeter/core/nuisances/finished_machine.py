"""An appliance has finished and nobody noticed: the appliance, its log, and who is told."""

from dataclasses import dataclass

from warmeter.core.edits.edit import Edit
from warmeter.core.edits.home_edits import with_machine
from warmeter.core.edits.machine_commands import UseSetting
from warmeter.core.home.document import Home
from warmeter.core.home.machines import MachineKind
from warmeter.core.home.part import Name, TimeOfDay
from warmeter.core.home.presets import MACHINE_LABEL
from warmeter.core.home.rules import Loudness
from warmeter.core.nuisances.growing import Price, with_people, with_price, with_started_rule
from warmeter.core.units import S_PER_MIN


@dataclass(frozen=True, slots=True, kw_only=True)
class MachineUnnoticed:
    """Which appliance it is, who is told and when not, and what a kWh costs where that is known."""

    kind: MachineKind
    tell: Name = "Everybody"
    loudness: Loudness = "aloud"
    quiet_from: TimeOfDay | None = None
    quiet_until: TimeOfDay | None = None
    price: Price | None = None

    def edit(self, home: Home) -> Edit:
        """Return the home with the appliance and the people; ``HomeError`` where quiet hours have but one end."""
        grown, _ = with_people(
            with_price(home, self.price), self.tell, self.loudness, self.quiet_from, self.quiet_until
        )
        machine = next((a for a in grown.appliances if a.kind == self.kind), None)
        if machine is None:
            grown = with_machine(grown, MACHINE_LABEL[self.kind].capitalize(), self.kind)
            machine = grown.appliances[-1]
        return Edit(grown, f"{machine.name} and its plug added, {self.tell} is told", machine.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class TellFinished:
    """Tell that an appliance has finished: under so many watts for so long, after work of so long [s]."""

    machine_id: str
    threshold_w: float
    wait_s: float
    start_s: float = 0.0

    def edit(self, home: Home) -> Edit:
        """Return the home with the setting in use and the rule that tells it."""
        setting = UseSetting(
            machine_id=self.machine_id,
            tells="finished",
            threshold_w=self.threshold_w,
            wait_min=self.wait_s / S_PER_MIN,
            start_s=self.start_s,
        )
        grown, rule = with_started_rule(setting.edit(home).home, "finished", "usual", self.machine_id)
        words = f"{rule.name}: under {self.threshold_w:g} W for {self.wait_s / S_PER_MIN:g} min"
        return Edit(grown, words, rule.id)
