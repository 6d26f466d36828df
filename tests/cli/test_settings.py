"""Settings: an option before a variable before a default, each refused by the name it was given by."""

import os
import unittest
from unittest import mock

from warmeter.cli.parser import parser
from warmeter.cli.settings import BadSetting, Settings, settings_of


def settings(*arguments: str, **variables: str) -> Settings:
    with mock.patch.dict(os.environ, variables):
        return settings_of(parser().parse_args(["demo", *arguments]))


class SettingsOfAnInstall(unittest.TestCase):
    def test_an_option_goes_before_a_variable_and_that_before_the_default(self) -> None:
        self.assertEqual(settings().port, 8470)
        self.assertEqual(settings(WARMETER_PORT="9000").port, 9000)
        self.assertEqual(settings("--port", "9001", WARMETER_PORT="9000").port, 9001)
        self.assertEqual(settings("--open", WARMETER_BACKUPS_KEPT="0").open, True)
        self.assertEqual(settings(WARMETER_NO_DEMO="true", WARMETER_BACKUPS_KEPT="0").backups_kept, 0)

    def test_what_cannot_be_used_is_refused_by_the_name_it_was_given_by(self) -> None:
        for arguments, variables, named in (
            (("--port", "70000"), {}, "--port is '70000'"),
            (("--processes", "none"), {}, "--processes is 'none'"),
            (("--backups-kept", "31"), {}, "--backups-kept is '31'"),
            ((), {"WARMETER_PROCESSES": "9"}, "WARMETER_PROCESSES is '9'"),
        ):
            with self.subTest(named), self.assertRaisesRegex(BadSetting, named):
                settings(*arguments, **variables)


if __name__ == "__main__":
    unittest.main()
