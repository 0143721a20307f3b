"""The figures of a piece of gear as numbers with an origin, in the words of its data sheet."""

from __future__ import annotations

from verve.core.explain import _words as words
from verve.core.kind import CableFigures, figure_fact
from verve.core.network import LineState
from verve.core.session import RouteStep
from verve.core.words import Fact, fill, level_text, percent_text


def device_facts(step: RouteStep) -> tuple[Fact, ...]:
    """Every figure of a device that counts where the line passes it."""
    return step.figures.facts(step)


def source_facts(state: LineState) -> tuple[Fact, ...]:
    """How loud a source is played, softest to hardest."""
    return state.route.source.figures.facts()


def cable_facts(cable: CableFigures) -> tuple[Fact, ...]:
    """A cable's length and what it puts across the line."""
    farads = cable.capacitance_f_per_m
    return (
        figure_fact(
            cable, "length_m", words.LENGTH, fill(words.CABLE_LENGTH, length_m=cable.length_m)
        ),
        figure_fact(
            cable,
            "capacitance_f_per_m",
            words.CAPACITANCE,
            fill(words.CABLE_CAPACITANCE, capacitance_pf=farads * cable.length_m * 1e12),
            fill(words.CABLE_CAPACITANCE_HOW, per_metre_pf=farads * 1e12, length_m=cable.length_m),
        ),
    )


def junction_facts(state: LineState, index: int) -> tuple[Fact, ...]:
    """The levels behind one stage of a line: what its picture shows there.

    source: see the whole calculation; every level is through the impedances of both sides
    """
    levels, staged = state.levels, state.staged
    if levels is None or staged is None:
        return ()
    found: list[Fact] = []
    loaded, opened = levels.peak_dbu[index], levels.open_peak_dbu[index]
    if loaded is not None:
        how = words.PEAK_HERE_HOW
        if opened is not None and abs(opened - loaded) >= 0.05:
            how += fill(words.OPEN_HERE, open_dbu=opened)
        text = level_text(loaded, "dBu")
        found.append(Fact(label=words.HARDEST_PEAK, text=text, origin="computed", how=how))
    noise = levels.noise_dba[index]
    if noise is not None:
        how = words.NOISE_HERE_HOW
        text = level_text(noise, "dBu A")
        found.append(Fact(label=words.NOISE, text=text, origin="computed", how=how))
    room = levels.headroom_db[index]
    if room is not None:
        how = words.HEADROOM_HOW
        text = fill(words.HEADROOM_TEXT, headroom_db=room)
        found.append(Fact(label=words.HEADROOM, text=text, origin="computed", how=how))
    share = levels.noise_shares[index]
    how = words.SHARE_HOW
    found.append(Fact(label=words.SHARE, text=percent_text(share), origin="computed", how=how))
    return tuple(found)
