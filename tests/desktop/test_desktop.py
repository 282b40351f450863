"""What the desktop is told: valid, complete, and gone without a trace."""

from __future__ import annotations

import shutil
import subprocess
import xml.etree.ElementTree as ET
from pathlib import Path
from typing import cast

import pytest
import typer.main
from typer.testing import CliRunner

from wamplex.cli import app
from wamplex.commands.command_group import SUBCOMMANDS, CommandGroup
from wamplex.desktop.entry import desktop_entry
from wamplex.desktop.manual import bash_completion, manual_page

COMMANDS = cast(CommandGroup, typer.main.get_command(app)).load_all()


@pytest.fixture
def data(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "share"))
    return tmp_path / "share"


def test_all_is_put_there_and_taken_away_again(data: Path) -> None:
    assert CliRunner().invoke(app, ["desktop", "install"]).exit_code == 0
    there = [path for path in data.rglob("wamplex*") if path.is_file()]
    assert {path.suffix for path in there} == {".desktop", ".svg", ".xml", ".1", ""}
    assert CliRunner().invoke(app, ["desktop", "uninstall"]).exit_code == 0
    assert not [path for path in data.rglob("wamplex*") if path.is_file()]
    assert CliRunner().invoke(app, ["desktop", "tidy"]).exit_code == 2


@pytest.mark.skipif(shutil.which("desktop-file-validate") is None, reason="needs desktop-file-utils")
def test_the_entry_is_valid(tmp_path: Path) -> None:
    path = tmp_path / "wamplex.desktop"
    path.write_text(desktop_entry(Path('/opt/my "own" 100%/wamplex')))
    run = subprocess.run(["desktop-file-validate", path], capture_output=True, text=True, check=False)
    assert run.returncode == 0, run.stdout


def test_the_kind_of_file_is_sound_xml(data: Path) -> None:
    CliRunner().invoke(app, ["desktop", "install"])
    root = ET.parse(data / "mime" / "packages" / "wamplex.xml").getroot()
    globs = [one.get("pattern") for one in root.iter("{http://www.freedesktop.org/standards/shared-mime-info}glob")]
    assert globs == ["*.wamplex"]


def test_manual_and_completion_know_every_command() -> None:
    manual, completion = manual_page(COMMANDS), bash_completion(COMMANDS)
    for name in SUBCOMMANDS:
        assert f".SS {name.replace('-', chr(92) + '-')}\n" in manual
        assert f"{name})" in completion
    assert "upscalers add" in manual
    assert "\\-\\-sensor\\-noise" in manual
    assert "--sensor-noise" in completion


@pytest.mark.skipif(shutil.which("groff") is None, reason="needs groff")
def test_the_manual_is_set_without_a_warning() -> None:
    page = manual_page(COMMANDS).encode()
    run = subprocess.run(["groff", "-man", "-Tutf8", "-ww", "-z"], input=page, capture_output=True, check=False)
    assert run.stderr == b""


@pytest.mark.skipif(shutil.which("bash") is None, reason="needs bash")
def test_bash_completes_an_option(tmp_path: Path) -> None:
    script = tmp_path / "completion"
    script.write_text(bash_completion(COMMANDS))
    words = f'. {script}; COMP_WORDS=(wamplex enlarge --sens); COMP_CWORD=2; _wamplex; echo "${{COMPREPLY[@]}}"'
    run = subprocess.run(["bash", "-c", words], capture_output=True, text=True, check=True)
    assert run.stdout.strip() == "--sensor-noise"
