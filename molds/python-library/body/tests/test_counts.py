"""The counts, a row a case."""

# {= if command =}
import contextlib
import doctest
import io
import unittest
# {= else =}
import doctest
import unittest
# {= end =}

import {= module =}
from {= module =} import Counts, count, counts


class CountTest(unittest.TestCase):
    def test_texts_are_counted(self){= if typed =} -> None{= end =}:
        cases = [
            ("", Counts(0, 0, 0)),
            ("one", Counts(0, 1, 3)),
            ("one two\nthree\n", Counts(2, 3, 14)),
            (" \n\t\n", Counts(2, 0, 4)),
        ]
        for text, expected in cases:
            with self.subTest(text):
                self.assertEqual(count(text), expected)

    def test_counts_add_up(self){= if typed =} -> None{= end =}:
        self.assertEqual(count("one\n") + count("two\n"), count("one\ntwo\n"))

    def test_examples_are_true(self){= if typed =} -> None{= end =}:
        self.assertEqual(doctest.testmod(counts).failed, 0)

    def test_the_public_names_are_there(self){= if typed =} -> None{= end =}:
        for name in {= module =}.__all__:
            self.assertTrue(hasattr({= module =}, name))
# {= if command =}


class CommandTest(unittest.TestCase):
    def run_main(self, *arguments{= if typed =}: str{= end =}){= if typed =} -> "tuple[int, str]"{= end =}:
        from {= module =}.__main__ import main

        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            code = main(list(arguments))
        return code, out.getvalue() + err.getvalue()

    def test_files_are_counted(self){= if typed =} -> None{= end =}:
        code, said = self.run_main("README.md", "pyproject.toml")
        self.assertEqual(code, 0)
        self.assertTrue(said.endswith("in all\n"))

    def test_what_is_wrong_is_said(self){= if typed =} -> None{= end =}:
        code, said = self.run_main("no-such-file")
        self.assertEqual(code, 1)
        self.assertIn("no-such-file", said)
# {= end =}


if __name__ == "__main__":
    unittest.main()
