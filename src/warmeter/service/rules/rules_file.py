"""A home's rules as a file of their own, and back: JSON with a format of its own."""

import json
from dataclasses import dataclass, replace
from functools import cache
from typing import Annotated, Any, Literal

from annotated_types import Len
from pydantic import TypeAdapter, ValidationError

from warmeter.core.edits.ids import new_id
from warmeter.core.edits.rule_edits import with_new_rule
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.part import Document, Name
from warmeter.core.home.rules import Ask, NotificationGroup, Rule, Tell
from warmeter.core.home.upgrade import rule_of_2
from warmeter.store.codec import places_told

FORMAT: Literal["warmeter-rules/2"] = "warmeter-rules/2"
OLDER = "warmeter-rules/1"


@dataclass(frozen=True, slots=True, kw_only=True)
class RulesFile(Document):
    """Rules in their order, with the chains that they tell."""

    home: Name
    rules: Annotated[tuple[Rule, ...], Len(0, 500)]
    notification_groups: Annotated[tuple[NotificationGroup, ...], Len(0, 40)] = ()
    format: Literal["warmeter-rules/2"] = FORMAT


@cache
def rules_adapter() -> TypeAdapter[RulesFile]:
    """Return the validator and serialiser of a file of rules."""
    return TypeAdapter(RulesFile)


def rules_json(home: Home) -> bytes:
    """Return a home's rules as a file."""
    return rules_adapter().dump_json(
        RulesFile(home=home.name, rules=home.rules, notification_groups=home.notification_groups), indent=1
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
    if found == OLDER:
        content = _from_1(content)
    elif found != FORMAT:
        raise HomeError(
            f"this file says it is {found!r}; rules are read up to {FORMAT}. Nothing was changed; "
            "if a newer Warmeter wrote it, open it there"
        )
    try:
        return rules_adapter().validate_json(json.dumps(content), strict=True)
    except ValidationError as error:
        words = "; ".join(places_told(error))
        raise HomeError(f"a rule cannot be read ({words}). Nothing was changed") from error


def _from_1(content: dict[str, Any]) -> dict[str, Any]:
    """Return a file of the older format in the present one; ``HomeError`` if its parts are not as that has them."""
    try:
        rules = [rule_of_2(rule) for rule in content["rules"]]
        groups = content.pop("tell_chains", [])
        return {**content, "rules": rules, "notification_groups": groups, "format": FORMAT}
    except (KeyError, TypeError, AttributeError) as error:
        raise HomeError(f"the rules are not as {OLDER} has them ({error}). Nothing was changed") from error


def with_rules_of(home: Home, content: RulesFile) -> Home:
    """Return a home with the rules of a file added under fresh ids, and the chains that it does not have.

    What a rule names that is not in this home stays named, and has a finding.
    """
    by_name = {chain.name: chain.id for chain in home.notification_groups}
    ids = {chain.id: by_name.get(chain.name) or new_id() for chain in content.notification_groups}
    fresh = (replace(chain, id=ids[chain.id]) for chain in content.notification_groups if chain.name not in by_name)
    changed = replace(home, notification_groups=(*home.notification_groups, *fresh))
    for rule in content.rules:
        then = tuple(
            replace(step, group_id=ids.get(step.group_id, step.group_id)) if isinstance(step, Tell | Ask) else step
            for step in rule.then
        )
        changed, _ = with_new_rule(changed, replace(rule, then=then))
    return changed
