"""Where everything stands, on paper: the plan to scale, marks of tape, stands."""

from __future__ import annotations

import base64
import csv
import html
import io
import math

from verve.core.air import Positions, positions_of
from verve.core.place import faces_words, marks_of, stands_of, turn_words
from verve.core.session import Session
from verve.core.sheets._patch import PAPER_STYLE, TABLE
from verve.core.words import capital, listed, number

_WIDE, _HIGH, _MARGIN = 640.0, 420.0, 26.0
_AROUND_M = 1.0


def placement_csv(session: Session) -> str:
    """One row a mark, then one a stand."""
    positions = positions_of(session.setup)
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(("from", "to", "centimetres", "feet and inches"))
    for mark in marks_of(positions):
        writer.writerow((mark.from_, mark.to, f"{mark.metres * 100.0:.0f}", mark.feet))
    writer.writerow(())
    writer.writerow(("stand", "carries", "why"))
    for stand in stands_of(positions):
        writer.writerow((stand.kind, listed(stand.carries), stand.why))
    return out.getvalue()


def placement_html(session: Session) -> str:
    """The plan, the marks and the stands as a page."""
    positions = positions_of(session.setup)
    title = f"{session.title}: where everything stands"
    picture = base64.b64encode(plan_svg(positions).encode()).decode()
    marks = "".join(
        f"<tr><td>{html.escape(capital(m.from_))}</td><td>{html.escape(m.to)}</td>"
        f'<td class="number">{m.centimetres}</td><td class="number">{m.feet}</td></tr>'
        for m in marks_of(positions)
    )
    turns = "".join(
        f"<tr><td>{html.escape(mic.name)}</td><td>{html.escape(turn_words(mic))}</td></tr>"
        for mic in positions.microphones
    ) + "".join(
        f"<tr><td>{html.escape(one.name)}</td><td>faces {html.escape(faces_words(one))}</td></tr>"
        for one in positions.sources
        if one.thing is None
    )
    stands = "".join(
        f"<tr><td>{html.escape(capital(one.kind))}</td><td>{html.escape(listed(one.carries))}</td>"
        f"<td>{html.escape(one.why)}</td></tr>"
        for one in stands_of(positions)
    )
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8">'
        f"<title>{html.escape(title)}</title><style>{PAPER_STYLE}</style></head><body>"
        f"<h1>{html.escape(title)}</h1>"
        f'<p><img width="{_WIDE:.0f}" height="{_HIGH:.0f}" alt="Plan of the room" '
        f'src="data:image/svg+xml;base64,{picture}"></p>'
        f"<h2>Tape</h2>{TABLE}<tr><th>From</th><th>To</th><th>Metric</th><th>Feet</th></tr>{marks}"
        f"</table><h2>Directions</h2>{TABLE}{turns}</table>"
        f"<h2>Stands</h2>{TABLE}<tr><th>Stand</th><th>Carries</th><th>Why</th></tr>{stands}</table>"
        "<p>Put something heavy on the foot of every boom. Run no cable where somebody walks; tape it down.</p>"
        "</body></html>"
    )


def plan_svg(positions: Positions) -> str:
    """The part of the room that something stands in, to scale, black on white."""
    left, front, right, back = positions.extent(_AROUND_M)
    scale = min((_WIDE - 2 * _MARGIN) / (right - left), (_HIGH - 2 * _MARGIN) / (back - front))
    wide, high = (right - left) * scale, (back - front) * scale

    def at(x_m: float, y_m: float) -> tuple[float, float]:
        return _MARGIN + (x_m - left) * scale, _MARGIN + (back - y_m) * scale

    room = positions.room
    parts = [
        f'<rect x="{_MARGIN}" y="{_MARGIN}" width="{wide:.1f}" height="{high:.1f}" fill="none" '
        'stroke="#999" stroke-width="0.8"/>'
    ]
    for metre in range(math.ceil(left), math.floor(right) + 1):
        x, y = at(metre, front)
        parts.append(
            f'<text x="{x:.1f}" y="{y + 14:.1f}" font-size="9" text-anchor="middle">{metre} m</text>'
        )
    for metre in range(math.ceil(front), math.floor(back) + 1):
        x, y = at(left, metre)
        parts.append(
            f'<text x="{x - 4:.1f}" y="{y + 3:.1f}" font-size="9" text-anchor="end">{metre}</text>'
        )
    for x_m in (0.0, room.length_m):
        if left <= x_m <= right:
            x, _ = at(x_m, front)
            parts.append(_line(x, _MARGIN, x, _MARGIN + high, 2.2))
    for y_m in (0.0, room.width_m):
        if front <= y_m <= back:
            _, y = at(left, y_m)
            parts.append(_line(_MARGIN, y, _MARGIN + wide, y, 2.2))
    for source in (*positions.surfaces, *positions.sources):
        x, y = at(source.at.x_m, source.at.y_m)
        turn = math.radians(source.facing_deg)
        parts.append(f'<circle cx="{x:.1f}" cy="{y:.1f}" r="6" fill="none" stroke="black"/>')
        parts.append(_line(x, y, x + 13 * math.sin(turn), y - 13 * math.cos(turn), 1.2))
        parts.append(
            f'<text x="{x:.1f}" y="{y - 12:.1f}" font-size="11" text-anchor="middle">'
            f"{html.escape(source.name)}</text>"
        )
    for mic in positions.microphones:
        x, y = at(mic.at.x_m, mic.at.y_m)
        turn = math.radians(mic.aim_deg)
        own = positions.source(mic.wants[0])
        assert own is not None
        sx, sy = at(own.at.x_m, own.at.y_m)
        parts.append(
            f'<path d="M{x:.1f} {y:.1f}L{sx:.1f} {sy:.1f}" stroke="#999" stroke-dasharray="3 3"/>'
        )
        parts.append(f'<circle cx="{x:.1f}" cy="{y:.1f}" r="2.6" fill="black"/>')
        parts.append(_line(x, y, x + 12 * math.sin(turn), y - 12 * math.cos(turn), 2.0))
        away = -12.0 if x < sx - 1.0 else 12.0
        parts.append(
            f'<text x="{x + away:.1f}" y="{y + 14:.1f}" font-size="9" '
            f'text-anchor="{"start" if away > 0 else "end"}">{html.escape(mic.name)}, '
            f"{number(mic.distance_m * 100.0, 0)} cm</text>"
        )
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_WIDE:.0f}" height="{_HIGH:.0f}" '
        f'viewBox="0 0 {_WIDE:.0f} {_HIGH:.0f}" font-family="sans-serif">{"".join(parts)}</svg>'
    )


def _line(x: float, y: float, to_x: float, to_y: float, width: float) -> str:
    return f'<path d="M{x:.1f} {y:.1f}L{to_x:.1f} {to_y:.1f}" stroke="black" stroke-width="{width}" fill="none"/>'
