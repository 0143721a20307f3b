"""A passive DI box: a transformer, and a pad before it."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final, Literal

from verve.core.gear._fields import NAME, PRIMARY, SECONDARY
from verve.core.gear._windings import TransformerFigures, read_windings
from verve.core.kind import (
    NEED_WORDS,
    NOTHING_SET,
    PAD_BOX_OHM,
    Control,
    Field,
    Passage,
    PhantomNeed,
    Positive,
    Reader,
    Settings,
    SheetForm,
    control_value,
    pad_controls,
)
from verve.core.words import Fact

if TYPE_CHECKING:
    from verve.core.stages import Stage


class PassiveDiFigures(TransformerFigures):
    """A transformer box; `turns_ratio` is primary to secondary, 12 lowers to a twelfth."""

    kind: Literal["passive_di"] = "passive_di"
    turns_ratio: Positive
    pads_db: tuple[Positive, ...] = ()
    phantom: PhantomNeed = "tolerates"

    title = "Passive DI box"
    job = "di_box"
    group = "box"
    is_between = True
    isolates = True
    search_words = ("direct box", "di", "transformer box")

    def port_controls(self, owner: str, port: str, settings: Settings) -> list[Control]:
        return pad_controls(owner, port, self.pads_db, settings.get(port, NOTHING_SET).pad_db)

    def pads_at(self, port: str) -> tuple[float, ...]:
        return self.pads_db

    def bears_loudspeaker_level(self, passage: Passage) -> bool:
        return control_value(passage.controls, "pad_db", 0.0) > 0.0

    def stages(self, passage: Passage, bit_depth: int) -> list[tuple[str, Stage]]:
        from verve.core.stages import ResistivePad

        pad_db = control_value(passage.controls, "pad_db", 0.0)
        if pad_db == 0.0:
            return [("box", self.transformer())]
        kept = 10.0 ** (-pad_db / 20.0)
        pad = ResistivePad(series_ohm=PAD_BOX_OHM * (1.0 - kept), shunt_ohm=PAD_BOX_OHM * kept)
        return [("pad", pad), ("box", self.transformer())]

    def phantom_need(self) -> PhantomNeed:
        return self.phantom

    def says(self, passage: Passage) -> str:
        return f"transformer {self.turns_ratio:g} : 1; {NEED_WORDS[self.phantom]}"

    def facts(self, passage: Passage) -> tuple[Fact, ...]:
        text = f"{self.turns_ratio:g} : 1"
        how = "the voltage falls by this, the impedance by its square"
        return (self.fact("turns_ratio", "Turns ratio", text, how),)

    def notes(self, passage: Passage, role: str) -> tuple[str, ...]:
        return (f"transformer {self.turns_ratio:g} : 1",)


# ── its data sheet ────────────────────────────────────────────────────────────────────────────
_FIELDS: Final = (
    NAME,
    Field(
        key="ratio",
        label="Turns ratio",
        example="12:1",
        says="primary to secondary: 12:1 lowers the voltage to a twelfth",
        is_needed=True,
    ),
    PRIMARY,
    SECONDARY,
    Field(key="inductance", label="Primary inductance", example="300 H", says="carries the bass"),
    Field(key="pads", label="Pads", example="−20 dB", says="switchable, as −20, −40 dB"),
)


def _make(reader: Reader) -> PassiveDiFigures | None:
    from verve.core.quantities import ratio, read_pads

    turns = reader.read("ratio", ratio, "turns_ratio")
    windings = read_windings(
        reader,
        primary_ohm=(1000.0, "1 kΩ, typical"),
        secondary_ohm=(20.0, "20 Ω, typical"),
        inductance_h=(200.0, "200 H, typical"),
    )
    pads_db = read_pads(reader, "pads", "pads_db")
    if turns is None or windings is None:
        return None
    return PassiveDiFigures(
        turns_ratio=turns,
        **windings,
        pads_db=pads_db,
        origin="data_sheet",
        origins=reader.origins,
        wordings=reader.wordings,
    )


def _doubts(reader: Reader, figures: PassiveDiFigures) -> None:
    if not 1.0 <= figures.turns_ratio <= 20.0:
        reader.doubt("ratio", "passive boxes have 1:1 (line) to 15:1 (instruments)")


PassiveDiFigures.sheet = SheetForm(
    kind="passive_di", title="Passive DI box", fields=_FIELDS, make=_make, doubts=_doubts
)
