"""The figures of a piece of gear as numbers with an origin, in the words of its data sheet."""

from __future__ import annotations

from verve.core.kind import CableFigures, figure_fact
from verve.core.network import LineState
from verve.core.session import RouteStep
from verve.core.words import Fact, level_text


def device_facts(hop: RouteStep) -> tuple[Fact, ...]:
    """Every figure of a device that counts where the line passes it."""
    return hop.figures.facts(hop)


def source_facts(state: LineState) -> tuple[Fact, ...]:
    """How loud a source is played, softest to hardest."""
    return state.route.source.figures.facts()


def cable_facts(cable: CableFigures) -> tuple[Fact, ...]:
    """A cable's length and what it puts across the line."""
    farads = cable.capacitance_f_per_m
    return (
        figure_fact(cable, "length_m", "Length", f"{cable.length_m:g} m"),
        figure_fact(
            cable,
            "capacitance_f_per_m",
            "Capacitance",
            f"{farads * cable.length_m * 1e12:.0f} pF",
            f"{farads * 1e12:g} pF per metre × {cable.length_m:g} m",
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
        how = "hardest playing, over the source’s spectrum"
        if opened is not None and abs(opened - loaded) >= 0.05:
            how += f"; {level_text(opened, 'dBu')} open, less what the next input takes"
        text = level_text(loaded, "dBu")
        found.append(Fact(label="Hardest peak", text=text, origin="computed", how=how))
    noise = levels.noise_dba[index]
    if noise is not None:
        how = "everything before it and its own, A-weighted, 20 Hz to 20 kHz"
        text = level_text(noise, "dBu A")
        found.append(Fact(label="Noise", text=text, origin="computed", how=how))
    room = levels.headroom_db[index]
    if room is not None:
        how = "its ceiling less the hardest peak there"
        text = f"{room:.1f} dB".replace("-", "−")
        found.append(Fact(label="Room to its ceiling", text=text, origin="computed", how=how))
    share = levels.noise_shares[index]
    how = "of the A-weighted noise power at the end of the line"
    found.append(
        Fact(label="Its share of the noise", text=f"{share:.0%}", origin="computed", how=how)
    )
    return tuple(found)
