"""Cut the plug at the end, or leave it on: both schools with their numbers, ready strings."""

from dataclasses import dataclass

from warmeter.core.errors import NotKnowable
from warmeter.core.home.document import Home
from warmeter.core.home.machines import Appliance
from warmeter.core.saving.standby_switching import PLUG_OWN_W
from warmeter.service.app import App
from warmeter.service.signatures.standby import cut_facts, cut_or_leave_of
from warmeter.web import format as show

FACTS = {
    "loses_clock": "its clock is lost at each cut",
    "cools_down": "it must cool down or pump out first: cut no sooner than told",
    "locks_door": "its door may stay locked",
    "restarts_by_hand": "the next start is by hand: a delayed start is lost",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class CutView:
    """Both schools; ``facts`` are (field, words, yes or no)."""

    verdict: str
    strategies: list[str]
    facts: list[tuple[str, str, bool]]


def cut_view(app: App, home: Home, machine: Appliance) -> CutView | None:
    """Return both schools for a machine, None where its rest is not known."""
    try:
        found = cut_or_leave_of(app, home, machine, PLUG_OWN_W)
    except NotKnowable:
        return None
    facts = cut_facts(machine)
    against = [words for name, words in FACTS.items() if getattr(facts, name)]
    saved = show.money(found.saved_money, home.currency)
    verdict = {
        "never cut": "Leave it on: food, water or data depend on it, or it has to be shut down first.",
        "cut": f"By money, cutting wins: {saved} a year"
        + (f"; against it: {'; '.join(against)}." if against else ", and nothing speaks against it."),
        "leave": f"Leaving it on wins: a plug that listens all year draws more than it would save ({saved} a year).",
    }[found.better]
    return CutView(
        verdict=verdict,
        strategies=[
            f"Leave it on: {show.number(float(found.leave_kwh), 1)} kWh a year at rest, "
            f"{show.money(found.leave_money, home.currency)}.",
            f"Cut it when it has finished: {show.number(float(found.cut_kwh), 1)} kWh a year for the plug itself "
            f"({show.number(PLUG_OWN_W, 1)} W, assumed), {show.money(found.cut_money, home.currency)}.",
        ],
        facts=[(name, words, bool(getattr(facts, name))) for name, words in FACTS.items()],
    )
