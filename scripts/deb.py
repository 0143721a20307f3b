"""Builds a Debian package of the program: Python files and data; what it runs on comes from Debian itself."""

from __future__ import annotations

import gzip
import shutil
import subprocess
import sys
import tempfile
from importlib.metadata import files
from pathlib import Path

import fsrs

from verve import __version__
from verve.desktop import PLACES

ROOT = Path(__file__).resolve().parents[1]
_NEEDS = (
    "python3 (>= 3.11)",
    "python3-pyqt6",
    "python3-numpy (>= 1:2.0)",
    "python3-scipy (>= 1.13)",
    "python3-pydantic (>= 2.10)",
    "python3-soundfile",
    "python3-soxr",
    "python3-contourpy",
    "python3-platformdirs",
    "python3-threadpoolctl",
    "qt6-svg-plugins",
)
_CONTROL = f"""\
Package: verve
Version: {__version__}
Architecture: all
Section: sound
Priority: optional
Maintainer: The Verve developers <verve@localhost>
Depends: {", ".join(_NEEDS)}
Recommends: python3-pyqt6.qtmultimedia, python3-sounddevice, python3-rtmidi, libportaudio2, ffmpeg
Description: levels, ceilings and noise of every recording line
 For musicians who record microphones and electric, electronic or
 pickup-equipped instruments: Verve works out the level, the ceiling and the
 noise of every line at every stage, says what to do next and why, and sets
 the gains.
"""
_COMMAND = """\
#!/usr/bin/python3
import sys

# What Debian does not have; where it does, its own goes first.
sys.path.append("/usr/lib/verve")
from verve.cli import main

sys.exit(main())
"""
_UNWANTED = shutil.ignore_patterns("__pycache__", "*.egg-info")


def _licence_of_beside() -> str:
    """The licence of what is passed on with it."""
    found = [p for p in files("fsrs") or () if p.name == "LICENSE"]
    return f"fsrs, in /usr/lib/verve:\n\n{found[0].read_text(encoding='utf-8')}"


def _stage(tree: Path) -> None:
    """Lay everything where the package has it."""
    package = tree / "usr/lib/python3/dist-packages/verve"
    shutil.copytree(ROOT / "src" / "verve", package, ignore=_UNWANTED)
    share = tree / "usr" / "share"
    for source, place in PLACES.items():
        target = share / place
        target.parent.mkdir(parents=True, exist_ok=True)
        shutil.copyfile(package / "data" / source, target)
    manual = share / "man/man1/verve.1"
    with gzip.GzipFile(f"{manual}.gz", "wb", mtime=0) as file:
        file.write(manual.read_bytes())
    manual.unlink()
    rules = share / "doc" / "verve"
    rules.mkdir(parents=True)
    licence = (ROOT / "LICENSE").read_text(encoding="utf-8")
    (rules / "copyright").write_text(f"{licence}\n{_licence_of_beside()}", encoding="utf-8")
    beside = Path(fsrs.__file__).parent
    shutil.copytree(beside, tree / "usr/lib/verve/fsrs", ignore=_UNWANTED)
    command = tree / "usr/bin/verve"
    command.parent.mkdir(parents=True)
    command.write_text(_COMMAND)
    control = tree / "DEBIAN" / "control"
    control.parent.mkdir()
    control.write_text(_CONTROL)
    for path in tree.rglob("*"):
        path.chmod(0o755 if path.is_dir() or path == command else 0o644)
    tree.chmod(0o755)


def build(folder: Path) -> Path:
    """Build the package into a folder; gives back its file."""
    folder.mkdir(parents=True, exist_ok=True)
    target = folder / f"verve_{__version__}_all.deb"
    with tempfile.TemporaryDirectory() as name:
        tree = Path(name) / "verve"
        _stage(tree)
        subprocess.run(
            ["dpkg-deb", "--root-owner-group", "--build", str(tree), str(target)],
            check=True,
            stdout=subprocess.DEVNULL,
        )
    return target


if __name__ == "__main__":
    if shutil.which("dpkg-deb") is None:
        sys.exit("dpkg-deb is not here: a Debian package is built on Debian, or with its tools.")
    print(build(ROOT / "dist"))
