"""The commands: ``warmeter demo``, ``test``, ``vectors``, ``fit`` and their like."""

import argparse
import importlib
import sys

from warmeter.cli.parser import parser
from warmeter.cli.testing import run_tests
from warmeter.core.errors import NotKnowable, WarmeterError

BAD_INPUT, NOT_KNOWABLE = 2, 1
# Loaded only when asked for: none waits for what another computes with, and pictures need packages of their own.
MODULES = {
    "demo": "warmeter.cli.demo",
    "fit": "warmeter.cli.files",
    "lead": "warmeter.cli.files",
    "cycles": "warmeter.cli.files",
    "cheapest": "warmeter.cli.files",
    "map": "warmeter.cli.map",
    "bill": "warmeter.cli.bill",
    "plan-agree": "warmeter.cli.plan_agree",
    "preheat-agree": "warmeter.cli.preheat_agree",
    "live-agree": "warmeter.cli.live_agree",
    "live-load": "warmeter.cli.live_load",
    "presence": "warmeter.cli.presence",
    "arrivals-agree": "warmeter.cli.arrivals_agree",
    "presence-agree": "warmeter.cli.presence_agree",
    "radios": "warmeter.cli.radios",
    "radio-agree": "warmeter.cli.radio_agree",
    "vectors": "warmeter.cli.vectors",
    "schemas": "warmeter.cli.schemas",
    "mutate": "warmeter.cli.mutate",
    "mutants": "warmeter.cli.mutants",
    "backup": "warmeter.cli.backup",
    "restore": "warmeter.cli.backup",
    "bench": "warmeter.cli.bench",
    "load": "warmeter.cli.load",
    "fuzz": "warmeter.cli.fuzz",
    "faults": "warmeter.cli.faults",
    "agree": "warmeter.cli.agree",
    "promise-agree": "warmeter.cli.promise_agree",
    "doubt-agree": "warmeter.cli.doubt_agree",
    "cycles-agree": "warmeter.cli.cycles_agree",
    "stand-in-log": "warmeter.cli.stand_in_log",
    "shots": "warmeter.cli.shots",
    "why-agree": "warmeter.cli.why_agree",
    "rules-agree": "warmeter.cli.rules_agree",
    "mutate-rules": "warmeter.cli.mutate_rules",
}


def main(arguments: list[str] | None = None) -> int:
    """Run a command and return its exit code: 0 done, 1 not knowable or failed, 2 bad input."""
    options = parser().parse_args(arguments)
    try:
        return _run(options)
    except NotKnowable as error:
        print(error, file=sys.stderr)
        return NOT_KNOWABLE
    except (WarmeterError, OSError) as error:
        print(error, file=sys.stderr)
        return BAD_INPUT


def _run(options: argparse.Namespace) -> int:
    if options.command == "test":
        return run_tests(options.part)
    return int(importlib.import_module(MODULES[options.command]).run(options))


if __name__ == "__main__":
    sys.exit(main())
