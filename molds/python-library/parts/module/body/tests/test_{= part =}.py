"""What {= part =} reads, a row a case."""

import doctest
import unittest

import {= module =}.{= part =}
from {= module =} import {= function =}


class {= part.pascal =}Test(unittest.TestCase):
    def test_lines_are_read(self){= if typed =} -> None{= end =}:
        for text, expected in [("", []), (" one \n\ntwo", ["one", "two"]), ("\t\n", [])]:
            with self.subTest(text):
                self.assertEqual({= function =}(text), expected)

    def test_examples_are_true(self){= if typed =} -> None{= end =}:
        self.assertEqual(doctest.testmod({= module =}.{= part =}).failed, 0)


if __name__ == "__main__":
    unittest.main()
