"""Makes manual page and completion from the description of the commands, into the data that ship."""

from __future__ import annotations

import argparse
from pathlib import Path

import shtab
from build_manpages.manpage import Manpage  # type: ignore[import-untyped]

from verve.commands import command_parser
from verve.core.files import write_atomically

FOLDER = Path(__file__).resolve().parents[1] / "src" / "verve" / "data" / "desktop"


def _parser() -> argparse.ArgumentParser:
    """The commands, with what the shell should know of their files."""
    parser = command_parser()
    subs = next(a for a in parser._actions if isinstance(a, argparse._SubParsersAction))
    subs.help = "what to do"
    for each in (parser, *subs.choices.values()):
        for action in each._actions:
            if action.metavar in {"FILE", "WAV"}:
                action.complete = shtab.FILE
    return parser


def manual() -> str:
    """The manual page."""
    parser = _parser()
    # The page has sections of its own for what the help tells below the options.
    parser.epilog = ""
    parser.man_short_description = "levels, ceilings and noise of every recording line"  # type: ignore[attr-defined]
    page = str(Manpage(parser, format="single-commands-section"))
    # The day of a build says nothing about the program.
    lines = page.splitlines()
    lines[0] = '.TH VERVE 1 "" "Verve" "User commands"'
    files = (
        ".SH FILES\n.TP\n.I ~/.config/verve\nsettings\n.TP\n.I ~/.local/state/verve\n"
        "copies of unsaved sessions, and the log of errors\n"
        ".SH EXIT STATUS\n.TP\n.B 0\nall is well\n.TP\n.B 1\nfindings that stop a take, or a number "
        "that is off\n.TP\n.B 2\nbad input, or stopped"
    )
    return "\n".join([*lines, files]) + "\n"


def completion(shell: str) -> str:
    """What completes the commands in a shell."""
    return shtab.complete(_parser(), shell=shell) + "\n"


def made() -> dict[str, str]:
    """Every file by its name."""
    return {"verve.1": manual(), "verve.bash": completion("bash"), "_verve": completion("zsh")}


if __name__ == "__main__":
    for name, text in made().items():
        write_atomically(FOLDER / name, text)
