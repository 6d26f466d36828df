"""Forms read by their models: each wrong field its own sentence, defaults, units, ticks and parts of a document."""

import unittest
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le, Len

from warmeter.core.edits.block_commands import ChangeBlockSetpoint, MoveBlockStart
from warmeter.core.edits.device_commands import ChangeDevice
from warmeter.core.edits.edit import UNSET, FieldsOf, Unset, Values
from warmeter.core.edits.plant_commands import ChangeHeater, ChangeSource
from warmeter.core.edits.timetable_edits import BlockPlace
from warmeter.core.home.part import Name, SetpointC, TimeOfDay, Unit
from warmeter.core.home.plant import FanStep, Heater
from warmeter.core.units import Units
from warmeter.web.form_reader import FormError, field_names_of, read_form, read_query


@dataclass(frozen=True, slots=True, kw_only=True)
class Model:
    """One field of every kind."""

    name: Name
    big: Annotated[float, Ge(0), Le(10), Unit("m")]
    above: Annotated[float, Gt(0), Le(2), Unit("K")]
    half: Annotated[int, Ge(0), Le(10)]
    at: TimeOfDay
    day: date
    pick: Literal["a", "b"]
    price: Annotated[Decimal, Ge(0), Le(100)]
    is_on: bool
    word: Annotated[str, Len(0, 5)]


GOOD = {
    "name": "Den",
    "big": "2,5",
    "above": "1",
    "half": "3",
    "at": "6.45",
    "day": "2026-03-31",
    "pick": "a",
    "price": "0,268",
    "is_on": "yes",
    "word": "",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Lenient:
    """Fields that may be left out."""

    number: float = 3.0
    at: TimeOfDay = 60
    maybe: SetpointC | None = 20.0
    unset: SetpointC | Unset | None = UNSET
    is_ticked: bool = False
    ticks: tuple[str, ...] = ()
    weight: Mapping[str, Annotated[float, Gt(0), Le(5)]] = field(default_factory=dict)
    values: Annotated[Values, FieldsOf(Heater, ("name", "band_k"))] = field(default_factory=dict)


class TypedForms(unittest.TestCase):
    def errors(self, **texts: str) -> dict[str, str]:
        with self.assertRaises(FormError) as caught:
            read_form(Model, GOOD | texts)
        return caught.exception.errors

    def test_a_whole_form_is_read(self) -> None:
        read = read_form(Model, GOOD)
        self.assertEqual((read.name, read.big, read.half, read.at, read.pick), ("Den", 2.5, 3, 405, "a"))
        self.assertEqual((read.day, read.price, read.is_on, read.word), (date(2026, 3, 31), Decimal("0.268"), True, ""))

    def test_values_are_typed_as_people_write_them(self) -> None:
        read = read_form(Model, GOOD | {"big": "9 ft", "at": "1:30 pm", "price": "26,8 p"})
        self.assertAlmostEqual(read.big, 9 * 0.3048)
        self.assertEqual((read.at, read.price), (810, Decimal("0.268")))
        self.assertIn("Between 0 and 10 m", self.errors(big="40 ft")["big"])
        self.assertIn("'kw' is not understood", self.errors(big="2 kW")["big"])

    def test_each_wrong_field_has_its_sentence_and_all_are_told_at_once(self) -> None:
        for name, typed, words in (
            ("name", "", "is missing"),
            ("name", "x" * 81, "1 to 80 letters"),
            ("big", "x", "Write a number"),
            ("big", "", "A number is missing"),
            ("big", "99", "Between 0 and 10 m"),
            ("above", "0", "Above 0, at most 2 K"),
            ("half", "1.5", "Write a whole number"),
            ("at", "soon", "Write a time"),
            ("day", "1 May", "Write a date"),
            ("pick", "c", "Choose one of the list"),
            ("price", "1000", "Between 0 and 100"),
            ("price", "nan", "Write a price"),
            ("is_on", "perhaps", "Choose one of the list"),
            ("word", "long word", "0 to 5 letters"),
        ):
            with self.subTest(name=name, typed=typed):
                self.assertIn(words, self.errors(**{name: typed})[name])
        with self.assertRaises(FormError) as caught:
            read_form(Model, {})
        self.assertEqual(set(caught.exception.errors), set(GOOD))

    def test_what_is_left_out_is_as_the_model_says_and_what_is_empty_is_nothing(self) -> None:
        usual = read_form(Lenient, {})
        self.assertEqual((usual.number, usual.at, usual.maybe, usual.unset), (3.0, 60, 20.0, UNSET))
        self.assertEqual((usual.is_ticked, usual.ticks, usual.values), (False, (), {}))
        empty = read_form(Lenient, {"number": "", "at": "", "maybe": "", "unset": ""})
        self.assertEqual((empty.number, empty.at, empty.maybe, empty.unset), (3.0, 60, None, None))

    def test_ticks_and_numbers_by_key_and_fields_of_a_part(self) -> None:
        read = read_form(
            Lenient,
            {"is_ticked": "on", "ticks.a": "on", "ticks.b": "on", "weight.a": "2", "weight.b": "", "band_k": "0.5"},
        )
        self.assertEqual((read.is_ticked, read.ticks, read.weight), (True, ("a", "b"), {"a": 2.0}))
        self.assertEqual(read.values, {"band_k": 0.5}, "only what was sent")
        with self.assertRaises(FormError) as caught:
            read_form(Lenient, {"weight.a": "9", "band_k": "40", "name": ""})
        self.assertEqual(set(caught.exception.errors), {"weight.a", "band_k", "name"})

    def test_temperatures_are_typed_and_refused_in_the_homes_unit(self) -> None:
        self.assertAlmostEqual(read_form(Lenient, {"maybe": "68"}, Units("F")).maybe or 0, 20.0)
        with self.assertRaises(FormError) as caught:
            read_form(Lenient, {"maybe": "150"}, Units("F"))
        self.assertIn("Between \u221222 and 140 °F", caught.exception.errors["maybe"])

    def test_an_address_that_cannot_be_read_is_as_if_it_was_not_there(self) -> None:
        read = read_query(Lenient, {"number": "many", "at": "07:00"})
        self.assertEqual((read.number, read.at), (3.0, 420))

    def test_a_prefix_stands_before_every_name(self) -> None:
        self.assertEqual(read_form(Lenient, {"r1_number": "4", "number": "9"}, prefix="r1_").number, 4.0)

    def test_what_is_written_in_its_own_way(self) -> None:
        start = read_form(MoveBlockStart, {"zone_id": "z", "block": "20260112.1", "start": "06:00"})
        self.assertEqual((start.block, start.start, start.scope), (BlockPlace(date(2026, 1, 12), 1), 360, "written"))
        self.assertEqual(start.block.text, "20260112.1")
        source = read_form(ChangeSource, {"id": "s", "cop_points": "19.4 2.4; 44.6 3,5", "litres": ""}, Units("F"))
        self.assertEqual((source.values["cop_points"], source.litres), (((-7.0, 2.4), (7.0, 3.5)), None))
        plate = read_form(ChangeHeater, {"id": "h", "fan_steps": "low 0.4; high 1"}).plate
        self.assertEqual(plate["fan_steps"], (FanStep(word="low", share=0.4), FanStep(word="high", share=1.0)))
        self.assertEqual(read_form(ChangeDevice, {"id": "d", "quantities": ""}).values["quantities"], ())
        for texts in ({"block": "yesterday"}, {"block": "20260112.x"}, {"block": "20260112.1", "setpoint_c": "90"}):
            with self.assertRaises(FormError):
                read_form(ChangeBlockSetpoint, {"zone_id": "z", "setpoint_c": "20", **texts})

    def test_the_names_of_a_form_are_known(self) -> None:
        self.assertEqual(field_names_of(Lenient)[-2:], ["name", "band_k"])


if __name__ == "__main__":
    unittest.main()
