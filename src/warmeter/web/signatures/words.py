"""Machines' settings and questions in words."""

from warmeter.core.home.machines import Asking
from warmeter.core.signature.tuner import Setting
from warmeter.web import format as show


def watts(value: float) -> str:
    """Return a power with a tenth where a whole number would be too coarse."""
    return show.number(value, 0 if value >= 10 or value == round(value) else 1)


def wait(seconds: float) -> str:
    """Return a waiting time: seconds, minutes or hours, whichever reads best."""
    if seconds < 90:
        return f"{show.number(seconds)} s"
    minutes = seconds / 60
    if minutes < 120:
        return f"{show.number(minutes, 0 if seconds % 60 == 0 or minutes >= 20 else 1)} min"
    hours, rest = divmod(round(minutes), 60)
    return f"{hours} h" if rest == 0 else f"{hours} h {rest:02d} min"


def setting_words(setting: Setting) -> str:
    """Return a setting in few words."""
    return f"{watts(setting.threshold_w)} W for {wait(setting.wait_s)}"


def setting_sentence(name: str, tells: Asking, setting: Setting, start_s: float = 0.0) -> str:
    """Return a setting as the sentence to type; an end with a start duration where it needs one."""
    begun = f" for {wait(start_s)}" if start_s else ""
    power, long = f"{watts(setting.threshold_w)} W", wait(setting.wait_s)
    above = f"{watts(setting.threshold_w + setting.hysteresis_w)} W" if setting.hysteresis_w else power
    match tells:
        case "finished":
            return (
                f"When {name} has drawn more than {above}{begun} and then {power} or less for {long}, it has finished."
            )
        case "started":
            return f"When {name} draws more than {above} for {long}, it has started."
        case "idle":
            return f"While {name} draws {power} or less, from {long} on, it is idle."
        case "left_on":
            return f"When {name} has been on, above {above}, for {long} without an end, it was left on."
        case "ran_today":
            return f"Once {name} has drawn more than {above} for {long} since midnight, it has run today."
