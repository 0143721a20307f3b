"""What is installed: the package with its data, the desktop entry, the icon, the file type."""

from __future__ import annotations

import configparser
import os
import shutil
import subprocess
import sys
import xml.etree.ElementTree as ET
import zipfile
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parent.parent


@pytest.fixture(scope="module")
def wheel(tmp_path_factory: pytest.TempPathFactory) -> zipfile.ZipFile:
    folder = tmp_path_factory.mktemp("wheel")
    command = [sys.executable, "-m", "pip", "wheel", "-q", "--no-deps", "--no-build-isolation"]
    # Built from a copy: a build leaves its traces where it is made.
    copy = folder / "source"
    unwanted = shutil.ignore_patterns("__pycache__", "*.egg-info")
    shutil.copytree(ROOT / "src", copy / "src", ignore=unwanted)
    for name in ("pyproject.toml", "README.md", "LICENSE"):
        shutil.copyfile(ROOT / name, copy / name)
    done = subprocess.run(
        [*command, "-w", str(folder), str(copy)], capture_output=True, text=True, check=False
    )
    assert done.returncode == 0, done.stderr
    (path,) = folder.glob("*.whl")
    return zipfile.ZipFile(path)


def data_file(wheel: zipfile.ZipFile, ending: str) -> bytes:
    (name,) = [name for name in wheel.namelist() if name.endswith(ending)]
    return wheel.read(name)


def test_fonts_icons_catalogue_and_demo_are_in_the_package(wheel: zipfile.ZipFile) -> None:
    names = set(wheel.namelist())
    for wanted in (
        "verve/data/catalogue.json",
        "verve/data/demo.verve.json",
        "verve/data/icons/verve.svg",
        "verve/data/desktop/verve.metainfo.xml",
        "verve/data/desktop/verve.bash",
        "verve/data/icons/tick-day.svg",
        "verve/data/fonts/AtkinsonHyperlegibleNext_400Regular.ttf",
        "verve/data/fonts/OFL-next.txt",
        "verve/data/fonts/OFL-mono.txt",
        "verve/data/fonts/VerveSigns.ttf",
        "verve/data/fonts/LICENCE-signs.txt",
    ):
        assert wanted in names


def test_every_font_has_its_licence() -> None:
    fonts = ROOT / "src" / "verve" / "data" / "fonts"
    for licence in ("OFL-next.txt", "OFL-mono.txt"):
        assert "SIL OPEN FONT LICENSE" in (fonts / licence).read_text(encoding="utf-8").upper()
    signs = (fonts / "LICENCE-signs.txt").read_text(encoding="utf-8")
    assert "Permission is hereby granted, free of charge" in signs
    assert "renamed to names not containing" in signs


def test_the_desktop_entry_opens_session_files(wheel: zipfile.ZipFile) -> None:
    parser = configparser.ConfigParser(interpolation=None)
    parser.optionxform = str  # type: ignore[assignment,method-assign]
    parser.read_string(data_file(wheel, "share/applications/verve.desktop").decode())
    entry = parser["Desktop Entry"]
    assert entry["Exec"] == "verve %f"
    assert entry["MimeType"] == "application/x-verve-session+json;"
    assert entry["Icon"] == "verve"


def test_the_file_type_is_known_by_its_ending(wheel: zipfile.ZipFile) -> None:
    root = ET.fromstring(data_file(wheel, "share/mime/packages/verve-session.xml"))
    space = "{http://www.freedesktop.org/standards/shared-mime-info}"
    kind = root.find(f"{space}mime-type")
    assert kind is not None
    assert kind.attrib["type"] == "application/x-verve-session+json"
    glob = kind.find(f"{space}glob")
    assert glob is not None
    assert glob.attrib["pattern"] == "*.verve.json"


def test_the_icon_is_a_drawing(wheel: zipfile.ZipFile) -> None:
    root = ET.fromstring(data_file(wheel, "share/icons/hicolor/scalable/apps/verve.svg"))
    assert root.tag.endswith("svg")


def test_the_command_is_installed(wheel: zipfile.ZipFile) -> None:
    assert b"verve = verve.cli:main" in data_file(wheel, "entry_points.txt")


def run_script(*arguments: str, **environment: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        ["bash", str(ROOT / "run"), *arguments],
        capture_output=True,
        text=True,
        check=False,
        timeout=60,
        env={"PATH": "/usr/bin:/bin", **environment},
    )


def test_the_run_script_explains_itself() -> None:
    done = run_script("--help")
    assert done.returncode == 0
    for what in ("demo", "test", "verve", "shots", "bench", "pages", "deb"):
        assert f"  {what} " in done.stdout


@pytest.mark.parametrize("arguments", [(), ("dance",)])
def test_the_run_script_refuses_what_it_does_not_know(arguments: tuple[str, ...]) -> None:
    done = run_script(*arguments)
    assert done.returncode == 2
    assert "Usage: ./run" in done.stderr


@pytest.mark.parametrize("name", ["Übung", "it's", 'say "so"', "a) b(", "100 %"])
def test_any_folder_may_hold_it(tmp_path: Path, name: str) -> None:
    place = tmp_path / name
    shutil.copytree(ROOT / "src", place, ignore=shutil.ignore_patterns("__pycache__"))
    code = (
        "from PyQt6.QtCore import QFile; from verve.app._run import make_application; import verve\n"
        "application = make_application(); print(verve.__file__)\n"
        "assert QFile.exists('verve:tick-day.svg') and QFile.exists('verve:tick-night.svg')\n"
        "assert application.styleSheet()"
    )
    done = subprocess.run(
        [sys.executable, "-c", code],
        env=os.environ | {"PYTHONPATH": str(place), "QT_QPA_PLATFORM": "offscreen"},
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr
    assert str(place) in done.stdout
    assert "parse" not in done.stderr
    assert "Could not" not in done.stderr


def test_all_checks_run_and_those_that_fail_are_named_at_the_end(tmp_path: Path) -> None:
    script = (ROOT / "run").read_text(encoding="utf-8")
    begin, end = script.index("checks() {"), script.index("what=${1:-}")
    tools = tmp_path / ".venv" / "bin"
    tools.mkdir(parents=True)
    for tool, code in (("ruff", 1), ("mypy", 0), ("lint-imports", 1), ("python", 0)):
        (tools / tool).write_text(f"#!/bin/sh\nexit {code}\n")
        (tools / tool).chmod(0o755)
    body = "set -euo pipefail\nsay() { printf '%s\\n' \"$*\"; }\n" + script[begin:end] + "\nchecks"
    done = subprocess.run(
        ["bash", "-c", body], cwd=tmp_path, capture_output=True, text=True, check=False
    )
    assert done.returncode == 1
    assert done.stdout.splitlines()[-1] == "Failed: ruff: lint, ruff: format, import rules"
    assert "pytest" in done.stdout
