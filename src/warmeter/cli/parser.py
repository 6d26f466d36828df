"""What each command is asked; read without loading what the commands compute with."""

import argparse
from datetime import date
from pathlib import Path


def parser() -> argparse.ArgumentParser:
    """Return the parser of all commands."""
    top = argparse.ArgumentParser(prog="warmeter", description="Measure a home, time its warm-up, plan its day.")
    commands = top.add_subparsers(dest="command", required=True)
    _demo(commands.add_parser("demo", help="start with the demo home and print the address"))
    _backups(commands)
    tests = commands.add_parser(
        "test", help="run all tests, or a part: core, simulators, store, service, web, cli, browser"
    )
    tests.add_argument("part", nargs="?", default="")
    schemas = commands.add_parser("schemas", help="write the published schemas of homes, rules and tariffs")
    schemas.add_argument("folder", nargs="?", default="docs/formats", help="where they are written")
    mutants = commands.add_parser("mutants", help="change the core in small ways and see whether its tests notice")
    mutants.add_argument("--count", type=int, default=200, help="how many changes")
    mutants.add_argument("--seed", type=int, default=1, help="which ones are drawn")
    mutants.add_argument("--jobs", type=int, default=2, help="how many are tried at once")
    worked = commands.add_parser("vectors", help="run the worked examples of a folder")
    worked.add_argument("folder", type=Path)
    _answers(commands)
    commands.add_parser("mutate", help="plant every fault in the clean demo homes and see what the checks find")
    commands.add_parser("mutate-rules", help="plant every fault in the demo homes' rules and see what the checks find")
    commands.add_parser("bench", help="print speeds as ratios measured in one run")
    load = commands.add_parser("load", help="crowd a demo of its own with readers and editors and print its speed")
    load.add_argument("--users", type=int, nargs="+", default=[1, 10, 50], help="how many read at once, in turn")
    load.add_argument("--seconds", type=float, default=60.0, help="how long for each")
    load.add_argument("--only-pages", action="store_true", help="no edits, import and fit meanwhile")
    load.add_argument("--anew", action="store_true", help="have every page drawn anew, none that was kept")
    load.add_argument("--at-once", action="store_true", help="begin while the demo's rooms are still being fitted")
    load.add_argument("--served", default="", help="options for the demo")
    faults = commands.add_parser("faults", help="kill a server of its own amid what people do, and see what it kept")
    faults.add_argument("--rounds", type=int, default=20)
    faults.add_argument("--seed", type=int, default=1)
    fuzz = commands.add_parser("fuzz", help="send a demo of its own what no page sends, and see that it holds")
    fuzz.add_argument("--seconds", type=float, default=60.0)
    fuzz.add_argument("--seed", type=int, default=1)
    fuzz.add_argument("--most-mb", type=float, default=1024.0, help="memory of all processes beyond which it fails")
    fuzz.add_argument("--slowest-s", type=float, default=5.0, help="longest that an answer may take")
    fuzz.add_argument("--at-once", action="store_true", help="begin while the demo's rooms are still being fitted")
    fuzz.add_argument("--senders", type=int, default=2, help="how many send at once")
    agree = commands.add_parser("agree", help="fit stand-in houses by the hundred and judge the fits")
    agree.add_argument("--seeds", type=int, default=100)
    agree.add_argument("--first", type=int, default=1)
    agree.add_argument("--workers", type=int, default=2)
    agree.add_argument("--family", default="", choices=("", "stores", "layers"), help="one family; both if left out")
    agree.add_argument("--days", type=int, default=14, help="length of the log")
    agree.add_argument("--gains", type=float, default=1.0, help="people and appliances of the second family, times")
    promises = commands.add_parser(
        "promise-agree", help="hold what measuring was said to bring against what it brought"
    )
    promises.add_argument("--seeds", type=int, default=10)
    promises.add_argument("--first", type=int, default=7000)
    promises.add_argument("--workers", type=int, default=2)
    doubts = commands.add_parser("doubt-agree", help="fit logs that mislead and see which are doubted by name")
    doubts.add_argument("--seeds", type=int, default=10)
    doubts.add_argument("--clean", type=int, default=20, help="seeds of clean logs")
    doubts.add_argument("--first", type=int, default=1)
    doubts.add_argument("--workers", type=int, default=2)
    why = commands.add_parser("why-agree", help="ask why on random days and hold the answers against a plain walk")
    why.add_argument("--days", type=int, default=10_000)
    why.add_argument("--first", type=int, default=1)
    why.add_argument("--workers", type=int, default=2)
    rules = commands.add_parser("rules-agree", help="run random rules over random logs by both evaluators")
    rules.add_argument("--cases", type=int, default=10_000)
    rules.add_argument("--first", type=int, default=1)
    rules.add_argument("--workers", type=int, default=2)
    cycles = commands.add_parser("cycles-agree", help="find the runs of stand-in machines and judge them")
    cycles.add_argument("--seeds", type=int, default=20)
    cycles.add_argument("--first", type=int, default=2001)
    cycles.add_argument("--kinds", default="", help="appliance kinds with commas between; all if left out")
    cycles.add_argument("--workers", type=int, default=2)
    presence = commands.add_parser("presence-agree", help="presence of made-up households against their truth")
    presence.add_argument("--seeds", type=int, default=20)
    presence.add_argument("--first", type=int, default=2001)
    presence.add_argument("--workers", type=int, default=2)
    arrivals = commands.add_parser("arrivals-agree", help="being warm on arrival in made-up households, later on")
    arrivals.add_argument("--seeds", type=int, default=40)
    arrivals.add_argument("--first", type=int, default=3101)
    arrivals.add_argument("--workers", type=int, default=2)
    _stand_in_log(commands.add_parser("stand-in-log", help="write a stand-in machine's labelled log"))
    pictures = commands.add_parser("shots", help="take docs/screenshots/ from the demo")
    pictures.add_argument("--into", type=Path, default=Path("docs/screenshots"))
    return top


def _demo(command: argparse.ArgumentParser) -> None:
    command.add_argument("--port", default=argparse.SUPPRESS, help="port on loopback; 0 takes a free one")
    _with_data(command)
    command.add_argument("--fresh", action="store_true", help="delete the data folder's contents first (asks)")
    command.add_argument(
        "--open",
        action="store_true",
        default=argparse.SUPPRESS,
        help="let every user of this machine in, as on a kiosk",
    )
    command.add_argument(
        "--new-password", action="store_true", help="make the database a new password, the old one lost"
    )
    command.add_argument("--yes", action="store_true", help="do not ask")
    command.add_argument("--processes", default=argparse.SUPPRESS, help="processes that serve pages, 1 to 8")
    command.add_argument(
        "--no-demo", action="store_true", default=argparse.SUPPRESS, help="leave an empty database empty"
    )
    command.add_argument(
        "--no-live", action="store_true", default=argparse.SUPPRESS, help="load the demo without playing its devices"
    )
    command.add_argument(
        "--backups-kept", default=argparse.SUPPRESS, help="nightly backups that are kept, 7 if left out; 0 makes none"
    )


def _with_data(command: argparse.ArgumentParser) -> None:
    command.add_argument("--data-dir", type=Path, default=argparse.SUPPRESS, help="folder of the data")


def _backups(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    backup = commands.add_parser("backup", help="write all homes into one file, running or not")
    backup.add_argument("to", type=Path, help="the file to write, or a folder for one named by the time")
    _with_data(backup)
    restore = commands.add_parser("restore", help="make a data folder of a backup; it must not hold homes yet")
    restore.add_argument("source", type=Path, metavar="FROM", help="the backup")
    _with_data(restore)


def _answers(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    fit = _with_log(commands.add_parser("fit", help="learn a room from a log"))
    lead = _with_log(commands.add_parser("lead", help="lead time of a room after a setback"))
    for each in (fit, lead):
        each.add_argument("--room", default="", help="id or name; the first if left out")
    lead.add_argument("--target-c", type=float, required=True)
    lead.add_argument("--setback-c", type=float, required=True)
    lead.add_argument("--outdoor-c", type=float, required=True)
    lead.add_argument("--hours", type=float, default=8.0)
    mapping = commands.add_parser("map", help="what each column of a log could be, and how sure that is")
    mapping.add_argument("log", type=Path, help="the log")
    mapping.add_argument("--home", type=Path, required=True, help="the home as JSON")
    mapping.add_argument("--json", action="store_true", help="answer as JSON")
    radios = commands.add_parser("radios", help="who was heard in a capture, and which sender is whose")
    radios.add_argument("--capture", type=Path, required=True, help="transmissions, a JSON object a line")
    radios.add_argument("--seen", type=Path, help="what was read off the display, as JSON")
    radios.add_argument("--json", action="store_true", help="answer as JSON")
    _with_log(commands.add_parser("presence", help="who was in, and which rooms were in use, by minute"))
    agree_plan = commands.add_parser("plan-agree", help="hold the planner against trying everything")
    agree_plan.add_argument("--seed", type=int, default=1)
    agree_plan.add_argument("--small", type=int, default=300)
    agree_plan.add_argument("--random", type=int, default=2000)
    agree_preheat = commands.add_parser("preheat-agree", help="promises of plans of rooms against the full simulation")
    agree_preheat.add_argument("--seed", type=int, default=1)
    agree_preheat.add_argument("--days", type=int, default=20)
    agree_preheat.add_argument("--workers", type=int, default=4)
    load_live = commands.add_parser(
        "live-load", help="hundreds of devices over a real broker, processes killed meanwhile"
    )
    load_live.add_argument("--devices", type=int, default=500)
    load_live.add_argument("--rate", type=float, default=2000.0, help="readings a second in all")
    load_live.add_argument("--seconds", type=float, default=60.0)
    load_live.add_argument("--kills", type=int, default=0, help="processes killed at random moments")
    killed = ("live process", "page process", "broker", "database", "server")
    load_live.add_argument("--kill", nargs="+", choices=killed, default=killed, help="which of them")
    load_live.add_argument("--seed", type=int, default=1)
    agree_live = commands.add_parser("live-agree", help="days followed live against the replay of their logs")
    agree_live.add_argument("--seed", type=int, default=1)
    agree_live.add_argument("--days", type=int, default=6)
    agree_live.add_argument("--workers", type=int, default=2)
    agree_radio = commands.add_parser("radio-agree", help="made-up captures: how often the sender is named right")
    agree_radio.add_argument("--seed", type=int, default=1)
    agree_radio.add_argument("--count", type=int, default=40)
    cycles = _with_log(commands.add_parser("cycles", help="runs of an appliance and a finish setting"))
    cheapest = _with_log(commands.add_parser("cheapest", help="cheapest start of an appliance's run"))
    for each in (cycles, cheapest):
        each.add_argument("--machine", default="", help="id or name; the first if left out")
    cheapest.add_argument("--day", type=date.fromisoformat, required=True)
    _bill(commands.add_parser("bill", help="the bill of a meter's log by a tariff"))


def _bill(command: argparse.ArgumentParser) -> None:
    command.add_argument("--tariff", type=Path, required=True, help="the tariffs as JSON (warmeter-tariff/1)")
    command.add_argument("--log", type=Path, required=True, help="the meter's log: interval XML, CSV, or periods")
    command.add_argument("--prices", type=Path, help="the market's prices, JSON or CSV, for a tariff that follows them")
    command.add_argument("--from", dest="first", type=date.fromisoformat, metavar="D", help="first local date")
    command.add_argument("--to", dest="last", type=date.fromisoformat, metavar="D", help="last local date, counted too")
    command.add_argument("--json", action="store_true", help="answer as JSON")


def _with_log(command: argparse.ArgumentParser) -> argparse.ArgumentParser:
    command.add_argument("--home", type=Path, required=True, help="the home as JSON")
    command.add_argument("--log", type=Path, required=True, help="the log as CSV")
    command.add_argument("--map", type=Path, help="how columns are read, as JSON; guessed if left out")
    command.add_argument("--json", action="store_true", help="answer as JSON")
    return command


def _stand_in_log(command: argparse.ArgumentParser) -> None:
    command.add_argument("--kind", required=True, help="kind of appliance")
    command.add_argument("--seed", type=int, default=1)
    command.add_argument("--step", type=int, default=10, choices=(1, 10, 60), help="seconds")
    command.add_argument("--days", type=float)
    command.add_argument("--fault", help="empty for a sound appliance; drawn if left out")
    command.add_argument("--out", type=Path, required=True, help="CSV to write; the truth goes beside it")
