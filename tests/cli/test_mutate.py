"""The mutation command fails where a planted fault is not found, and where a finding has no cause."""

import contextlib
import io
import unittest
from argparse import Namespace
from dataclasses import replace
from unittest.mock import patch

from warmeter.cli import mutate
from warmeter.core.home.document import Home
from warmeter.simulators import faults
from warmeter.simulators.planted import Planted


class MutationCommand(unittest.TestCase):
    def ran(self, **plants: faults.Plant) -> tuple[int, str]:
        """Return exit code and words of the command with some plants put in others' places."""
        out = io.StringIO()
        with (
            patch.dict(faults.PLANTS, {k.replace("_", " "): v for k, v in plants.items()}),
            contextlib.redirect_stdout(out),
        ):
            return mutate.run(Namespace()), out.getvalue()

    def test_a_fault_that_is_not_found_fails_the_command(self) -> None:
        code, words = self.ran(controlled_twice=lambda home: [Planted(home, home.devices[0].id)])
        self.assertEqual(code, 1)
        self.assertIn("MISSED    Sail Loft Bindery: controlled twice", words)

    def test_a_finding_that_nothing_planted_explains_fails_it_too(self) -> None:
        def clumsy(home: Home) -> list[Planted]:
            return [Planted(replace(p.home, tariffs=()), p.place) for p in faults.controlled_twice(home)[:1]]

        code, words = self.ran(controlled_twice=clumsy)
        self.assertEqual(code, 1)
        self.assertIn("brought no tariff", words)


if __name__ == "__main__":
    unittest.main()
