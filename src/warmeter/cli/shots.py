"""``warmeter shots``: one picture of each main view, from the demo, into docs/screenshots."""

import argparse
import shutil
import tempfile
import time
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from warmeter.cli.served import CHROMIUM_ARGS, Served, chromium_path
from warmeter.simulators import demo

# What the list of homes says of them is kept when their own page was seen.
SEEN_FIRST = ("/homes/terrace-nine/matters", "/homes/weir-cottage/matters", "/homes/sail-loft/matters")
PAGES = {
    "matters": "/homes/sail-loft/matters",
    "homes": "/",
    "survey": "/homes/sail-loft/survey?storey=st-loft&at=rm-loft",
    "heating": "/homes/sail-loft/heating?at=he-bath",
    "zones": "/homes/sail-loft/zones?at=zo-bedroom",
    "ducts": "/homes/orchard-row/ducts",
    "sun": "/homes/terrace-nine/sun?on=2026-06-21",
    "people": "/homes/ferry-house/people",
    "water": "/homes/orchard-row/water?at=or-p-dish",
    "timetable": "/homes/sail-loft/timetable?day=2026-01-21",
    "warmup": "/homes/sail-loft/warmup?room=rm-loft",
    "signatures": "/homes/sail-loft/signatures",
    "tariff": "/homes/ferry-house/tariff",
    "sheet": "/homes/sail-loft/sheet?day=2026-01-21",
    "rules": "/homes/weir-cottage/rules?rule=wc-r07",
}


def run(options: argparse.Namespace) -> int:
    """Start a demo of its own, wait for its fits, take the pictures, stop it."""
    into: Path = options.into
    folder = Path(tempfile.mkdtemp(prefix="warmeter-shots-"))
    try:
        with Served(folder / "data") as served, sync_playwright() as driver:
            browser = driver.chromium.launch(executable_path=chromium_path(), args=CHROMIUM_ARGS)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            wait_for_fits(page, served.address)
            into.mkdir(parents=True, exist_ok=True)
            for path in SEEN_FIRST:
                page.goto(served.address + path)
                page.wait_for_selector("#since p, #since ol")
            for name, path in PAGES.items():
                page.goto(served.address + path)
                page.wait_for_function("() => document.fonts.status === 'loaded'")
                page.screenshot(path=into / f"{name}.png")
                print(into / f"{name}.png")
            _plan(page, served.address, into)
            _import(page, served.address, folder, into)
            _bothered(page, served.address, folder, into)
            _live(page, served.address, into)
            browser.close()
    finally:
        shutil.rmtree(folder, ignore_errors=True)
    return 0


def _plan(page: Page, address: str, into: Path) -> None:
    """Take the plan of a day, made."""
    page.goto(f"{address}/homes/sail-loft/day-plan?day=2026-01-21")
    page.click("#make-plan")
    page.wait_for_selector("#against", timeout=120_000)
    page.wait_for_function("() => document.fonts.status === 'loaded'")
    page.screenshot(path=into / "plan.png")


def _import(page: Page, address: str, folder: Path, into: Path) -> None:
    """Take the mapping of a log with faults in it."""
    text = demo.room_log_csv().text.replace("2026-01-07 03:00", "2026-01-07 25:00", 1)
    (folder / "rooms.csv").write_text(text, encoding="utf-8")
    page.goto(f"{address}/homes/sail-loft/import")
    page.set_input_files("#file", folder / "rooms.csv")
    page.click("#look")
    page.wait_for_selector("#take")
    page.screenshot(path=into / "import.png")


def _bothered(page: Page, address: str, folder: Path, into: Path) -> None:
    """Take the way in of an appliance that nobody noticed, from the log of its plug."""
    (folder / "plug.csv").write_text(demo.machine_log_csv().text, encoding="utf-8")
    page.goto(f"{address}/bothers")
    page.click("#way-machine")
    page.fill("#f-tell", "Ines")
    page.fill("#f-price", "0.27")
    page.set_input_files("#f-file", folder / "plug.csv")
    page.click("#find-out")
    page.wait_for_selector("#result", timeout=120_000)
    page.screenshot(path=into / "bothers.png")


def _live(page: Page, address: str, into: Path) -> None:
    """Take the live page, some hours on: an appliance has finished, and a sensor is heard under another name."""
    page.goto(f"{address}/homes/sail-loft/live/bench")
    page.select_option("#speed", "300")
    page.click("#start-ap-washer")
    page.click("#fault-dv-bedroom-new_name")
    page.wait_for_selector("#fault-dv-bedroom-new_name[aria-pressed=true]")
    page.goto(f"{address}/homes/sail-loft/live")
    page.wait_for_function(
        "() => document.querySelector('.wm-liveside').innerText.includes('finished')", timeout=180_000
    )
    page.wait_for_function("() => document.querySelector('#quiet')", timeout=180_000)
    page.goto(f"{address}/homes/sail-loft/live")
    page.wait_for_function("() => document.fonts.status === 'loaded'")
    page.screenshot(path=into / "live.png")
    print(into / "live.png")


def wait_for_fits(page: Page, address: str) -> None:
    """Wait until the demo's rooms are fitted (at most three minutes)."""
    for path, fitted in (
        ("/homes/sail-loft/survey", "3 of 8 rooms fitted"),
        ("/homes/weir-cottage/survey", "1 of 5 rooms fitted"),
        ("/homes/hourly-hall/survey", "1 of 1 rooms fitted"),
    ):
        end = time.monotonic() + 180
        while time.monotonic() < end:
            page.goto(address + path)
            if fitted in page.inner_text(".wm-spine"):
                break
            page.wait_for_timeout(500)
