"""The commands: ``warmeter demo``, ``test``, ``vectors``, ``fit`` and their like."""

import argparse
import importlib
import sys
import unittest
from pathlib import Path

from warmeter.cli import demo, files, mutate, stand_in_log, vectors
from warmeter.core.errors import NotKnowable, WarmeterError

BAD_INPUT, NOT_KNOWABLE = 2, 1
# Loaded only when asked for: pictures need packages that the application does without.
MODULES = {
    "bench": "warmeter.cli.bench",
    "agree": "warmeter.cli.agree",
    "cycles-agree": "warmeter.cli.cycles_agree",
    "stand-in-log": "warmeter.cli.stand_in_log",
    "split-agree": "warmeter.cli.split_agree",
    "shots": "warmeter.cli.shots",
    "why-agree": "warmeter.cli.why_agree",
    "rules-agree": "warmeter.cli.rules_agree",
    "mutate-rules": "warmeter.cli.mutate_rules",
}


def parser() -> argparse.ArgumentParser:
    """Return the parser of all commands."""
    top = argparse.ArgumentParser(prog="warmeter", description="Measure a home, time its warm-up, plan its day.")
    commands = top.add_subparsers(dest="command", required=True)
    demo.add_arguments(commands.add_parser("demo", help="start with the demo home and print the address"))
    tests = commands.add_parser("test", help="run all tests, or a part: core, store, web, browser")
    tests.add_argument("part", nargs="?", default="")
    worked = commands.add_parser("vectors", help="run the worked examples of a folder")
    worked.add_argument("folder", type=Path)
    files.add_commands(commands)
    commands.add_parser("mutate", help="plant every fault in the clean demo homes and see what the checks find")
    commands.add_parser("mutate-rules", help="plant every fault in the demo homes' rules and see what the checks find")
    commands.add_parser("bench", help="print speeds as ratios measured in one run")
    agree = commands.add_parser("agree", help="fit stand-in houses by the hundred and judge the fits")
    agree.add_argument("--seeds", type=int, default=100)
    agree.add_argument("--first", type=int, default=1)
    agree.add_argument("--workers", type=int, default=2)
    why = commands.add_parser("why-agree", help="ask why on random days and hold the answers against a plain walk")
    why.add_argument("--days", type=int, default=10_000)
    why.add_argument("--first", type=int, default=1)
    why.add_argument("--workers", type=int, default=2)
    rules = commands.add_parser("rules-agree", help="run random rules over random logs by both evaluators")
    rules.add_argument("--cases", type=int, default=10_000)
    rules.add_argument("--first", type=int, default=1)
    rules.add_argument("--workers", type=int, default=2)
    cycles = commands.add_parser("cycles-agree", help="find the cycles of stand-in machines and judge them")
    cycles.add_argument("--seeds", type=int, default=20)
    cycles.add_argument("--first", type=int, default=2001)
    cycles.add_argument("--kinds", default="", help="machine kinds with commas between; all if left out")
    cycles.add_argument("--workers", type=int, default=2)
    stand_in_log.add_arguments(commands.add_parser("stand-in-log", help="write a stand-in machine's labelled log"))
    split = commands.add_parser("split-agree", help="add known cycles to a home's load and split them out again")
    split.add_argument("--cycles", type=Path, required=True, help="folder of traces, CSV with t_s and P_W")
    split.add_argument("--net", type=Path, required=True, help="CSV with channels E1 and B1, kWh by five minutes")
    split.add_argument("--seeds", type=int, default=5)
    split.add_argument("--first", type=int, default=1)
    split.add_argument("--each", type=int, default=2, help="runs of each trace a seed")
    pictures = commands.add_parser("shots", help="take docs/screenshots/ from the demo")
    pictures.add_argument("--into", type=Path, default=Path("docs/screenshots"))
    return top


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
    if options.command == "demo":
        return demo.run(options)
    if options.command == "vectors":
        return vectors.run(options.folder)
    if options.command == "mutate":
        return mutate.run()
    if options.command in MODULES:
        return int(importlib.import_module(MODULES[options.command]).run(options))
    if options.command == "test":
        return _tests(options.part)
    return files.run(options)


def _tests(part: str) -> int:
    """Run unittest over tests/, or over one part of it."""

    where = Path("tests") / part if part else Path("tests")
    if not where.is_dir():
        print(f"there is no part {part!r}; choose of core, store, web, browser", file=sys.stderr)
        return BAD_INPUT
    sys.path.insert(0, str(Path.cwd()))
    suite = unittest.defaultTestLoader.discover(str(where), top_level_dir=".")
    if suite.countTestCases() == 0:
        print(f"{where} holds no tests", file=sys.stderr)
        return BAD_INPUT
    result = unittest.TextTestRunner(verbosity=1).run(suite)
    return 0 if result.wasSuccessful() else 1


if __name__ == "__main__":
    sys.exit(main())
