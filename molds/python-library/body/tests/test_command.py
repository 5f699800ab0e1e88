"""The command, with its exit codes."""

from pathlib import Path

import pytest

from {= module =}.__main__ import main


def test_files_are_counted(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    for name in ["a", "b"]:
        (tmp_path / name).write_text("one two\n")
    assert main([str(tmp_path / "a"), str(tmp_path / "b")]) == 0
    assert capsys.readouterr().out.split("\n")[2].split() == ["2", "4", "16", "in", "all"]


def test_what_is_wrong_is_said(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    (tmp_path / "latin").write_bytes(b"\xe9")
    assert main([str(tmp_path / "none"), str(tmp_path / "latin")]) == 1
    assert capsys.readouterr().err.count("error: ") == 2


def test_a_wrong_word_is_refused() -> None:
    with pytest.raises(SystemExit) as stopped:
        main(["--wrong"])
    assert stopped.value.code == 2
