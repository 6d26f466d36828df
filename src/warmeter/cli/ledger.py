"""What a person was told was saved, kept apart from the application, and held against an archive of the home."""

import io
import json
import zipfile
from collections import Counter
from dataclasses import dataclass, field
from typing import Any

READINGS = 50  # in each file


@dataclass(slots=True)
class Ledger:
    """Names given, files read in and steps undone: told as saved, or sent with no answer."""

    home_id: str
    saved: list[str] = field(default_factory=list)
    unknown: list[str] = field(default_factory=list)
    undone: int = 0
    perhaps_undone: int = 0

    def note(self, what: str, *, is_told: bool) -> None:
        """Note a name given or a file read in: told as saved, or perhaps saved."""
        (self.saved if is_told else self.unknown).append(what)

    def note_undo(self, *, is_told: bool) -> None:
        """Note an undo."""
        self.undone += is_told
        self.perhaps_undone += not is_told

    def broken(self, archive: bytes) -> list[str]:
        """Return what in an archive of the home is lost, doubled or half."""
        with zipfile.ZipFile(io.BytesIO(archive)) as file:
            if file.testzip() is not None:
                return ["the archive is damaged"]
            rows = {
                name.removesuffix(".jsonl"): [json.loads(line) for line in file.read(name).splitlines()]
                for name in file.namelist()
                if name.endswith(".jsonl")
            }
        return [*self._broken_history(rows), *_broken_readings(rows)]

    def _broken_history(self, rows: dict[str, list[dict[str, Any]]]) -> list[str]:
        revisions = sorted(rows["home_revision"], key=lambda row: row["number"])
        files = {row["id"]: row["file_name"] for row in rows["reading_import"]}
        found, wrong, undone = Counter[str](), [], 0
        stack: list[dict[str, Any]] = []
        by_number = {row["number"]: row for row in revisions}
        for row in revisions:
            if row["undoes"] is not None:
                undone += 1
                stack = [each for each in stack if each["number"] != row["undoes"]]
            else:
                stack.append(row)
                found[files[row["import_id"]] if row["import_id"] else name_of(row)] += 1
        for what in self.saved:
            if found[what] != 1:
                wrong.append(f"{what} was told as saved and stands {found[what]} times")
        wrong += [f"{what} was sent once and stands {found[what]} times" for what in self.unknown if found[what] > 1]
        known = {*self.saved, *self.unknown}
        wrong += [f"{what} stands there and was never sent" for what in list(found)[1:] if what not in known]
        if not self.undone <= undone <= self.undone + self.perhaps_undone:
            wrong.append(f"{undone} steps are undone; {self.undone} were told, {self.perhaps_undone} perhaps")
        edits = [row for row in stack if not row["import_id"]]
        if name_of(revisions[-1]) != name_of(edits[-1]):
            wrong.append(f"the home is called {name_of(revisions[-1])!r} where its history says {name_of(edits[-1])!r}")
        if [row["number"] for row in revisions] != list(range(1, len(by_number) + 1)):
            wrong.append("numbers of revisions lack or are double")
        return wrong


def name_of(revision: dict[str, Any]) -> str:
    """Return the home's name in a revision."""
    return str(revision["document"]["json"]["name"])


def _broken_readings(rows: dict[str, list[dict[str, Any]]]) -> list[str]:
    """Return imports of which some readings lack, or that stand twice."""
    held, aside = Counter[int](), Counter[int]()
    times: Counter[tuple[int, int]] = Counter()
    for table, count in (("reading_chunk", held), ("reading_taken_back", aside)):
        for row in rows[table]:
            count.update(row["data"]["import_id"])
            if table == "reading_chunk":
                times.update((row["series_id"], at) for at in row["data"]["at_ms"])
    wrong = []
    for row in rows["reading_import"]:
        is_back = row["taken_back_ms"] is not None
        wanted = (0, row["added"]) if is_back else (row["added"], 0)
        if (held[row["id"]], aside[row["id"]]) != wanted or row["added"] != READINGS:
            wrong.append(
                f"{row['file_name']}: {held[row['id']]} readings stand and {aside[row['id']]} are aside of {READINGS}"
            )
    if any(number > 1 for number in times.values()):
        wrong.append("an instant stands twice in a series")
    revised = {row["import_id"] for row in rows["home_revision"] if row["import_id"]}
    if revised != {row["id"] for row in rows["reading_import"]}:
        wrong.append("imports and revisions do not name the same")
    return wrong
