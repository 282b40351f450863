"""Starting: the command without a subcommand, and the demo."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest

from wamplex import cli
from wamplex.app.startup import start
from wamplex.core.demo import demo_pictures
from wamplex.core.intake.probe import probe

ORIGINALS = Path(__file__).parents[3] / "demo-originals"


def call(monkeypatch: pytest.MonkeyPatch, *words: str) -> list[tuple[list[Path], bool]]:
    """Run ``wamplex`` with these words; returns how the window would have been opened."""
    opened: list[tuple[list[Path], bool]] = []

    def open_window(paths: list[Path], *, demo: bool, new: bool) -> int:
        opened.append((paths, demo))
        return 0

    monkeypatch.setattr(start, "start_window", open_window)
    monkeypatch.setattr(sys, "argv", ["wamplex", *words])
    with pytest.raises(SystemExit) as ended:
        cli.main()
    assert ended.value.code == 0
    return opened


def test_files_open_the_window_on_them(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.chdir(tmp_path)
    for name in ("a.jpg", "b.tif"):
        (tmp_path / name).touch()
    assert call(monkeypatch, "a.jpg", "b.tif") == [([Path("a.jpg"), Path("b.tif")], False)]


def test_nothing_opens_an_empty_window(monkeypatch: pytest.MonkeyPatch) -> None:
    assert call(monkeypatch) == [([], False)]


def test_demo_opens_the_demo(monkeypatch: pytest.MonkeyPatch) -> None:
    assert call(monkeypatch, "--demo") == [([], True)]


def test_unknown_options_are_wrong_usage(monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
    monkeypatch.setattr(sys, "argv", ["wamplex", "--magic"])
    with pytest.raises(SystemExit) as ended:
        cli.main()
    assert ended.value.code == 2
    assert "no option --magic" in capsys.readouterr().err


def test_a_mistyped_command_opens_no_window(
    monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.setattr(sys, "argv", ["wamplex", "enlage", "a.jpg"])
    with pytest.raises(SystemExit) as ended:
        cli.main()
    assert ended.value.code == 2
    assert "Did you mean enlarge?" in capsys.readouterr().err


@pytest.mark.parametrize("words", [["--version"], ["--help"], ["-h"], ["-V"]])
def test_version_and_help_load_nothing_heavy(words: list[str]) -> None:
    code = "import sys; from wamplex.cli import main\ntry: main()\nfinally: print('numpy' in sys.modules)"
    run = subprocess.run([sys.executable, "-c", code, *words], capture_output=True, text=True, check=True)
    assert run.stdout.strip().endswith("False")


def test_version_is_told(monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
    monkeypatch.setattr(sys, "argv", ["wamplex", "--version"])
    cli.main()
    assert capsys.readouterr().out.startswith("wamplex 0.")


@pytest.mark.parametrize("variable", ["DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"])
def test_a_display_is_noticed(monkeypatch: pytest.MonkeyPatch, variable: str) -> None:
    for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"):
        monkeypatch.delenv(name, raising=False)
    assert not start.has_display()
    monkeypatch.setenv(variable, "something")
    assert start.has_display()


def test_every_demo_picture_has_its_larger_original() -> None:
    """The known answers: same proportions, at least twice as large."""
    for path in demo_pictures():
        small, large = probe(path), probe(ORIGINALS / f"{path.stem}.jpg")
        assert large.width >= 2 * small.width
        assert large.width / large.height == pytest.approx(small.width / small.height, rel=0.01)


def test_the_demo_pictures_are_as_the_story_says() -> None:
    found = {p.stem: probe(p) for p in demo_pictures()}
    assert found["stage-web"].kind == "JPEG"
    assert found["stage-web"].file_bytes < 20_000
    assert found["carved-head"].width <= 200
    assert {"dusk-backdrop", "linocut-poster", "rehearsal"} <= set(found)
