"""The day as a sheet for the wall, and as a table."""

from __future__ import annotations

import csv
import html
import io

from verve.core.clock._plan import Day, clock_text
from verve.core.clock._words import CAUTION
from verve.core.sheets import PAPER_STYLE, TABLE


def day_clock_html(day: Day) -> str:
    """A page for the wall: what begins when, with a box to tick; below it where it is tight and what to prepare."""
    title = f"{day.title}: times of the day"
    rows = "".join(
        f'<tr><td class="box">☐</td><td>{clock_text(one.start_s)}</td><td>{_e(one.title)}'
        f"{' •' if one.is_learnt else ''}</td><td>{_minutes(one.seconds)}</td></tr>"
        for one in day.events
    )
    lists = "".join(
        f"<h2>{name}</h2><ul>{''.join(f'<li>{_e(one)}</li>' for one in found)}</ul>"
        for name, found in (
            ("Where it is tight", day.findings),
            ("The evening before", day.prepare),
            ("What costs most", day.costliest),
        )
        if found
    )
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{_e(title)}</title>'
        f"<style>{PAPER_STYLE}</style></head><body><h1>{_e(title)}</h1><p>{_e(CAUTION)}</p>"
        f"{TABLE}{rows}</table>{lists}<p>{_e(day.note)}</p></body></html>"
    )


def day_clock_csv(day: Day) -> str:
    """One row for each event."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(("from", "to", "minutes", "what", "layer", "who", "time is"))
    for one in day.events:
        writer.writerow(
            (
                clock_text(one.start_s), clock_text(one.end_s), round(one.seconds / 60.0, 1), one.title,
                one.layer, "; ".join(one.who), "learnt" if one.is_learnt else "typical",
            )
        )  # fmt: skip
    return out.getvalue()


def _minutes(seconds: float) -> str:
    minutes = round(seconds / 60.0)
    return f"{minutes} min" if minutes else ""


def _e(text: str) -> str:
    return html.escape(text)
