"""A line isolation transformer: it parts the earths of two boxes and leaves the level as it is."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final, Literal

from verve.core.gear._fields import NAME, PRIMARY, SECONDARY
from verve.core.gear._windings import TransformerFigures, read_windings
from verve.core.kind import (
    Field,
    Level,
    Passage,
    PhantomNeed,
    Plug,
    Reader,
    SheetForm,
)
from verve.core.words import Fact, ohm_text

if TYPE_CHECKING:
    from verve.core.stages import Stage


class IsolationTransformerFigures(TransformerFigures):
    """A transformer for line level; `turns_ratio` is primary to secondary, 1 leaves the level as it is."""

    kind: Literal["isolation_transformer"] = "isolation_transformer"
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
        return [("box", self.transformer())]

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
    from verve.core.quantities import ratio

    turns = reader.read("ratio", ratio, "turns_ratio", otherwise=1.0, because="1:1, as usual")
    windings = read_windings(
        reader,
        primary_ohm=(60.0, "60 Ω, typical"),
        secondary_ohm=(60.0, "60 Ω, typical"),
        inductance_h=(10.0, "10 H, typical"),
    )
    if turns is None or windings is None:
        return None
    return IsolationTransformerFigures(
        turns_ratio=turns,
        **windings,
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
