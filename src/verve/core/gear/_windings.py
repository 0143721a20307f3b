"""What every box with a transformer has: its windings, as figures, as a stage and on a data sheet."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from verve.core.kind import DeviceFigures, NotNegative, Positive, Reader

if TYPE_CHECKING:
    from verve.core.stages import Stage


class TransformerFigures(DeviceFigures):
    """A transformer; `turns_ratio` is primary to secondary, 12 lowers the voltage to a twelfth."""

    turns_ratio: Positive = 1.0
    primary_resistance_ohm: NotNegative
    secondary_resistance_ohm: NotNegative
    primary_inductance_h: Positive

    def transformer(self) -> Stage:
        """Its windings as a stage."""
        from verve.core.stages import Transformer

        return Transformer(
            turns_ratio=self.turns_ratio,
            primary_resistance_ohm=self.primary_resistance_ohm,
            secondary_resistance_ohm=self.secondary_resistance_ohm,
            primary_inductance_h=self.primary_inductance_h,
        )


def read_windings(
    reader: Reader,
    *,
    primary_ohm: tuple[float, str],
    secondary_ohm: tuple[float, str],
    inductance_h: tuple[float, str] | None,
) -> dict[str, Any] | None:
    """The windings off a data sheet; each with what is assumed and how it is said, None for needed.

    unit: Ω, H
    """
    from verve.core.quantities import henries, ohms

    found: dict[str, Any] = {}
    for key, figure, (otherwise, because) in (
        ("primary", "primary_resistance_ohm", primary_ohm),
        ("secondary", "secondary_resistance_ohm", secondary_ohm),
    ):
        found[figure] = reader.read(key, ohms, figure, otherwise=otherwise, because=because)
    figure = "primary_inductance_h"
    if inductance_h is None:
        found[figure] = reader.read("inductance", henries, figure, above=0.0)
    else:
        otherwise, because = inductance_h
        found[figure] = reader.read(
            "inductance", henries, figure, otherwise=otherwise, because=because, above=0.0
        )
    return None if any(value is None for value in found.values()) else found
