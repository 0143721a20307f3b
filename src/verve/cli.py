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
from typing import TYPE_CHECKING, Any

from verve.commands import command_parser
from verve.core.errors import FileError, InputError, VerveError
from verve.core.files import unwritable, why

if TYPE_CHECKING:
    from verve.core.session import Line, Session

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


def _json(data: dict[str, Any], indent: int | None = None) -> str:
    # Where the terminal lacks letters, escapes say them all.
    is_plain = (sys.stdout.encoding or "").lower().replace("-", "") != "utf8"
    return json.dumps(data, ensure_ascii=is_plain, indent=indent)


def _print_json(data: dict[str, Any]) -> None:
    print(_json(data, indent=1))


def _is_free(options: argparse.Namespace) -> None:
    """raises: FileError if what is to be written is there already, and nobody has said to replace it"""
    if options.output is not None and options.output.exists() and not options.force:
        raise FileError(options.output, "is there already", "Add --force to replace it.")


def _take(options: argparse.Namespace) -> int:
    from verve import take_commands

    return int(getattr(take_commands, options.command)(options, _print_json))


def _demo(options: argparse.Namespace) -> int:
    from verve.core.demo import demo_session
    from verve.core.session import save

    _is_free(options)
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


def _sound(options: argparse.Namespace) -> int:
    from verve import sound_commands

    return int(getattr(sound_commands, options.command)(options, _print_json))


def _line_of(session: Session, said: str) -> Line:
    """raises: InputError if there is no line of that name or id"""
    line = next((x for x in session.setup.lines if said in {x.name, x.id}), None)
    if line is None:
        known = ", ".join(x.name for x in session.setup.lines) or "none"
        raise InputError("--signal", f"must be a signal of the session ({known})", said)
    return line


def _record(options: argparse.Namespace) -> int:
    from verve.core.session import load
    from verve.core.sheets import measurement_text
    from verve.core.soundfiles import measure_file
    from verve.devices import RecordRequest, record

    session = load(options.file)
    line = _line_of(session, options.signal)
    _is_free(options)
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
    print(measurement_text(options.output, measure_file(options.output)))
    predicted = take.tracks[0].peak_dbfs.predicted
    if predicted is not None:
        print(f"predicted peak {predicted:.1f} dBFS".replace("-", "−"))
    return 0


def _next(options: argparse.Namespace) -> int:
    from verve.core.assess import assess
    from verve.core.pressing import MOST_PRESSES, next_row, press_rows, pressed
    from verve.core.session import load, save

    _is_free(options)
    session = load(options.file)
    if options.apply or options.all:
        found = pressed(session, MOST_PRESSES if options.all else 1)
        session, rows = found.session, list(press_rows(found))
    else:
        rows = [next_row(assess(session))]
    for row in rows:
        print(_json(row) if options.json else row["sentence"])
    if options.output is not None:
        save(session, options.output)
    return 0


def _diagnose(options: argparse.Namespace) -> int:
    from verve.core.causes import causes_of, measured_causes
    from verve.core.session import load
    from verve.core.sheets import causes_data, causes_text

    session = load(options.file)
    line = _line_of(session, options.signal)
    if options.measured is None:
        found = causes_of(session, line.id)
    else:
        found = measured_causes(session, line.id, options.measured)
    print(_json(causes_data(line, found), indent=1) if options.json else causes_text(line, found))
    return 0


def _gains(options: argparse.Namespace) -> int:
    from verve.core.certificates import certificates
    from verve.core.gain import all_changes
    from verve.core.session import apply_changes, load, save
    from verve.core.sheets import gains_data, gains_text

    _is_free(options)
    session = load(options.file)
    found = certificates(session)
    print(_json(gains_data(found), indent=1) if options.json else gains_text(found))
    if options.output is not None:
        save(apply_changes(session, all_changes([one.best for one in found])), options.output)
    return 0


def _connect(options: argparse.Namespace) -> int:
    from verve.core.connections import NoSuggestion, suggest_connections
    from verve.core.session import load, save
    from verve.core.sheets import connections_data, connections_text

    _is_free(options)
    session = load(options.file)
    passes = session.brief.passes
    wanted = options.layer
    item = next((p for p in passes if wanted is None or wanted in {p.name, p.id}), None)
    if item is None:
        known = ", ".join(p.name for p in passes) or "none; say in Brief who plays what"
        raise InputError("--layer", f"must be a layer of the brief ({known})", wanted)
    found = suggest_connections(session, item)
    print(_json(connections_data(found), indent=1) if options.json else connections_text(found))
    if isinstance(found, NoSuggestion):
        return 1
    if options.output is not None:
        save(found.session, options.output)
    return 0


def _kit(options: argparse.Namespace) -> int:
    from verve.core.kits import kits_of
    from verve.core.session import load
    from verve.core.sheets import kits_data, kits_text

    session = load(options.file)
    found = kits_of(session, options.budget, also=tuple(options.also or ()))
    if options.json:
        print(_json(kits_data(found, session.shopping), indent=1))
    else:
        print(kits_text(found, session.shopping))
    return 0 if found.offers and not found.said else 1


def _sheet(options: argparse.Namespace) -> int:
    from verve.core.power import change_sheet, set_up_sheet, tear_down_sheet
    from verve.core.session import load
    from verve.core.sheets import cue_sheet_data, cue_sheet_text, sheet_data, sheet_text

    setup = (session := load(options.file)).setup
    if options.kind == "cues":
        print(_json(cue_sheet_data(session), indent=1) if options.json else cue_sheet_text(session))
        return 0
    if options.kind == "change":
        if options.signal is None:
            raise InputError("--signal", "must name the signal that is changed")
        steps = change_sheet(setup, _line_of(session, options.signal).id)
    else:
        steps = set_up_sheet(setup) if options.kind == "setup" else tear_down_sheet(setup)
    print(_json(sheet_data(steps), indent=1) if options.json else sheet_text(steps))
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


_RUNS: dict[str, Callable[[argparse.Namespace], int]] = {
    "demo": _demo,
    "assess": _assess,
    "next": _next,
    "diagnose": _diagnose,
    "connect": _connect,
    "kit": _kit,
    "gains": _gains,
    "sheet": _sheet,
    "day": _take,
    "log": _take,
    "bounce": _take,
    "compare": _take,
    "measure": _sound,
    "loopback": _sound,
    "align": _sound,
    "tune": _sound,
    "record": _record,
    "verify": _verify,
}


def _desktop(*, is_wanted: bool) -> int:
    from verve.desktop import install, uninstall

    for line in install() if is_wanted else uninstall():
        print(line)
    return 0


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
    if len(given) == 1 and given[0] not in _RUNS and not given[0].startswith("-"):
        return _window(file=Path(given[0]), is_demo=False)
    options = command_parser().parse_args(given)
    if options.install_desktop or options.uninstall_desktop:
        return _desktop(is_wanted=options.install_desktop)
    if options.command is None:
        return _window(file=None, is_demo=options.demo)
    code = _RUNS[options.command](options)
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
