"""The plan of the day: layers in their order, what each is recorded over, and what is plugged between them."""

from __future__ import annotations

import csv
import html
import io
from collections.abc import Mapping
from dataclasses import dataclass

from verve.core.day import day_replugs
from verve.core.power import RunStep, between_sheet, set_up_sheet
from verve.core.session import Pass, Session, Setup, layer_of, patch_of, routes
from verve.core.sheets._patch import PAPER_STYLE, TABLE
from verve.core.words import listed


@dataclass(frozen=True, slots=True, kw_only=True)
class DayRow:
    """A layer of the day in words. `state` is "here", "recorded", "ready" or "open" where nothing is connected."""

    layer: str
    number: int
    name: str
    over: str
    signals: tuple[str, ...]
    plugs: str
    state: str
    state_text: str


def day_rows(session: Session) -> tuple[DayRow, ...]:
    """Every layer of the brief, in the order in which they are recorded."""
    names = {one.id: one.name for one in session.brief.passes}
    counts, here = day_replugs(session), layer_of(session)
    takes: dict[str, int] = {}
    for take in session.takes:
        if take.layer is not None and not take.aside:
            takes[take.layer] = takes.get(take.layer, 0) + 1
    has_backing = any(one.role == "backing" and not one.is_muted for one in session.sounds)
    found = []
    first = True
    for number, item in enumerate(session.brief.passes, 1):
        setup = patch_of(session, item.id)
        over = [names[key] for key in item.over if key in names]
        if has_backing:
            over.insert(0, "the backing track")
        found.append(
            DayRow(
                layer=item.id,
                number=number,
                name=item.name,
                over=f"over {listed(over)}" if over else "over nothing",
                signals=_signals(session, item, setup),
                plugs="" if setup is None else _plugs_text(counts.get(item.id, 0), first=first),
                state=_state(item, setup, here, takes),
                state_text=_state_text(item, setup, here, takes),
            )
        )
        first = first and setup is None
    return tuple(found)


def _signals(session: Session, item: Pass, setup: Setup | None) -> tuple[str, ...]:
    if setup is None:
        return tuple(part.name for part in session.brief.parts_of(item))
    found = []
    for route in routes(setup):
        if not route.has_source:
            continue
        through = ", ".join(step.name for step in route.steps[:-1])
        end = route.recorder.place if route.recorder is not None else "nowhere"
        armed = "" if route.line.is_armed else " (not armed)"
        found.append(f"{route.line.name}{armed}: {f'{through} → ' if through else ''}{end}")
    return tuple(found)


def _plugs_text(count: int, *, first: bool) -> str:
    if first:
        return "1 cable to set up" if count == 1 else f"{count} cables to set up"
    if not count:
        return "nothing to plug"
    return "plug 1 cable anew" if count == 1 else f"plug {count} cables anew"


def _state(item: Pass, setup: Setup | None, here: Pass | None, takes: Mapping[str, int]) -> str:
    if here is not None and here.id == item.id and setup is not None and setup.lines:
        return "here"
    if setup is None or not setup.lines:
        return "open"
    return "recorded" if takes.get(item.id) else "ready"


def _state_text(
    item: Pass, setup: Setup | None, here: Pass | None, takes: Mapping[str, int]
) -> str:
    count = takes.get(item.id, 0)
    said = "no take yet" if not count else "1 take" if count == 1 else f"{count} takes"
    match _state(item, setup, here, takes):
        case "here":
            return f"set up now, {said}"
        case "open":
            return "not connected yet"
        case _:
            return said


def steps_to(session: Session, layer_id: str) -> tuple[RunStep, ...]:
    """What is to be done by hand to come from what is set up now to another layer; nothing where it is the same."""
    setup, here = patch_of(session, layer_id), layer_of(session)
    if setup is None or (here is not None and here.id == layer_id):
        return ()
    return between_sheet(session.setup, setup)


def day_sheets(session: Session) -> tuple[tuple[DayRow, tuple[RunStep, ...]], ...]:
    """Every layer with its run sheet from the one before it, the first one from nothing."""
    before: Setup | None = None
    found: list[tuple[DayRow, tuple[RunStep, ...]]] = []
    for row in day_rows(session):
        setup = patch_of(session, row.layer)
        if setup is None:
            found.append((row, ()))
            continue
        steps = set_up_sheet(setup) if before is None else between_sheet(before, setup)
        found.append((row, steps))
        before = setup
    return tuple(found)


def day_html(session: Session) -> str:
    """The plan of the day as a page for the wall, with a box to tick for each step between layers."""
    title = f"{session.title}: the day"
    body = []
    for row, steps in day_sheets(session):
        body.append(f"<h2>{row.number} · {_e(row.name)}</h2>")
        known = [_e(one) for one in (row.over, row.plugs, row.state_text) if one]
        body.append(f"<p>{' · '.join(known)}</p><p>{'<br>'.join(map(_e, row.signals))}</p>")
        if steps:
            rows = "".join(
                f'<tr><td class="box">☐</td><td>{_e(step.words)}</td></tr>' for step in steps
            )
            body.append(f"{TABLE}{rows}</table>")
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{_e(title)}</title>'
        f"<style>{PAPER_STYLE}</style></head><body><h1>{_e(title)}</h1>"
        "<p>Monitors and headphones down while you plug. Never lift a mains safety earth; mains work is for a "
        f"licensed electrician under local code.</p>{''.join(body)}</body></html>"
    )


def day_csv(session: Session) -> str:
    """One row a step, by layer."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(("layer", "name", "over", "step", "what", "why"))
    for row, steps in day_sheets(session):
        writer.writerow((row.number, row.name, row.over, "", "; ".join(row.signals), row.plugs))
        for number, step in enumerate(steps, 1):
            writer.writerow((row.number, row.name, "", number, step.words, step.reason))
    return out.getvalue()


def _e(text: str) -> str:
    return html.escape(text)
