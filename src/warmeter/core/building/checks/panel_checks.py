"""Checks of panels: lamps watched too briefly, buttons pressed without a look."""

from collections.abc import Iterator

from warmeter.core.finding import Finding
from warmeter.core.home.document import Home

WATCH_BLINKS = 1.5  # a watch of so many blinks holds two changes for sure
RULES = {
    "lamp watched too briefly": "A lamp is watched for one and a half of its blinks at least.",
    "button pressed unseen": "A button that turns on and off by turns is pressed only where its lamp is seen.",
}


def panel_findings(home: Home) -> Iterator[Finding]:
    """Yield what is doubtful about panels."""
    for device in home.devices:
        if not device.is_in_service:
            continue
        for function in device.panel:
            if function.watch_s < WATCH_BLINKS * function.blink_s:
                yield Finding(
                    kind="lamp watched too briefly",
                    severity="warning",
                    place=device.id,
                    sentence=f"The lamp {function.name} of {device.name} is watched for {function.watch_s:g} s and blinks every "
                    f"{function.blink_s:g} s: its dark half would be taken for off.",
                    fix=f"Watch it for {WATCH_BLINKS * function.blink_s:g} s or longer.",
                    about=(device.id, function.id),
                )
            if function.presser_id is not None and function.lamp_sensor_id is None:
                yield Finding(
                    kind="button pressed unseen",
                    severity="warning",
                    place=device.id,
                    sentence=f"{home.device(function.presser_id).name} presses {function.name} of {device.name}, and nothing sees its "
                    "lamp: a press that is lost or doubled leaves it the wrong way round for good.",
                    fix="Let a lamp sensor see it, or let a person press it.",
                    about=(device.id, function.id, function.presser_id),
                )
