"""The log of all takes: for reading, for paper, for a table."""

from __future__ import annotations

import csv
import html
import io
from collections.abc import Iterator

from verve.core.session import Session, Take, TakeTrack
from verve.core.sheets._patch import PAPER_STYLE, TABLE
from verve.core.sheets._standing import layer_name
from verve.core.sheets._tables import level
from verve.core.sheets._takes import ending_text, moment_text, unreadable_text
from verve.core.takes import differences

LOG_HEAD = (
    "take", "recorded at", "layer", "section", "rating", "aside", "signal", "peak dBFS", "RMS dBFS",
    "noise dBFS A", "clipped", "file", "notes",
)  # fmt: skip


def _section(session: Session, take: Take) -> str:
    section = session.song.section(take.section)
    return "" if section is None else section.name


def _row(session: Session, take: Take, track: TakeTrack) -> tuple[str, ...]:
    return (
        take.name,
        take.recorded_at,
        layer_name(session, take),
        _section(session, take),
        str(take.rating or ""),
        "yes" if take.aside else "",
        track.name,
        level(track.peak_dbfs.measured),
        level(track.rms_dbfs),
        level(track.noise_dbfs_a.measured),
        str(track.clipped_frames),
        track.file,
        take.notes,
    )


def log_csv(session: Session) -> str:
    """One row for each signal of each take."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(LOG_HEAD)
    for take in session.takes:
        for track in take.tracks:
            writer.writerow(_row(session, take, track))
    return out.getvalue()


def _head(session: Session, take: Take) -> str:
    known = [
        moment_text(take.recorded_at),
        layer_name(session, take),
        _section(session, take),
        ending_text(take) or f"{take.seconds:.1f} s",
        f"{take.rating} of 5" if take.rating else "",
        "put aside" if take.aside else "",
    ]
    return " · ".join(part for part in known if part)


def _changes(session: Session) -> Iterator[tuple[Take, tuple[str, ...]]]:
    """Each take with what was set otherwise than for the one before it of the same layer."""
    before: dict[str | None, Take] = {}
    for take in session.takes:
        last = before.get(take.layer)
        before[take.layer] = take
        if last is None or last.setup is None or take.setup is None:
            yield take, ()
        else:
            yield take, tuple(one.words for one in differences(last.setup, take.setup))


def log_markdown(session: Session) -> str:
    """All takes as text that reads well as it is."""
    lines = [f"# {_plain(session.title)}: takes", ""]
    for take, changes in _changes(session):
        lines += [f"## {_plain(take.name)}", "", _plain(_head(session, take)), ""]
        lines += [
            "| signal | peak dBFS | RMS dBFS | noise dBFS A | clipped |",
            "|---|---:|---:|---:|---:|",
        ]
        lines += [
            f"| {_cell(t.name)} | {level(t.peak_dbfs.measured)} | {level(t.rms_dbfs)} | "
            f"{level(t.noise_dbfs_a.measured)} | {t.clipped_frames} |"
            for t in take.tracks
        ]
        lines.append("")
        if changes:
            lines += ["Changed before it:", "", *(f"- {_plain(one)}" for one in changes), ""]
        for said in (unreadable_text(take), take.notes):
            if said:
                lines += [*(f"> {_plain(one)}" for one in said.splitlines()), ""]
    return "\n".join(lines).rstrip() + "\n"


def _plain(text: str) -> str:
    """Words that mean nothing to what reads Markdown."""
    return "".join(f"\\{c}" if c in "\\`*_[]<>#|" else c for c in text.replace("\n", " "))


def _cell(text: str) -> str:
    return _plain(text)


def log_html(session: Session) -> str:
    """All takes as a page, for a browser or for paper."""
    title = f"{session.title}: takes"
    body = []
    for take, changes in _changes(session):
        rows = "".join(
            f"<tr><td>{_e(t.name)}</td><td>{level(t.peak_dbfs.measured)}</td><td>{level(t.rms_dbfs)}</td>"
            f"<td>{level(t.noise_dbfs_a.measured)}</td><td>{t.clipped_frames}</td></tr>"
            for t in take.tracks
        )
        changed = f"<p>Changed before it: {_e('; '.join(changes))}.</p>" if changes else ""
        said = "".join(f"<p>{_e(one)}</p>" for one in (unreadable_text(take), take.notes) if one)
        body.append(
            f"<h2>{_e(take.name)}</h2><p>{_e(_head(session, take))}</p>{TABLE}<tr><th>signal</th>"
            "<th>peak dBFS</th><th>RMS dBFS</th><th>noise dBFS A</th><th>clipped</th></tr>"
            f"{rows}</table>{changed}{said}"
        )
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{_e(title)}</title>'
        f"<style>{PAPER_STYLE}</style></head><body><h1>{_e(title)}</h1>{''.join(body)}</body></html>"
    )


def _e(text: str) -> str:
    return html.escape(text)
