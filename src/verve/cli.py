"""The command line: thin commands over the core, and the way into the window."""

from __future__ import annotations

import argparse
import codecs
import contextlib
import io
import json
import os
import sys
import tempfile
from collections.abc import Callable, Sequence
from datetime import datetime
from pathlib import Path
from typing import Any, NoReturn

from verve import __version__
from verve.core.errors import FileError, InputError, VerveError
from verve.core.files import unwritable, why

_EXAMPLES = """\
Commands:
  verve                                  open the window
  verve FILE                             open a session in the window
  verve --demo                           open the demo session in the window
  verve demo -o FILE                     write the demo session
  verve assess FILE [--json]             every line's levels, what is wrong, what to do next
  verve measure WAV [--json]             peak, RMS, noise in the pauses, clipped frames
  verve record FILE --line NAME -o WAV   record a line from the simulated interface
  verve verify FILE... [--json]          hold Verve's numbers against validation cases

Examples:
  verve demo -o evening.verve.json && verve assess evening.verve.json
  verve record evening.verve.json --line "Harp left" --play hardest --seconds 10 -o harp.wav
  verve measure harp.wav --json

Exit codes: 0 all is well; 1 findings that stop a take, or a number that is off; 2 bad input, or stopped.
"""


_NEAREST = "verve_nearest"
_LETTERS = {
    "−": "-",
    "’": "'",
    "“": '"',
    "”": '"',
    "…": "...",
    "→": "->",
    "·": "-",
    "Ω": "ohm",
    "–": "-",
    "—": "-",
}


def _nearest(error: UnicodeError) -> tuple[str, int]:
    """Letters that a terminal has, for those that it lacks."""
    if not isinstance(error, UnicodeEncodeError):
        raise error
    lacking = error.object[error.start : error.end]
    return "".join(_LETTERS.get(letter, "?") for letter in lacking), error.end


codecs.register_error(_NEAREST, _nearest)


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        self.exit(2, f"{self.prog}: {message}. See verve --help\n")


def _print_json(data: dict[str, Any]) -> None:
    # Where the terminal lacks letters, escapes say them all.
    is_plain = (sys.stdout.encoding or "").lower().replace("-", "") != "utf8"
    print(json.dumps(data, ensure_ascii=is_plain, indent=1))


def _demo(options: argparse.Namespace) -> int:
    from verve.core.demo import demo_session
    from verve.core.session import save

    if options.output.exists() and not options.force:
        raise FileError(options.output, "is there already", "Add --force to replace it.")
    save(demo_session(), options.output)
    print(f"Wrote {options.output}")
    return 0


def _assess(options: argparse.Namespace) -> int:
    from verve.core.assess import assess
    from verve.core.session import load
    from verve.core.sheets import assessment_data, assessment_text

    assessment = assess(load(options.file))
    if options.json:
        _print_json(assessment_data(assessment))
    else:
        print(assessment_text(assessment))
    return 1 if assessment.stops else 0


def _measure(options: argparse.Namespace) -> int:
    from verve.core.sheets import measurement_data, measurement_text
    from verve.core.sound import measure_wav

    measured = measure_wav(options.file)
    if options.json:
        _print_json(measurement_data(options.file, measured))
    else:
        print(measurement_text(options.file, measured))
    return 0


def _record(options: argparse.Namespace) -> int:
    from verve.core.session import load
    from verve.core.sheets import measurement_text
    from verve.core.sound import measure_wav
    from verve.devices import RecordRequest, record

    session = load(options.file)
    line = next((x for x in session.setup.lines if options.line in {x.name, x.id}), None)
    if line is None:
        known = ", ".join(x.name for x in session.setup.lines) or "none"
        raise InputError("--line", f"must be a line of the session ({known})", options.line)
    if options.output.exists() and not options.force:
        raise FileError(options.output, "is there already", "Add --force to replace it.")
    try:
        options.output.parent.mkdir(parents=True, exist_ok=True)
        folder = tempfile.TemporaryDirectory(dir=options.output.parent, prefix=".verve-")
    except OSError as error:
        raise unwritable(options.output, error) from error
    with folder as name:
        take = record(
            RecordRequest(
                id=0,
                session=session,
                lines=(line.id,),
                play=options.play,
                seconds=options.seconds,
                folder=Path(name),
                take_id="take",
                take_name="Take",
                recorded_at=datetime.now().astimezone().isoformat(timespec="seconds"),
                is_paced=False,
            )
        )
        if take.ended == "cut_off":
            raise FileError(
                options.output, f"cannot be recorded: {take.reason}", "Make room there."
            )
        Path(take.tracks[0].file).replace(options.output)
    print(measurement_text(options.output, measure_wav(options.output)))
    predicted = take.tracks[0].peak_dbfs.predicted
    if predicted is not None:
        print(f"predicted peak {predicted:.1f} dBFS".replace("-", "−"))
    return 0


def _verify(options: argparse.Namespace) -> int:
    from verve.core.sheets import verification_data, verification_text
    from verve.core.verify import read_cases, run_cases

    # All files are read before any is computed: a malformed one says so at once.
    cases = [case for file in options.files for case in read_cases(file)]
    results = run_cases(cases)
    if options.json:
        _print_json(verification_data(results))
    else:
        print(verification_text(results))
    return 0 if all(result.ok for result in results) else 1


def _seconds(text: str) -> float:
    try:
        return float(text)
    except ValueError:
        raise argparse.ArgumentTypeError(f"must be a number of seconds, got {text!r}") from None


def _command_parser() -> argparse.ArgumentParser:
    parser = _Parser(
        prog="verve",
        description="Levels, ceilings and noise of every recording line, and what to do next.",
        epilog=_EXAMPLES,
        formatter_class=argparse.RawDescriptionHelpFormatter,
        usage="verve [FILE | --demo | COMMAND ...]",
    )
    parser.add_argument("--version", action="version", version=f"verve {__version__}")
    parser.add_argument("--demo", action="store_true", help="open the demo session in the window")
    commands = parser.add_subparsers(metavar="COMMAND", help=argparse.SUPPRESS)

    def command(name: str, run: Callable[[argparse.Namespace], int]) -> argparse.ArgumentParser:
        made = commands.add_parser(name)
        made.set_defaults(run=run)
        return made

    demo = command("demo", _demo)
    demo.add_argument("-o", "--output", type=Path, required=True, metavar="FILE")
    assess = command("assess", _assess)
    assess.add_argument("file", type=Path, metavar="FILE")
    measure = command("measure", _measure)
    measure.add_argument("file", type=Path, metavar="WAV")
    record = command("record", _record)
    record.add_argument("file", type=Path, metavar="FILE")
    record.add_argument("--line", required=True, metavar="NAME")
    record.add_argument(
        "--play", choices=("softest", "typical", "hardest", "phrase"), default="hardest"
    )
    record.add_argument("--seconds", type=_seconds, default=10.0, help="3 to 60")
    record.add_argument("-o", "--output", type=Path, required=True, metavar="WAV")
    verify = command("verify", _verify)
    verify.add_argument("files", type=Path, nargs="+", metavar="FILE")
    for each in (assess, measure, verify):
        each.add_argument("--json", action="store_true", help="the same as JSON")
    for each in (demo, record):
        each.add_argument("--force", action="store_true", help="replace a file that is there")
    return parser


_COMMANDS = frozenset({"demo", "assess", "measure", "record", "verify"})


def _window(*, file: Path | None, is_demo: bool) -> int:
    from verve.display import missing_display

    missing = missing_display(os.environ)
    if missing:
        # The window system would end the program without a word that helps.
        raise InputError("display", missing)
    from verve.app import run

    return run(file=file, is_demo=is_demo)


def _run(given: Sequence[str]) -> int:
    # A lone name that is no command is a session to open.
    if len(given) == 1 and given[0] not in _COMMANDS and not given[0].startswith("-"):
        return _window(file=Path(given[0]), is_demo=False)
    options = _command_parser().parse_args(given)
    if not hasattr(options, "run"):
        return _window(file=None, is_demo=options.demo)
    code: int = options.run(options)
    sys.stdout.flush()
    return code


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; returns the exit code: 0, 1 or 2, whatever happens."""
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            # A terminal without some letter shows another one: a minus must not become a question.
            stream.reconfigure(errors=_NEAREST)
    try:
        return _run(list(sys.argv[1:] if arguments is None else arguments))
    except VerveError as error:
        _complain(str(error))
    except BrokenPipeError:
        # The reader has seen enough; nothing more can or need be written.
        _close_output()
        return 0
    except KeyboardInterrupt:
        _complain("stopped")
    except MemoryError:
        _complain("there is not enough memory for this; close other programs, or take less at once")
    except OSError as error:
        _complain(why(error))
        _close_output()
    except Exception as error:  # whatever it is, it ends as a sentence
        import traceback

        frame = traceback.extract_tb(error.__traceback__)[-1]
        where = f"{Path(frame.filename).name}, line {frame.lineno}"
        _complain(f"something went wrong ({type(error).__name__}: {error}; {where})")
    return 2


def _complain(sentence: str) -> None:
    with contextlib.suppress(OSError):
        print(f"verve: {sentence}", file=sys.stderr)


def _close_output() -> None:
    """Nothing more can be written: the end of the program shall not try."""
    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
