"""Checks of raw readings: a chain that misses its reference, a range that the converter cannot read."""

from collections.abc import Iterator

from warmeter.core.electric.raw_chain import chain_end, chain_fault
from warmeter.core.finding import Finding
from warmeter.core.home.document import Home
from warmeter.core.sentence import celsius, sentence

RULES = {
    "raw reading wrong": "A sensor's chain reads what the reference beside it reads.",
    "range out of reach": "A converter can read both ends of its sensor's range.",
}


def raw_findings(home: Home) -> Iterator[Finding]:
    """Yield what is doubtful about the chains from counts to degrees."""
    for device in home.devices:
        if device.raw is None or not device.is_in_service:
            continue
        fault = chain_fault(device.raw)
        if fault is not None:
            read = sentence("{}", celsius(fault.reads_c, 1)) if fault.reads_c is not None else "nothing that can be"
            yield Finding(
                kind="raw reading wrong",
                severity="warning",
                place=device.id,
                sentence=sentence(
                    "{} reads {} where the reference reads {}.", device.name, read, celsius(fault.reference_c, 1)
                ),
                fix=f"It would be right if {fault.likely}: look at that first."
                if fault.likely
                else "Look at the resistor's side, its ohms, the reference and the supply, and measure each.",
                about=(device.id,),
            )
        lost = [
            end for end in (chain_end(device.raw, at) for at in (device.raw.low_c, device.raw.high_c)) if end.is_lost
        ]
        if lost:
            yield Finding(
                kind="range out of reach",
                severity="warning",
                place=device.id,
                sentence=sentence("The converter of {} cannot read {}.", device.name, celsius(lost[0].at_c)),
                fix="Choose another fixed resistor, near the thermistor's ohms in the middle of the range.",
                about=(device.id,),
            )
