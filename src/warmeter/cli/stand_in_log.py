"""``warmeter stand-in-log``: a stand-in machine's power as CSV, and beside it the truth about its cycles as JSON."""

import argparse
import json
from dataclasses import asdict

import numpy as np

from warmeter.core.errors import HomeError
from warmeter.core.timegrid import from_ms
from warmeter.simulators.machines.labelled import KINDS, labelled_log

START_MS = 1_767_571_200_000  # Monday 5 January 2026, 00:00 UTC


def run(options: argparse.Namespace) -> int:
    """Write both files and say where they are; ``HomeError`` for a kind of machine that there is not."""
    if options.kind not in KINDS:
        raise HomeError(f"there is no stand-in of kind {options.kind!r}; choose of {', '.join(sorted(KINDS))}")
    log = labelled_log(options.kind, options.seed, options.step, days=options.days, fault=options.fault)
    with options.out.open("w", encoding="utf-8") as file:
        file.write(f"time (UTC),{KINDS[options.kind].label} power W\n")
        for k, watts in enumerate(log.power_w):
            if not np.isnan(watts):
                at = from_ms(START_MS + k * options.step * 1000)
                file.write(f"{at:%Y-%m-%dT%H:%M:%SZ},{watts:g}\n")
    truth = options.out.with_suffix(".truth.json")
    content = {
        "kind": log.kind,
        "fault": log.fault,
        "step_s": log.step_s,
        "starts": f"{from_ms(START_MS):%Y-%m-%dT%H:%M:%SZ}",
    }
    content |= {"cycles": [asdict(c) for c in log.cycles], "cut": [asdict(c) for c in log.cut]}
    truth.write_text(json.dumps(content, indent=1) + "\n", encoding="utf-8")
    print(f"{options.out}: {np.isfinite(log.power_w).sum()} readings; {truth}: {len(log.cycles)} runs")
    return 0
