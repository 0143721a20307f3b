"""Who hears what, on paper."""

from __future__ import annotations

import csv
import html
import io
from typing import Any

from verve.core.monitor import buffer_text, ledger_of, offset_text, sentence_of, total_text, ways_of
from verve.core.session import Session, cue_of, listeners
from verve.core.sheets._patch import PAPER_STYLE, TABLE
from verve.core.words import number


def cue_sheet_data(session: Session) -> dict[str, Any]:
    """One entry for each performer: a sentence, and every way with its parts in milliseconds."""
    found: list[dict[str, Any]] = []
    for who, name in listeners(session.setup):
        cue = cue_of(session.setup, who)
        ways = ways_of(cue) if cue.worn != "nothing" else ()
        found.append(
            {
                "who": name,
                "hears": sentence_of(session, who),
                "ways": [
                    {
                        "way": way,
                        "delay_ms": ledger.total_ms,
                        "parts": [
                            {"name": one.name, "ms": one.ms, "origin": one.origin}
                            for one in ledger.delays
                        ],
                    }
                    for way in ways
                    for ledger in (ledger_of(session, cue, way),)
                ],
            }
        )
    return {"listeners": found}


def cue_sheet_text(session: Session) -> str:
    """The same as lines to read."""
    lines = []
    for who, _ in listeners(session.setup):
        cue = cue_of(session.setup, who)
        lines.append(sentence_of(session, who))
        ways = ways_of(cue) if cue.worn != "nothing" else ()
        lines += [f"  {total_text(session, cue, ledger_of(session, cue, way))}" for way in ways]
    return "\n".join([*lines, buffer_text(session), offset_text(session)])


def cue_sheet_csv(session: Session) -> str:
    """One row for each way of each performer."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(("who", "way", "delay_ms", "listens", "backing_db", "click_db"))
    for who, name in listeners(session.setup):
        cue = cue_of(session.setup, who)
        ways = ways_of(cue) if cue.worn != "nothing" else ()
        levels = ["" if one is None else f"{one:g}" for one in (cue.backing_db, cue.click_db)]
        for way in ways:
            late = f"{ledger_of(session, cue, way).total_ms:.2f}"
            writer.writerow((name, way, late, cue.worn.replace("_", " "), *levels))
        if not ways:
            writer.writerow((name, "none", "", cue.worn.replace("_", " "), *levels))
    return out.getvalue()


def cue_sheet_html(session: Session) -> str:
    """A sentence for each performer, how late each way is, and what the buffer is for."""
    title = f"{session.title}: who hears what"
    rows = ""
    for who, _ in listeners(session.setup):
        cue = cue_of(session.setup, who)
        ways = ways_of(cue) if cue.worn != "nothing" else ()
        late = "<br>".join(
            html.escape(total_text(session, cue, ledger_of(session, cue, way))) for way in ways
        )
        total = "<br>".join(
            f"{number(ledger_of(session, cue, way).total_ms, 1)} ms" for way in ways
        )
        rows += (
            f"<tr><td>{html.escape(sentence_of(session, who))}</td>"
            f'<td class="number">{total}</td><td>{late}</td></tr>'
        )
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8">'
        f"<title>{html.escape(title)}</title><style>{PAPER_STYLE}</style></head><body>"
        f"<h1>{html.escape(title)}</h1>"
        f"{TABLE}<tr><th>Who</th><th>Late by</th><th>What that is like</th></tr>{rows}</table>"
        f"<p>{html.escape(buffer_text(session))}</p><p>{html.escape(offset_text(session))}</p>"
        "<p>Before anybody puts headphones on: level down. Ringing or dullness afterwards: stop for today.</p>"
        "</body></html>"
    )
