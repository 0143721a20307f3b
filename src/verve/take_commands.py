"""The commands about the day and its takes: the plan, the log, a bounce, two sessions compared."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from verve.core.errors import FileError, InputError
from verve.core.session import load

if TYPE_CHECKING:
    from verve.core.session import Session

Print = Callable[[dict[str, Any]], None]


def _times(session: Session, options: argparse.Namespace, print_json: Print) -> int:
    """The day against the clock, with typical times; 1 where it ends too late."""
    from verve.core.clock import clock_text, day_of, parse_clock
    from verve.core.learning import DayTimes, changed_day

    begin_h, end_h = parse_clock(options.begins), parse_clock(options.ends)
    found = day_of(session, changed_day(DayTimes(), {"begin_h": begin_h, "end_h": end_h}))
    if options.json:
        print_json(
            {
                "events": [
                    {
                        "from": clock_text(one.start_s),
                        "to": clock_text(one.end_s),
                        "what": one.title,
                        "layer": one.layer,
                        "who": list(one.who),
                    }
                    for one in found.events
                ],
                "findings": list(found.findings),
                "prepare": list(found.prepare),
                "costliest": list(found.costliest),
            }
        )
    else:
        for one in found.events:
            print(f"{clock_text(one.start_s):>5}  {clock_text(one.end_s):>5}  {one.title}")
        for said in (*found.findings, *found.costliest, *found.prepare, found.note):
            print(said)
    return 0 if found.free_s >= 0.0 else 1


def day(options: argparse.Namespace, print_json: Print) -> int:
    """Every layer in its order, with what is plugged before it; planned anew with `--plan`."""
    from verve.core.connections import NoSuggestion
    from verve.core.day import plan_day
    from verve.core.session import save
    from verve.core.sheets import day_sheets

    session = load(options.file)
    if options.plan:
        found = plan_day(session, anew=True)
        if isinstance(found, NoSuggestion):
            print(found.why)
            return 1
        session = found.session
        if options.output is not None:
            if options.output.exists() and not options.force:
                raise FileError(options.output, "is there already", "Add --force to replace it.")
            save(session, options.output)
    elif options.output is not None:
        raise InputError("--output", "must go with --plan: nothing else changes a session here")
    if options.times:
        return _times(session, options, print_json)
    rows = day_sheets(session)
    if options.json:
        print_json(
            {
                "layers": [
                    {
                        "number": row.number,
                        "name": row.name,
                        "over": row.over,
                        "signals": list(row.signals),
                        "plugs": row.plugs,
                        "state": row.state,
                        "steps": [step.words for step in steps],
                    }
                    for row, steps in rows
                ]
            }
        )
        return 0
    for row, steps in rows:
        print(f"{row.number}  {row.name}, {row.state_text}, {row.over}. {row.plugs}".rstrip(". "))
        for signal in row.signals:
            print(f"     {signal}")
        for number, step in enumerate(steps, 1):
            print(f"     {number:>2}  {step.words}")
    return 0


def log(options: argparse.Namespace, _: Print) -> int:
    """All takes as Markdown, a web page or a table."""
    from verve.core.sheets import log_csv, log_html, log_markdown

    session = load(options.file)
    forms = {"markdown": log_markdown, "html": log_html, "csv": log_csv}
    print(forms[options.form](session), end="")
    return 0


def bounce(options: argparse.Namespace, print_json: Print) -> int:
    """The rough mix as WAV or FLAC; 1 where what was asked for could not be."""
    from verve.core.mix import Aim, plan_of_mix
    from verve.core.mix import bounce as write
    from verve.core.sheets import bounced_text

    if options.output.exists() and not options.force:
        raise FileError(options.output, "is there already", "Add --force to replace it.")
    session = load(options.file)
    mix = session.mix
    aim = Aim(
        loudness_lufs=mix.loudness_lufs if options.lufs is None else options.lufs,
        ceiling_dbtp=mix.ceiling_dbtp if options.ceiling is None else options.ceiling,
        may_limit=mix.may_limit and not options.no_limiter,
    )
    found = write(plan_of_mix(session), options.output, aim)
    if options.json:
        print_json(
            {
                "file": str(found.path),
                "seconds": found.seconds,
                "integrated_lufs": found.lufs,
                "true_peak_dbtp": found.true_peak_dbtp,
                "gain_db": found.gain_db,
                "limited_db": found.limited_db,
                "said": found.said,
            }
        )
    else:
        print(bounced_text(found))
    return 1 if found.said else 0


def compare(options: argparse.Namespace, print_json: Print) -> int:
    """What is different in another session, in words."""
    from verve.core.sheets import compared_sessions

    found = compared_sessions(load(options.file), load(options.other))
    if options.json:
        print_json({"differences": list(found)})
    else:
        print("\n".join(found) or "Nothing: everything is alike.")
    return 0
