"""A made rule's temperatures in whole numbers of the home's unit: 80 °F, never a converted 80.6."""

from dataclasses import replace

from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Condition
from warmeter.core.home.conditions.moving import Moving
from warmeter.core.home.rules import Rule, SetPoint, Step
from warmeter.core.quantity import QUANTITIES
from warmeter.core.rule.parts import PARTS, conditions_of, with_condition
from warmeter.core.units import TemperatureUnit, whole_c, whole_k


def in_whole_numbers(rule: Rule, unit: TemperatureUnit) -> Rule:
    """Return a rule whose temperatures and differences are whole in a unit; in °C it is as it was made."""
    if unit == "C":
        return rule
    for part in PARTS:
        for place, condition in conditions_of(rule, part):
            rule = with_condition(rule, place, whole_condition(condition, unit))
    return replace(rule, then=tuple(whole_step(step, unit) for step in rule.then))


def whole_condition(condition: Condition, unit: TemperatureUnit) -> Condition:
    """Return a condition with its temperatures whole in a unit."""
    if not isinstance(condition, Compared | Moving):
        return condition
    quantity = QUANTITIES.get(condition.of.quantity)  # None for what is worked out of readings
    if quantity is None or quantity.unit != "°C":
        return condition
    if isinstance(condition, Moving):
        return replace(condition, by=whole_k(condition.by, unit))
    whole = whole_c if condition.minus is None else whole_k
    return replace(
        condition,
        value=whole(condition.value, unit),
        high=None if condition.high is None else whole(condition.high, unit),
        hysteresis=whole_k(condition.hysteresis, unit),
    )


def whole_step(step: Step, unit: TemperatureUnit) -> Step:
    """Return a step with its temperatures whole in a unit."""
    if not isinstance(step, SetPoint):
        return step
    return replace(
        step,
        value_c=None if step.value_c is None else whole_c(step.value_c, unit),
        change_k=None if step.change_k is None else whole_k(step.change_k, unit),
    )
