"""What can be typed: one description, from which help, manual page and completion in a shell are made."""

from __future__ import annotations

import argparse
import math
from collections.abc import Mapping
from pathlib import Path
from typing import NoReturn

from verve import __version__

_MORE = """\
Commands:
{commands}

Examples:
  verve                              open the window
  verve evening.verve.json           open a session in the window
  verve demo -o evening.verve.json && verve assess evening.verve.json
  verve next evening.verve.json --all -o mended.verve.json
  verve record evening.verve.json --signal "Harp left" --play hardest --seconds 10 -o harp.wav
  verve measure harp.wav --json

Exit codes: 0 all is well; 1 findings that stop a take, or a number that is off; 2 bad input, or stopped.
"""
_COMMANDS = {
    "demo": ("-o FILE", "write the demo session"),
    "assess": ("FILE [--json]", "every signal's levels, what is wrong, what to do next"),
    "next": (
        "FILE [--apply | --all]",
        "the next thing to do; press it, or all that can be pressed",
    ),
    "diagnose": ("FILE --signal NAME", "why a signal is off, the most likely cause first"),
    "connect": ("FILE [-o OUT]", "connections for every part of a layer, and what is missing"),
    "kit": (
        "FILE [--budget N] [--also WHAT]",
        "the cheapest complete kit, and what more would bring",
    ),
    "gains": ("FILE [-o OUT]", "the best gains of all signals, and why"),
    "sheet": ("FILE --kind KIND", "what to do in which order: set up, change, tear down"),
    "day": (
        "FILE [--plan] [--times]",
        "layers in their order, what is plugged between them, and when",
    ),
    "log": ("FILE [--form FORM]", "all takes with their levels and settings"),
    "bounce": ("FILE -o WAV", "the rough mix at a loudness, under a ceiling"),
    "compare": ("FILE OTHER", "what is different in another session, in words"),
    "measure": (
        "FILE [--json]",
        "levels, loudness, noise, hum, clipping, drop-outs of a sound file",
    ),
    "loopback": ("SENT RETURNED", "how late, how loud and in which order a test signal came back"),
    "align": ("FIRST SECOND", "how far one track of an instrument is behind another"),
    "tune": ("FILE [--from S --to S]", "the pitch of a note in a sound file"),
    "record": ("FILE --signal NAME -o WAV", "record a signal from the simulated interface"),
    "verify": ("FILE... [--json]", "hold Verve's numbers against validation cases"),
}


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        self.exit(2, f"{self.prog}: {message}. See verve --help\n")


def _seconds(text: str) -> float:
    try:
        return float(text)
    except ValueError:
        raise argparse.ArgumentTypeError(f"must be a number of seconds, got {text!r}") from None


def _level(text: str) -> float:
    try:
        value = float(text.replace("−", "-"))
    except ValueError:
        raise argparse.ArgumentTypeError(f"must be a level in dBFS, got {text!r}") from None
    if not -300.0 <= value <= 100.0:
        raise argparse.ArgumentTypeError(f"must be -300 to 100 dBFS, got {text!r}")
    return value


def _number(text: str, low: float, high: float, what: str) -> float:
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not low <= value <= high:
        raise argparse.ArgumentTypeError(f"must be {what}, got {text!r}")
    return value


def _moment(text: str) -> float:
    return _number(text, 0.0, 1e6, "a number of seconds from the beginning")


def _reference(text: str) -> float:
    return _number(text, 300.0, 600.0, "300 to 600 Hz")


def _money(said: str) -> float:
    from verve.core.shop import parse_price

    value = parse_price(said)
    if value is None:
        raise argparse.ArgumentTypeError("must be a number like 300")
    return value


def _loudness(text: str) -> float:
    return _number(text.replace("−", "-"), -40.0, -5.0, "-40 to -5 LUFS")


def _ceiling(text: str) -> float:
    return _number(text.replace("−", "-"), -12.0, 0.0, "-12 to 0 dBTP")


def _about_takes(made: Mapping[str, argparse.ArgumentParser]) -> None:
    """The day, its takes, and what becomes of them."""
    for name in ("day", "log", "bounce", "compare"):
        made[name].add_argument("file", type=Path, metavar="FILE", help="a session")
    made["day"].add_argument(
        "--plan", action="store_true", help="patch what is neither recorded nor locked anew"
    )
    made["day"].add_argument(
        "-o", "--output", type=Path, metavar="OUT", help="write the planned session"
    )
    made["day"].add_argument(
        "--times", action="store_true", help="against the clock, with typical times"
    )
    for name, usual, says in (
        ("--begins", "10:00", "when it begins"),
        ("--ends", "18:00", "when the room has to be left"),
    ):
        made["day"].add_argument(name, default=usual, metavar="TIME", help=f"{says}, as {usual}")
    made["log"].add_argument(
        "--form",
        choices=("markdown", "html", "csv"),
        default="markdown",
        help="what it is written as",
    )
    made["bounce"].add_argument(
        "-o", "--output", type=Path, required=True, metavar="WAV", help="a WAV or FLAC file"
    )
    made["bounce"].add_argument(
        "--lufs", type=_loudness, metavar="N", help="how loud, -40 to -5 LUFS"
    )
    made["bounce"].add_argument(
        "--ceiling", type=_ceiling, metavar="N", help="no true peak over it, in dBTP"
    )
    made["bounce"].add_argument(
        "--no-limiter", action="store_true", help="rather less loud than limited"
    )
    made["compare"].add_argument("other", type=Path, metavar="OTHER", help="another session")


def command_parser() -> argparse.ArgumentParser:
    """All commands and options; `command` is the one that was given, None for the window."""
    rows = (f"  {f'verve {name} {said}':<37} {does}" for name, (said, does) in _COMMANDS.items())
    parser = _Parser(
        prog="verve",
        description="Levels, ceilings and noise of every recording signal, and what to do next.",
        epilog=_MORE.format(commands="\n".join(rows)),
        formatter_class=argparse.RawDescriptionHelpFormatter,
        usage="verve [FILE | --demo | COMMAND ...]",
    )
    parser.add_argument("--version", action="version", version=f"verve {__version__}")
    parser.add_argument("--demo", action="store_true", help="open the demo session in the window")
    parser.add_argument(
        "--install-desktop",
        action="store_true",
        help="put Verve into the menu of the desktop, with its file type, manual page and completion",
    )
    parser.add_argument(
        "--uninstall-desktop", action="store_true", help="take it out of the menu again"
    )
    commands = parser.add_subparsers(
        prog="verve", metavar="COMMAND", dest="command", help=argparse.SUPPRESS
    )
    made = {
        name: commands.add_parser(name, help=does, description=f"{does[:1].upper()}{does[1:]}.")
        for name, (_, does) in _COMMANDS.items()
    }
    made["demo"].add_argument(
        "-o", "--output", type=Path, required=True, metavar="FILE", help="where to write it"
    )
    made["assess"].add_argument("file", type=Path, metavar="FILE", help="a session")
    following = made["next"]
    following.add_argument("file", type=Path, metavar="FILE", help="a session")
    presses = following.add_mutually_exclusive_group()
    presses.add_argument("--apply", action="store_true", help="press it once")
    presses.add_argument("--all", action="store_true", help="press until nothing is left to press")
    following.add_argument(
        "-o", "--output", type=Path, metavar="FILE", help="write the session as it is then"
    )
    diagnose = made["diagnose"]
    diagnose.add_argument("file", type=Path, metavar="FILE", help="a session")
    diagnose.add_argument("--signal", required=True, metavar="NAME", help="which signal of it")
    diagnose.add_argument(
        "--measured",
        type=_level,
        metavar="PEAK_DBFS",
        help="the peak that was measured, where it is not the one that was computed",
    )
    connect = made["connect"]
    connect.add_argument("file", type=Path, metavar="FILE", help="a session")
    connect.add_argument(
        "--layer",
        metavar="NAME",
        help="which layer of its brief; the first unless said",
    )
    connect.add_argument(
        "-o", "--output", type=Path, metavar="FILE", help="write the session with it patched"
    )
    kit = made["kit"]
    kit.add_argument("file", type=Path, metavar="FILE", help="a session")
    kit.add_argument(
        "--budget",
        type=_money,
        metavar="N",
        help="the most that may be spent, in the session’s currency",
    )
    kit.add_argument(
        "--also", action="append", choices=("monitors", "software"), help="with these as well"
    )
    made["gains"].add_argument("file", type=Path, metavar="FILE", help="a session")
    made["gains"].add_argument(
        "-o", "--output", type=Path, metavar="FILE", help="write the session with all gains set"
    )
    sheet = made["sheet"]
    sheet.add_argument("file", type=Path, metavar="FILE", help="a session")
    sheet.add_argument(
        "--kind",
        choices=("setup", "change", "teardown", "cues"),
        default="setup",
        help="which sheet; cues are who hears what",
    )
    sheet.add_argument("--signal", metavar="NAME", help="the signal that is changed")
    _about_takes(made)
    made["measure"].add_argument("file", type=Path, metavar="FILE", help="a sound file")
    made["loopback"].add_argument("sent", type=Path, metavar="SENT", help="what was sent")
    made["loopback"].add_argument("returned", type=Path, metavar="RETURNED", help="what came back")
    made["align"].add_argument("first", type=Path, metavar="FIRST", help="one track")
    made["align"].add_argument("second", type=Path, metavar="SECOND", help="the other")
    tune = made["tune"]
    tune.add_argument("file", type=Path, metavar="FILE", help="a sound file")
    tune.add_argument("--from", dest="from_s", type=_moment, metavar="S", help="from this second")
    tune.add_argument("--to", dest="to_s", type=_moment, metavar="S", help="to this second")
    tune.add_argument(
        "--a4",
        type=_reference,
        default=440.0,
        metavar="HZ",
        help="the pitch of A4; 440 unless said",
    )
    record = made["record"]
    record.add_argument("file", type=Path, metavar="FILE", help="a session")
    record.add_argument("--signal", required=True, metavar="NAME", help="which signal of it")
    record.add_argument(
        "--play",
        choices=("softest", "typical", "hardest", "phrase"),
        default="hardest",
        help="how it is played",
    )
    record.add_argument("--seconds", type=_seconds, default=10.0, help="3 to 60")
    record.add_argument(
        "-o", "--output", type=Path, required=True, metavar="WAV", help="where to write it"
    )
    made["verify"].add_argument(
        "files", type=Path, nargs="+", metavar="FILE", help="validation cases"
    )
    for name in (
        "assess", "next", "diagnose", "connect", "kit", "gains", "sheet", "measure", "loopback",
        "align", "tune", "verify", "day", "bounce", "compare",
    ):  # fmt: skip
        made[name].add_argument("--json", action="store_true", help="the same as JSON")
    for name in ("demo", "next", "connect", "gains", "record", "day", "bounce"):
        made[name].add_argument("--force", action="store_true", help="replace a file that is there")
    return parser
