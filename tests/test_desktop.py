"""Verve on a desktop: put into its places, taken away again, described in one place."""

from __future__ import annotations

import configparser
import gzip
import re
import runpy
import shutil
import subprocess
import tomllib
import xml.etree.ElementTree as ET
from importlib import metadata
from pathlib import Path

import pytest

from verve import __version__, cli
from verve.commands import command_parser
from verve.desktop import PLACES, command, install, quoted, uninstall

ROOT = Path(__file__).resolve().parent.parent
DATA = ROOT / "src" / "verve" / "data"


@pytest.fixture
def share(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    home = tmp_path / "own data"
    monkeypatch.setenv("XDG_DATA_HOME", str(home))
    return home


def files_in(folder: Path) -> set[str]:
    return {str(p.relative_to(folder)) for p in folder.rglob("*") if p.is_file()}


def test_everything_is_put_in_its_place_and_taken_away_again(
    share: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert cli.main(["--install-desktop"]) == 0
    assert "in the menu" in capsys.readouterr().out
    assert set(PLACES.values()) <= files_in(share)
    assert cli.main(["--install-desktop"]) == 0
    assert cli.main(["--uninstall-desktop"]) == 0
    assert "settings are where they were" in capsys.readouterr().out
    assert not set(PLACES.values()) & files_in(share)
    assert cli.main(["--uninstall-desktop"]) == 0
    assert "was not in the menu" in capsys.readouterr().out


def test_the_entry_starts_this_very_program(share: Path) -> None:
    install()
    parser = configparser.ConfigParser(interpolation=None)
    parser.optionxform = str  # type: ignore[assignment,method-assign]
    parser.read(share / "applications" / "verve.desktop")
    assert parser["Desktop Entry"]["Exec"] == f"{quoted(command())} %f"
    assert command().is_file()
    uninstall()


def test_a_data_folder_that_is_no_whole_path_does_not_count(
    share: Path, monkeypatch: pytest.MonkeyPatch, own_home: Path
) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", "somewhere")
    install()
    assert (own_home / ".local/share/applications/verve.desktop").is_file()
    assert not share.exists()


def test_what_is_in_the_way_is_told(share: Path, capsys: pytest.CaptureFixture[str]) -> None:
    share.parent.mkdir(exist_ok=True)
    share.write_text("a file")
    assert cli.main(["--install-desktop"]) == 2
    told = capsys.readouterr().err
    assert "cannot be written" in told
    assert "Errno" not in told


@pytest.mark.parametrize(
    ("path", "said"),
    [
        ("/opt/verve", '"/opt/verve"'),
        ("/home/a b/verve", '"/home/a b/verve"'),
        ('/x"y', r'"/x\\"y"'),
        ("/$x`", r'"/\\$x\\`"'),
        ("/a\\b", '"/a' + "\\" * 4 + 'b"'),
        ("/100 %", '"/100 %%"'),
    ],
)
def test_a_path_is_quoted_as_the_specification_says(path: str, said: str) -> None:
    assert quoted(Path(path)) == said


def test_manual_page_and_completion_are_those_of_the_commands() -> None:
    made = runpy.run_path(str(ROOT / "scripts" / "desktop_files.py"))["made"]()
    assert set(made) == {Path(name).name for name in PLACES if "verve.desktop" not in name} & set(
        made
    )
    for name, text in made.items():
        kept = (DATA / "desktop" / name).read_text(encoding="utf-8")
        assert kept == text, "write it anew: ./run pages"
    for word in ("assess", "--install-desktop", "--seconds"):
        assert word in made["verve.bash"]
        assert word.replace("-", "\\-") in made["verve.1"] or word in made["verve.1"]


def test_the_shell_completes_a_command() -> None:
    script = DATA / "desktop" / "verve.bash"
    code = f'source "{script}"; COMP_WORDS=(verve as); COMP_CWORD=1; _shtab_verve; echo "${{COMPREPLY[@]}}"'
    done = subprocess.run(["bash", "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.split() == ["assess"]


def test_every_command_says_what_it_does() -> None:
    parser = command_parser()
    told = parser.format_help()
    for name in cli._RUNS:
        assert f"verve {name}" in told
        with pytest.raises(SystemExit) as end:
            cli.main([name, "--help"])
        assert end.value.code == 0


def test_the_description_for_software_centres_is_whole() -> None:
    root = ET.parse(DATA / "desktop" / "verve.metainfo.xml").getroot()
    assert root.attrib["type"] == "desktop-application"
    for tag in ("id", "name", "summary", "metadata_license", "project_license", "launchable"):
        assert root.findtext(tag)
    (release,) = root.iter("release")
    assert release.attrib["version"] == __version__
    if shutil.which("appstreamcli"):
        check = ["appstreamcli", "validate", "--no-net", str(DATA / "desktop/verve.metainfo.xml")]
        done = subprocess.run(check, capture_output=True, text=True, check=False)
        assert done.returncode == 0, done.stdout


def test_the_licence_is_one_under_which_it_may_be_passed_on() -> None:
    project = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))["project"]
    assert project["license"] == "GPL-3.0-or-later"
    assert "GNU GENERAL PUBLIC LICENSE" in (ROOT / "LICENSE").read_text(encoding="utf-8")
    described = ET.parse(DATA / "desktop" / "verve.metainfo.xml").getroot()
    assert described.findtext("project_license") == project["license"]


def test_every_declared_dependency_is_used() -> None:
    project = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))["project"]
    source = "\n".join(path.read_text(encoding="utf-8") for path in (ROOT / "src").rglob("*.py"))
    modules = metadata.packages_distributions()
    for said in project["dependencies"]:
        name = re.split(r"[<>=]", said)[0].lower()
        own = [m for m, found in modules.items() if name in {one.lower() for one in found}]
        assert any(re.search(rf"^\s*(from|import) {m}\b", source, re.MULTILINE) for m in own), name


@pytest.mark.skipif(shutil.which("dpkg-deb") is None, reason="no Debian here")
def test_a_debian_package_is_built_and_stays_small(tmp_path: Path) -> None:
    build = runpy.run_path(str(ROOT / "scripts" / "deb.py"))["build"]
    package = build(tmp_path)
    assert package.stat().st_size < 4_000_000
    subprocess.run(["dpkg-deb", "-x", str(package), str(tmp_path / "there")], check=True)
    there = tmp_path / "there" / "usr"
    assert (there / "lib/python3/dist-packages/verve/cli.py").is_file()
    assert gzip.decompress((there / "share/man/man1/verve.1.gz").read_bytes()).startswith(b".TH")
    assert "Exec=verve %f" in (there / "share/applications/verve.desktop").read_text()
    assert (there / "bin/verve").stat().st_mode & 0o111
    assert not list(there.rglob("__pycache__"))
