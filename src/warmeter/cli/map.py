"""``warmeter map``: what each column of a log could be in a home, how sure that is, and what would be asked."""

import argparse
import json
from typing import Any

from warmeter.cli.files import LOOKED_AT, log_lines, read_home
from warmeter.core.home.document import Home
from warmeter.core.home.log_subjects import log_subjects
from warmeter.core.home.part import part_names
from warmeter.core.quantity import QUANTITIES
from warmeter.core.readings.column_proposal import ColumnProposal
from warmeter.core.readings.log_proposal import propose_mapping


def run(options: argparse.Namespace) -> int:
    """Print the proposed mapping of a log; return 1 where something of it would be asked."""
    home = read_home(options.home)
    found = propose_mapping(log_lines(options.log)[:LOOKED_AT], log_subjects(home))
    columns = [_column(home, proposal) for proposal in found.columns]
    answer = {
        "delimiter": found.format.delimiter,
        "decimal": found.format.decimal,
        "date_format": found.format.date_format,
        "clock": found.format.clock,
        "asks": [question.sentence for question in found.asks],
        "columns": columns,
    }
    if options.json:
        print(json.dumps(answer, indent=1, ensure_ascii=False))
    else:
        for question in found.asks:
            print(question.sentence)
        for column in columns:
            said = f"{column['quantity_name'] or 'left open'} {column['unit']} {column['subject_name']}".strip()
            asked = ", asks" if column["asks"] else ""
            print(f"{column['heading']}: {said} ({column['how_sure']}{asked}): {column['why']}")
    return 1 if found.asks or any(c["asks"] for c in columns) else 0


def _column(home: Home, proposal: ColumnProposal) -> dict[str, Any]:
    column = proposal.column
    quantity = QUANTITIES.get(column.quantity)
    names = part_names(home.rooms, home.devices, home.appliances)
    whole = quantity.whole if quantity is not None and not quantity.needs_subject else ""
    return {
        "heading": column.heading,
        "quantity": column.quantity,
        "quantity_name": quantity.label if quantity is not None else "",
        "unit": column.unit,
        "kind": column.kind if quantity is not None else "",
        "subject": column.subject,
        "subject_name": names.get(column.subject, whole),
        "how_sure": proposal.certainty,
        "asks": proposal.asks,
        "why": proposal.why,
    }
