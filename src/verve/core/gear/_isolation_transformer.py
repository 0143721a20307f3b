"""A line isolation transformer: it parts the earths of two boxes and leaves the level as it is."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final, Literal

from verve.core.gear._fields import NAME, PRIMARY, SECONDARY
from verve.core.kind import (
    DeviceFigures,
    Field,
    Level,
    NotNegative,
    Passage,
    PhantomNeed,
    Plug,
    Positive,
    Reader,
    SheetForm,
)
from verve.core.words import Fact, ohm_text

if TYPE_CHECKING:
    from verve.core.stages import Stage


class IsolationTransformerFigures(DeviceFigures):
    """A transformer for line level; `turns_ratio` is primary to secondary, 1 leaves the level as it is."""

    kind: Literal["isolation_transformer"] = "isolation_transformer"
    turns_ratio: Positive = 1.0
    primary_resistance_ohm: NotNegative
    secondary_resistance_ohm: NotNegative
    primary_inductance_h: Positive
    phantom: PhantomNeed = "tolerates"

    title = "Isolation transformer"
    job = "transformer"
    group = "isolation_transformer"
    is_between = True
    isolates = True
    search_words = ("ground loop", "hum", "galvanic isolation", "line transformer")

    def output_plug(self) -> Plug | None:
        return "jack_6"

    def input_levels(self, port: str) -> tuple[Level, ...]:
        return ("line",)

    def output_level(self) -> Level:
        return "line"

    def stages(self, passage: Passage, bit_depth: int) -> list[tuple[str, Stage]]:
        from verve.core.stages import Transformer

        stage = Transformer(
            turns_ratio=self.turns_ratio,
            primary_resistance_ohm=self.primary_resistance_ohm,
            secondary_resistance_ohm=self.secondary_resistance_ohm,
            primary_inductance_h=self.primary_inductance_h,
        )
        return [("box", stage)]

    def phantom_need(self) -> PhantomNeed:
        return self.phantom

    def says(self, passage: Passage) -> str:
        return f"transformer {self.turns_ratio:g} : 1 for line level; parts the earths"

    def facts(self, passage: Passage) -> tuple[Fact, ...]:
        return (
            self.fact(
                "turns_ratio",
                "Turns ratio",
                f"{self.turns_ratio:g} : 1",
                "the voltage falls by this, the impedance by its square",
            ),
            self.fact(
                "primary_resistance_ohm",
                "Primary resistance",
                ohm_text(self.primary_resistance_ohm),
                "in series with what drives it",
            ),
        )

    def notes(self, passage: Passage, role: str) -> tuple[str, ...]:
        return (f"transformer {self.turns_ratio:g} : 1",)


# ── its data sheet ────────────────────────────────────────────────────────────────────────────
_FIELDS: Final = (
    NAME,
    Field(
        key="ratio", label="Turns ratio", example="1:1", says="primary to secondary, usually 1:1"
    ),
    PRIMARY,
    SECONDARY,
    Field(key="inductance", label="Primary inductance", example="10 H", says="carries the bass"),
)


def _make(reader: Reader) -> IsolationTransformerFigures | None:
    from verve.core.quantities import henries, ohms, ratio

    turns = reader.read("ratio", ratio, "turns_ratio", otherwise=1.0, because="1:1, as usual")
    primary = reader.read(
        "primary", ohms, "primary_resistance_ohm", otherwise=60.0, because="60 Ω, typical"
    )
    secondary = reader.read(
        "secondary", ohms, "secondary_resistance_ohm", otherwise=60.0, because="60 Ω, typical"
    )
    inductance = reader.read(
        "inductance",
        henries,
        "primary_inductance_h",
        otherwise=10.0,
        because="10 H, typical",
        above=0.0,
    )
    if turns is None or primary is None or secondary is None or inductance is None:
        return None
    return IsolationTransformerFigures(
        turns_ratio=turns,
        primary_resistance_ohm=primary,
        secondary_resistance_ohm=secondary,
        primary_inductance_h=inductance,
        origin="data_sheet",
        origins=reader.origins,
        wordings=reader.wordings,
    )


def _doubts(reader: Reader, figures: IsolationTransformerFigures) -> None:
    if not 0.5 <= figures.turns_ratio <= 2.0:
        reader.doubt("ratio", "a line transformer has 1:1 or near it; a DI box has more")


IsolationTransformerFigures.sheet = SheetForm(
    kind="isolation_transformer",
    title="Isolation transformer",
    fields=_FIELDS,
    make=_make,
    doubts=_doubts,
)
