"""A home's rules as a file of their own, and back: JSON with a format of its own."""

import json
from dataclasses import dataclass, replace
from functools import cache
from typing import Annotated, Literal

from annotated_types import Len
from pydantic import TypeAdapter, ValidationError

from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.part import Document, Name
from warmeter.core.home.rules import NotificationGroup, Rule, Tell
from warmeter.service.editing import new_id
from warmeter.service.rule_edits import with_new_rule
from warmeter.store.codec import places_told

FORMAT: Literal["warmeter-rules/1"] = "warmeter-rules/1"


@dataclass(frozen=True, slots=True, kw_only=True)
class RulesFile(Document):
    """Rules in their order, with the chains that they tell."""

    home: Name
    rules: Annotated[tuple[Rule, ...], Len(0, 500)]
    tell_chains: Annotated[tuple[NotificationGroup, ...], Len(0, 40)] = ()
    format: Literal["warmeter-rules/1"] = FORMAT


@cache
def rules_adapter() -> TypeAdapter[RulesFile]:
    """Return the validator and serialiser of a file of rules."""
    return TypeAdapter(RulesFile)


def rules_json(home: Home) -> bytes:
    """Return a home's rules as a file."""
    return rules_adapter().dump_json(
        RulesFile(home=home.name, rules=home.rules, tell_chains=home.tell_chains), indent=1
    )


def read_rules(text: bytes) -> RulesFile:
    """Return the rules of a file.

    Raises
    ------
    HomeError
        If it is no such file, of another version, or a part of it cannot be read, with its place.
    """
    try:
        content = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise HomeError(
            f"this is no JSON: {error}. Nothing was changed; save the rules again and read that file"
        ) from error
    found = content.get("format") if isinstance(content, dict) else None
    if found != FORMAT:
        raise HomeError(
            f"this file says it is {found!r}; rules are read from {FORMAT}. Nothing was changed; "
            "if a newer Warmeter wrote it, open it there"
        )
    try:
        return rules_adapter().validate_json(text, strict=True)
    except ValidationError as error:
        words = "; ".join(places_told(error))
        raise HomeError(f"a rule cannot be read ({words}). Nothing was changed") from error


def with_rules_of(home: Home, content: RulesFile) -> Home:
    """Return a home with the rules of a file added under fresh ids, and the chains that it does not have.

    What a rule names that is not in this home stays named, and has a finding.
    """
    by_name = {chain.name: chain.id for chain in home.tell_chains}
    ids = {chain.id: by_name.get(chain.name) or new_id() for chain in content.tell_chains}
    fresh = (replace(chain, id=ids[chain.id]) for chain in content.tell_chains if chain.name not in by_name)
    changed = replace(home, tell_chains=(*home.tell_chains, *fresh))
    for rule in content.rules:
        then = tuple(
            replace(step, chain_id=ids.get(step.chain_id, step.chain_id)) if isinstance(step, Tell) else step
            for step in rule.then
        )
        changed, _ = with_new_rule(changed, replace(rule, then=then))
    return changed
