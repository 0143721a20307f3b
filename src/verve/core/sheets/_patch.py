"""The whole patch as rows, and as paper: one content for the screen, HTML, CSV and plain text."""

from __future__ import annotations

import csv
import html
import io
from collections.abc import Sequence
from dataclasses import dataclass

from verve.core.assess import Assessment, LineAssessment
from verve.core.gain import dial_words
from verve.core.kind import CableFigures, control_text
from verve.core.patch import tracks_of
from verve.core.session import Device, RouteStep
from verve.core.sheets._recordings import BACKING_HEAD, backing_rows

COLOUR_WORDS = ("blue", "green", "orange", "violet", "teal", "red", "brown", "grey")


@dataclass(frozen=True, slots=True, kw_only=True)
class Leg:
    """One connection to be made: what goes where, by which cable; `cable` is empty through the air."""

    start: str
    cable: str
    end: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PatchRow:
    """One line from who plays to the recorder's input, with what is set there."""

    line: str
    name: str
    who: str
    what: str
    legs: tuple[Leg, ...]
    recorder: str
    number: str
    settings: str
    is_fixed: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class InputUse:
    """One socket of a box: what is in it; empty for a free one."""

    name: str
    lines: tuple[str, ...] = ()
    fits: str = ""

    @property
    def used_by(self) -> str:
        """The lines in it; empty for a free one."""
        return ", ".join(self.lines)


@dataclass(frozen=True, slots=True, kw_only=True)
class BoxUse:
    """A box with all its sockets, as one stands before it."""

    id: str
    name: str
    sockets: tuple[InputUse, ...]


def cable_words(cable: CableFigures | None) -> str:
    """A cable by its ends and length: "XLR, 5 m"."""
    if cable is None:
        return ""
    words = {"xlr": "XLR", "jack_6": "jack", "jack_3": "3.5 mm jack", "phono": "phono"}
    if cable.plugs is None:
        kind = "XLR" if cable.balanced else "jack"
    elif cable.plugs[0] == cable.plugs[1]:
        kind = words[cable.plugs[0]]
    else:
        kind = f"{words[cable.plugs[0]]} to {words[cable.plugs[1]]}"
    return f"{kind}, {cable.length_m:g} m"


def _start(step: RouteStep | None, source: str) -> str:
    if step is None:
        return source
    if step.out_port not in {None, "out"}:
        return f"{step.name}, {(step.out_port or '').replace('.', ' ')}"
    return step.name


def _settings(item: LineAssessment) -> str:
    parts = []
    for step in item.route.steps:
        for name, control in step.controls.items():
            if name == "gain_db" and control.is_dial:
                said = control_text(control, control.value)
                hour = dial_words(control, float(control.value or 0.0))
                parts.append(f"{control.label.lower()} {said} ({hour})")
            elif name in {"phantom", "high_pass", "pad_db"} and control.value:
                parts.append(f"{control.said} {control_text(control, control.value)}")
            elif name == "mode":
                parts.append(f"{control.value} input")
    return ", ".join(parts)


def patch_rows(assessment: Assessment) -> tuple[PatchRow, ...]:
    """Every line in one row, in the order of the recorder's inputs."""
    people = {p.id: p.name for p in assessment.session.setup.performers}
    found = []
    for item in assessment.lines:
        source, legs, before = item.route.source_or_none, [], None
        for step in item.route.steps:
            leg = Leg(
                start=_start(before, item.route.source_name),
                cable=cable_words(step.cable),
                end=step.place,
            )
            legs.append(leg)
            before = step
        recorder = item.route.recorder
        found.append(
            PatchRow(
                line=item.line.id,
                name=item.line.name,
                who="" if source is None else people.get(source.performer or "", ""),
                what=item.route.source_name,
                legs=tuple(legs),
                recorder="" if recorder is None else recorder.name,
                number="" if recorder is None else recorder.in_port.removeprefix("in."),
                settings=_settings(item),
                is_fixed=item.line.is_fixed,
            )
        )
    return tuple(sorted(found, key=lambda row: (not row.number, row.recorder, _order(row.number))))


def _order(number: str) -> tuple[int, str]:
    return (int(number) if number.isdigit() else 999, number)


def _uses(device: Device, rows: Sequence[LineAssessment]) -> tuple[InputUse, ...]:
    inside: dict[str, list[str]] = {}
    fits = {port.name: port.words() for port in device.figures.ports() if port.is_input}
    for item in rows:
        for step in item.route.steps:
            if step.owner == device.id:
                inside.setdefault(step.in_port, []).append(item.line.name)
    return tuple(
        InputUse(
            name=port.removeprefix("in."),
            lines=tuple(inside.get(port, ())),
            fits=fits.get(port, "sound"),
        )
        for port in device.figures.input_ports()
    )


def box_uses(assessment: Assessment) -> tuple[BoxUse, ...]:
    """Interfaces and mixers with every socket, used and free."""
    return tuple(
        BoxUse(id=device.id, name=device.name, sockets=_uses(device, assessment.lines))
        for device in assessment.session.setup.devices
        if device.figures.records or device.figures.mixes
    )


def patch_csv(assessment: Assessment) -> str:
    """One row for each connection, with a column to tick."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(("done", "signal", "who", "from", "cable", "to", "settings"))
    for row in patch_rows(assessment):
        for index, leg in enumerate(row.legs):
            last = index == len(row.legs) - 1
            settings = row.settings if last else ""
            writer.writerow(("", row.name, row.who, leg.start, leg.cable, leg.end, settings))
    return out.getvalue()


def track_rows(assessment: Assessment) -> tuple[tuple[str, ...], ...]:
    """The recorder's side: track, name, colour, device, input, mono or stereo, armed, effects."""
    tracks = tracks_of([item.route for item in assessment.lines])
    return tuple(
        (
            str(number),
            track.name,
            COLOUR_WORDS[track.colour % len(COLOUR_WORDS)],
            track.recorder,
            " + ".join(track.inputs),
            "stereo" if len(track.inputs) > 1 else "mono",
            "armed",
            "dry",
        )
        for number, track in enumerate(tracks, 1)
    )


TRACK_HEAD = ("track", "name", "colour", "device", "input", "kind", "armed", "effects")


def tracks_csv(assessment: Assessment) -> str:
    """The track list as a table."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(TRACK_HEAD)
    writer.writerows(track_rows(assessment))
    return out.getvalue()


def _e(words: str) -> str:
    return html.escape(words)


PAPER_STYLE = """
body { font-family: 'Atkinson Hyperlegible Next', 'Verve Signs', sans-serif; font-size: 12pt;
 color: #000; background: #fff; }
h1 { font-size: 17pt; font-weight: 600; margin-bottom: 2pt; }
h2 { font-size: 14pt; font-weight: 600; margin-bottom: 2pt; }
th { font-weight: 600; }
p { margin-top: 2pt; }
table { border-collapse: collapse; width: 100%; }
td, th { text-align: left; padding-left: 4px; padding-right: 8px; padding-top: 4px; padding-bottom: 4px;
 border-bottom: 1px solid #777; vertical-align: top; }
td.line { font-weight: 600; }
td.box { width: 18pt; font-size: 16pt; }
"""


TABLE = "<table width='100%' cellpadding='4' cellspacing='0'>"
"""Attributes, since what prints it knows few styles of cells."""


def patch_html(assessment: Assessment) -> str:
    """The patch as a page: large, black on white, a box to tick for every connection."""
    session = assessment.session
    audio = session.setup.audio
    body = [f"<h1>{_e(session.title)}: what goes where</h1>"]
    room = session.setup.room.name
    body.append(
        f"<p>{_e(room)}{' · ' if room else ''}{audio.sample_rate_hz / 1000:g} kHz, "
        f"{audio.bit_depth} bit. Monitors and headphones down while you plug; phantom power last.</p>"
    )
    body.append(f"{TABLE}<tr><th></th><th>signal</th><th>from</th><th>cable</th><th>to</th></tr>")
    for row in patch_rows(assessment):
        for index, leg in enumerate(row.legs):
            who = f" ({row.who})" if row.who and row.who != row.what else ""
            name = _e(row.name) if index == 0 else ""
            start = _e(leg.start) + (_e(who) if index == 0 else "")
            cable = _e(leg.cable) or "through the air"
            body.append(
                f'<tr><td class="box">☐</td><td class="line">{name}</td><td>{start}</td>'
                f"<td>{cable}</td><td>{_e(leg.end)}</td></tr>"
            )
    body.append(f"</table><h2>Settings</h2>{TABLE}")
    for row in patch_rows(assessment):
        item = assessment.line(row.line)
        hardest = "" if item is None else item.hardest_text()
        aim = f"highest {hardest}" if hardest else ""
        body.append(
            f'<tr><td class="box">☐</td><td class="line">{_e(row.name)}</td>'
            f"<td>{_e(row.settings)}</td><td>{_e(aim)}</td></tr>"
        )
    body.append(f"</table><h2>Tracks</h2>{TABLE}<tr>")
    body.append("".join(f"<th>{_e(word)}</th>" for word in TRACK_HEAD) + "</tr>")
    for cells in track_rows(assessment):
        body.append("<tr>" + "".join(f"<td>{_e(cell)}</td>" for cell in cells) + "</tr>")
    body.append("</table>")
    if backing := backing_rows(session.sounds):
        body.append(f"<h2>Played over</h2>{TABLE}<tr>")
        body.append("".join(f"<th>{_e(word)}</th>" for word in BACKING_HEAD) + "</tr>")
        for told in backing:
            body.append("<tr>" + "".join(f"<td>{_e(cell)}</td>" for cell in told) + "</tr>")
        body.append("</table>")
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{_e(session.title)}</title>'
        f"<style>{PAPER_STYLE}</style></head><body>{''.join(body)}</body></html>"
    )
