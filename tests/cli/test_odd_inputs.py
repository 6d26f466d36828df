"""What the fuzzer makes of a file: always some bytes, however short the file was."""

import random
import unittest

from warmeter.cli.odd_inputs import Files, odd_file


class OddFiles(unittest.TestCase):
    def test_a_file_that_shrinks_to_nothing_is_sent_as_nothing(self) -> None:
        files = Files(by_kind={"csv": b"a,b\n"})
        made = [odd_file(random.Random(seed), files) for seed in range(3000)]
        self.assertIn(b"", made)
        self.assertGreater(len(set(made)), 500)


if __name__ == "__main__":
    unittest.main()
