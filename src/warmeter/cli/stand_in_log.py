"""``warmeter stand-in-log``: a stand-in machine's power as CSV, and beside it the truth about its cycles as JSON."""

import argparse
import json
from dataclasses import asdict
from pathlib import Path

import numpy as np

from warmeter.core.timegrid import from_ms
from warmeter.standins.machines.labelled import KINDS, labelled_log

START_MS = 1_767_571_200_000  # Monday 5 January 2026, 00:00 UTC


def add_arguments(command: argparse.ArgumentParser) -> None:
    """Add what the command is asked."""
    command.add_argument("--kind", required=True, choices=sorted(KINDS))
    command.add_argument("--seed", type=int, default=1)
    command.add_argument("--step", type=int, default=10, choices=(1, 10, 60), help="seconds")
    command.add_argument("--days", type=float)
    command.add_argument("--fault", help="empty for a sound machine; drawn if left out")
    command.add_argument("--out", type=Path, required=True, help="CSV to write; the truth goes beside it")


def run(options: argparse.Namespace) -> int:
    """Write both files and say where they are."""
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
    print(f"{options.out}: {np.isfinite(log.power_w).sum()} readings; {truth}: {len(log.cycles)} cycles")
    return 0
