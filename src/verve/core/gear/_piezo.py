"""A piezo pickup without a preamp of its own."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from verve.core.kind import Air, ChannelSettings, PlayingRange, Positive, SourceFigures

if TYPE_CHECKING:
    from verve.core.stages import Stage


class PiezoFigures(SourceFigures):
    """A piezo pickup without preamp: peak EMF as dB re 1 V, and its capacitance."""

    kind: Literal["piezo"] = "piezo"
    peak_emf_dbv: PlayingRange
    capacitance_f: Positive

    title = "Piezo pickup"
    found_as = "with a pickup"
    needs_high_impedance = True
    fades_in_bass = True

    def hears_loudspeakers(self) -> bool:
        # It sits on a body that sounds, and that loudspeakers make sound.
        return True

    def capacitance_of_source_f(self) -> float | None:
        return self.capacitance_f

    def stage(self, settings: ChannelSettings, air: Air | None) -> Stage:
        from verve.core.stages import Piezo

        peak_emf_v = 10.0 ** (self.peak_emf_dbv.hardest_db / 20.0)
        return Piezo(peak_emf_v=peak_emf_v, capacitance_f=self.capacitance_f)
