"""The whole calculation of one line: every step, every junction, every formula with its source."""

from __future__ import annotations

from verve.core.assess import LineAssessment
from verve.core.sheets._tables import level, table
from verve.core.stages import (
    Amplifier,
    Cable,
    Converter,
    Microphone,
    Pickup,
    Piezo,
    Sound,
    Transformer,
)
from verve.core.units import TEMPERATURE_K
from verve.core.words import ORIGIN_WORDS, Fact

_FORMULAS: tuple[tuple[tuple[type, ...], str, str], ...] = (
    (
        (Sound,),
        "L(r) = L(r₀) − 20·log₁₀(r ÷ r₀), r² + a² for a source of half-size a",
        "inverse distance law",
    ),
    ((Microphone,), "E = s·p, s in V/Pa; 1 Pa = 93.98 dB SPL", "definition of sensitivity"),
    (
        (Microphone,),
        "|A + B·cos θ·(1 + 1/(j·k·r))|, room noise × (A² + B²/3)",
        "first-order pattern and its proximity effect; textbook",
    ),
    ((Pickup,), "Z = R + jωL, across it jωC and the tone branch", "circuit of a coil"),
    (
        (Piezo,),
        "Z = 1 ÷ jωC, so that an input of R takes the bass below 1 ÷ 2πRC",
        "circuit of a capacitor",
    ),
    ((Cable,), "series R·l, then jωC·l across", "lumped cable, short against the wave length"),
    (
        (Transformer,),
        "U₂ = U₁ ÷ n, Z₂ = Z₁ ÷ n²",
        "ideal transformer with its resistances and inductance",
    ),
    (
        (Amplifier, Converter),
        "U = E ÷ (1 + Z·Y), the level through both impedances",
        "voltage divider",
    ),
    (
        (Amplifier,),
        "e² = EIN² ÷ B − 4kT·Rs, never below zero; i² = 4kT ÷ Rin + in²",
        "derivation from EIN",
    ),
    ((Converter,), "quantisation −(6.0206·bits + 1.7609) dBFS", "uniform steps, step² ÷ 12"),
)
_ALWAYS = (
    (f"4kT·R per hertz from every resistor, T = {TEMPERATURE_K:g} K", "Nyquist 1928"),
    ("noise summed from 20 Hz to 20 kHz, A-weighted where it says A", "IEC 61672-1"),
    ("level of a broadband source = powers of its octave bands, added", "derivation"),
)


def _step(fact: Fact) -> list[str]:
    return [fact.label, fact.text, ORIGIN_WORDS[fact.origin], fact.how]


def _junctions(item: LineAssessment) -> str:
    levels, staged = item.state.levels, item.state.staged
    assert levels is not None
    assert staged is not None
    rows = []
    for index, part in enumerate(staged.parts):
        opened, loaded = levels.open_peak_dbu[index], levels.peak_dbu[index]
        lost = None if opened is None or loaded is None else loaded - opened
        rows.append(
            [
                f"{part.role} ({part.stage.stage.replace('_', ' ')})",
                level(opened),
                level(lost),
                level(loaded),
                level(levels.noise_dba[index]),
                level(levels.headroom_db[index]),
                f"{levels.noise_shares[index]:.1%}",
            ]
        )
    head = ["behind", "open dBu", "load dB", "peak dBu", "noise dBu A", "room dB", "of the noise"]
    return table(head, rows, numbers=range(1, 7))


def derivation_text(item: LineAssessment) -> str:
    """Everything that goes into a line's numbers, as plain text to be read, copied or kept."""
    staged = item.state.staged
    if staged is None or item.state.levels is None:
        return f"{item.line.name} cannot be computed as it stands: {item.verdict}."
    stages = [part.stage for part in staged.parts]
    steps = table(
        ["step", "value", "origin", "how"], [_step(fact) for fact in item.why()], numbers=(1,)
    )
    noise = table(
        ["origin of noise", "share", "level"],
        [[p.name, f"{p.share:.1%}", f"{level(p.level_dbfs_a)} dBFS A"] for p in item.noise_parts()],
        numbers=(1, 2),
    )
    formulas = [
        f"  {formula}   [{source}]"
        for kinds, formula, source in _FORMULAS
        if any(isinstance(stage, kinds) for stage in stages)
    ]
    formulas += [f"  {formula}   [{source}]" for formula, source in _ALWAYS]
    return "\n\n".join(
        (
            f"{item.line.name}, loudest passage",
            f"Step by step, from the source to the interface\n{steps}",
            f"At every junction, all levels through impedances\n{_junctions(item)}",
            f"Where the noise comes from, in the recording\n{noise}",
            "Formulas, and where they come from\n" + "\n".join(formulas),
        )
    )
