"""The run sheet as paper, and the phantom budget in numbers."""

from __future__ import annotations

import csv
import html
import io
from collections.abc import Sequence

from verve.core.power import (
    RunStep,
)
from verve.core.sheets._patch import PAPER_STYLE, TABLE


def run_sheet_csv(steps: Sequence[RunStep]) -> str:
    """One row a step, with a column to tick."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(("done", "step", "what", "why"))
    for number, step in enumerate(steps, 1):
        writer.writerow(("", number, step.words, step.reason))
    return out.getvalue()


def run_sheet_html(title: str, steps: Sequence[RunStep]) -> str:
    """The sheet as a page: large, numbered, a box to tick for every step."""
    # A reason that holds for a row of steps stands beside the first of them.
    reasons = ["", *(step.reason for step in steps)]
    rows = "".join(
        f'<tr><td class="box">☐</td><td class="line">{number}</td><td>{html.escape(step.words)}</td>'
        f"<td>{html.escape(step.reason) if step.reason != reasons[number - 1] else ''}</td></tr>"
        for number, step in enumerate(steps, 1)
    )
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8">'
        f"<title>{html.escape(title)}</title><style>{PAPER_STYLE}</style></head><body>"
        f"<h1>{html.escape(title)}</h1><p>Never lift a mains safety earth; work on mains wiring is for a "
        "licensed electrician under local code. A valve amplifier never runs without its load.</p>"
        f"{TABLE}{rows}</table></body></html>"
    )
