"""Sound in the air: a voice, an instrument, a loudspeaker of an amplifier."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from verve.core.kind import (
    Air,
    ChannelSettings,
    NotNegative,
    PlayingRange,
    Positive,
    SourceFigures,
)

if TYPE_CHECKING:
    from verve.core.stages import Stage


class AcousticFigures(SourceFigures):
    """Sound in the air: peak levels in dB SPL at `reference_distance_m`.

    `extent_m` is about half the size of what sounds: nearer than that the level hardly rises.
    """

    kind: Literal["acoustic"] = "acoustic"
    peak_spl: PlayingRange
    reference_distance_m: Positive = 1.0
    extent_m: NotNegative = 0.0

    title = "Acoustic source"
    found_as = "acoustic"
    is_acoustic = True
    unit = "dB SPL"
    level_figure = "peak_spl"
    direct_modes = ()
    takes = ("microphone", "pair")

    def stage(self, settings: ChannelSettings, air: Air | None) -> Stage:
        from verve.core.line import effective_distance_m
        from verve.core.stages import HeardSound

        assert air is not None
        return HeardSound(
            # The microphone's response is counted into the level here, and into its ceiling there.
            peak_spl_db=self.peak_spl.hardest_db + air.change_db,
            reference_distance_m=effective_distance_m(self.reference_distance_m, self.extent_m),
            distance_m=effective_distance_m(air.distance_m, self.extent_m),
            room_noise_dba=air.room_noise_dba,
            room_noise_curve="room",
            room_response_db=air.room_response_db,
        )

    def heard_from_m(self, distance_m: float) -> float:
        from verve.core.line import effective_distance_m

        return effective_distance_m(distance_m, self.extent_m)

    def fall_words(self, distance_m: float, reference_m: float) -> str:
        how = (
            f"{self.level_text(self.peak_spl.hardest_db)} at {self.reference_distance_m:g} m "
            f"− 20·log₁₀({distance_m:.3g} ÷ {reference_m:.3g}); inverse distance law"
        )
        if self.extent_m:
            how += f", both distances with the size of what sounds, √(r² + {self.extent_m:g}²)"
        return how

    def says(self) -> str:
        return f"{super().says()} at 1 m"
