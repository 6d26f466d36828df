"""A nuisance's answers taken: parts added to the home, its log imported for them, the rule or the fit that follows."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from warmeter.core.appliance.setting_question import answer_of
from warmeter.core.edits.edit import Command, Edit
from warmeter.core.errors import NotKnowable, ReadingError
from warmeter.core.home.document import Home
from warmeter.core.nuisances.finished_machine import TellFinished
from warmeter.core.quantity import QUANTITIES
from warmeter.core.readings.column_proposal import ColumnProposal
from warmeter.core.readings.csvlog import Column, ImportMapping
from warmeter.core.readings.log_proposal import FileQuestion, LogProposal
from warmeter.service.app import App, Person
from warmeter.service.homes.editing import edit_home
from warmeter.service.readings import logs
from warmeter.service.signatures.machines import machine_record

# What a meter, a plug and a heat meter write looks alike: whose it is the nuisance says.
_POWERS = frozenset({"electric_w", "grid_import_w", "heat_w"})


@dataclass(frozen=True, slots=True, kw_only=True)
class WantedColumn:
    """A column that a nuisance lives on: its quantity, the part it belongs to, and whether nothing comes without it."""

    quantity: str
    subject: str
    is_needed: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class LogAnswers:
    """What a person chose of a file that could be read in two ways: columns by quantity, form of dates, decimal sign."""

    columns: Mapping[str, int]
    date_format: str = ""
    decimal: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class ColumnChoice:
    """A question which column carries a quantity: (index, heading) of each that could."""

    quantity: str
    label: str
    options: tuple[tuple[int, str], ...]


WantedOf = Callable[[Home, str], tuple[WantedColumn, ...]]


class LogQuestions(ReadingError):
    """Raised when a file can be read in two ways, or none of its columns is surely the one that is wanted."""

    def __init__(self, upload: logs.Upload, columns: Sequence[ColumnChoice], file: Sequence[FileQuestion]) -> None:
        super().__init__("the file asks something first; answer it under its name and go on")
        self.upload, self.columns, self.file = upload, tuple(columns), tuple(file)


@dataclass(frozen=True, slots=True, kw_only=True)
class LogBrought:
    """A log that a nuisance brings: its file, the columns that are lived on, and what was chosen of it."""

    upload: logs.Upload
    wanted: WantedOf
    answers: LogAnswers


def begin(app: App, home_id: str, base: int, person: Person, command: Command, log: LogBrought | None) -> str:
    """Do a nuisance's command and import its log; return the id of the part that it is about.

    Raises
    ------
    LogQuestions
        If the file asks something first; nothing is saved then, and the upload is kept.
    ReadingError
        If the file cannot be read; nothing is saved then.
    RevisionConflict
        If another window saved meanwhile.
    WarmeterError
        If the answers contradict each other; nothing is saved then.
    """
    home, _ = app.homes.load(home_id)
    grown = command.edit(home)
    part_id, mapping = grown.selected or "", None
    if log is not None:
        mapping = mapping_for(app, grown.home, log.upload, log.wanted(grown.home, part_id), log.answers)
    # What was tried is what is saved: ids are drawn once.
    edit_home(app, home_id, base, person, _Tried(grown.home, grown.summary, part_id))
    if log is not None and mapping is not None:
        if log.upload.is_big:
            _, revision = app.homes.load(home_id)
            logs.ask_to_take(app, home_id, revision, log.upload, mapping, person)
        else:
            logs.take(app, home_id, log.upload, mapping, person)
    return part_id


@dataclass(frozen=True, slots=True)
class _Tried:
    """A command that was done already."""

    home: Home
    summary: str
    part_id: str

    def edit(self, home: Home) -> Edit:  # noqa: ARG002  # what came out of it is kept
        """Return the home as it came out."""
        return Edit(self.home, self.summary, self.part_id)


def tell_when_finished(app: App, home_id: str, machine_id: str, person: Person) -> None:
    """Put in use what the log of a machine proposes for its finish, with the rule that tells it.

    Raises
    ------
    NotKnowable
        If the log shows no run, or no setting tells its end.
    """
    home, revision = app.homes.load(home_id)
    answer = answer_of(machine_record(app, home, machine_id), "finished")
    if answer.proposed is None:
        raise NotKnowable(answer.why or "No setting tells its end.", "Record two or three runs from start to end.")
    setting, start_s = answer.proposed.rounded.setting, answer.proposed.handed_over.start_s
    command = TellFinished(
        machine_id=machine_id, threshold_w=setting.threshold_w, wait_s=setting.wait_s, start_s=start_s
    )
    edit_home(app, home_id, revision, person, command)


def learn_room(app: App, home_id: str, room_id: str) -> None:
    """Queue the fit of a room's log."""
    _, revision = app.homes.load(home_id)
    app.jobs.submit(app.work.enqueue(home_id, "fit", room_id, revision, app.now_ms()))


def mapping_for(
    app: App, home: Home, upload: logs.Upload, wanted: Sequence[WantedColumn], answers: LogAnswers
) -> ImportMapping:
    """Return how a file is read for what is wanted of it.

    Raises
    ------
    LogQuestions
        If it asks something first.
    ReadingError
        If it cannot be read.
    """
    found = logs.proposal(app, home, upload)
    left = [q for q in found.asks if not getattr(answers, q.field, "")]
    chosen: dict[int, Column] = {}
    choices = []
    for want in wanted:
        column = _column_for(found, want, answers, chosen)
        if column is not None:
            chosen[column.index] = column
        elif want.is_needed:
            choices.append(_choice(found, want, chosen))
    if left or choices:
        raise LogQuestions(upload, choices, left)
    format_ = found.format
    if answers.date_format:
        format_ = replace(format_, date_format=answers.date_format)
    if answers.decimal in (".", ","):
        format_ = replace(format_, decimal=answers.decimal)  # type: ignore[arg-type]
    return replace(format_, columns=tuple(chosen.values()))


def _column_for(
    found: LogProposal, want: WantedColumn, answers: LogAnswers, chosen: Mapping[int, Column]
) -> Column | None:
    """Return the column that carries what is wanted: the chosen one, else the surest of its kind; None if none does."""
    free = [c for c in found.columns if c.column.index not in chosen and not c.is_nothing]
    picked = answers.columns.get(want.quantity)
    if picked is not None:
        return next((_as(c, want) for c in free if c.column.index == picked), None)
    exact = [c for c in free if c.column.quantity == want.quantity]
    alike = [c for c in free if want.quantity in _POWERS and c.column.quantity in _POWERS]
    for candidates in (exact, alike):
        mine = [c for c in candidates if c.column.subject == want.subject] or candidates
        if len(mine) == 1 or (mine and mine[0].certainty == "sure"):
            return _as(mine[0], want)
    numbers = [c for c in free if not c.column.quantity]
    if want.is_needed and len(free) == 1 and numbers:
        return _as(numbers[0], want)
    return None


def _as(proposed: ColumnProposal, want: WantedColumn) -> Column:
    """Return a column as what is wanted, in its own unit or the usual one."""
    quantity, column = QUANTITIES[want.quantity], proposed.column
    if column.quantity == want.quantity or (column.quantity in _POWERS and want.quantity in _POWERS):
        return replace(column, quantity=want.quantity, subject=want.subject)
    unit = proposed.units[0] if proposed.units else quantity.unit
    kind = "held" if quantity.is_two_states else "mean" if quantity.is_power else "instant"
    stamp = "start" if kind == "mean" else "instant"
    return replace(column, quantity=want.quantity, subject=want.subject, unit=unit, kind=kind, stamp=stamp)  # type: ignore[arg-type]


def _choice(found: LogProposal, want: WantedColumn, chosen: Mapping[int, Column]) -> ColumnChoice:
    options = tuple(
        (c.column.index, c.column.heading or f"column {c.column.index + 1}")
        for c in found.columns
        if c.column.index not in chosen and not c.is_nothing
    )
    return ColumnChoice(quantity=want.quantity, label=QUANTITIES[want.quantity].label, options=options)
