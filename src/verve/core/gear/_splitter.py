"""A splitter: one microphone for two desks."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final, Literal

from verve.core.gear._fields import NAME
from verve.core.gear._windings import TransformerFigures, read_windings
from verve.core.kind import (
    NOTHING_SET,
    Control,
    Field,
    Level,
    Mode,
    Passage,
    PhantomNeed,
    Plug,
    Positive,
    Reader,
    Settings,
    SheetForm,
    switch_control,
)
from verve.core.words import Fact, ohm_text

if TYPE_CHECKING:
    from verve.core.stages import Stage

DIRECT, ISOLATED = "direct", "isolated"


class SplitterFigures(TransformerFigures):
    """A splitter: one microphone for two desks. Its direct output is the microphone itself and lets phantom
    power through; the isolated one comes from a transformer (primary to secondary) and keeps it.

    `other_input_ohm` is what the other desk loads the microphone with, where nothing is connected here.
    """

    kind: Literal["splitter"] = "splitter"
    other_input_ohm: Positive = 2400.0
    phantom: PhantomNeed = "tolerates"

    title = "Microphone splitter"
    job = "splitter"
    group = "splitter"
    is_between = True
    search_words = ("split", "stage box", "two desks")

    def output_ports(self) -> tuple[str, ...]:
        return (DIRECT, ISOLATED)

    def input_plug(self, mode: Mode | None = None) -> Plug | None:
        return "xlr"

    def port_controls(self, owner: str, port: str, settings: Settings) -> list[Control]:
        says = (
            "The desk on the direct output feeds the microphone; its own switch is there, not here"
        )
        now = settings.get(port, NOTHING_SET)
        return [
            switch_control(owner, port, "fed_there", "Other desk gives phantom power", says, now)
        ]

    def input_levels(self, port: str) -> tuple[Level, ...]:
        return ("instrument", "line")

    def stages(self, passage: Passage, bit_depth: int) -> list[tuple[str, Stage]]:
        from verve.core.stages import ResistivePad

        # The other desk's input lies across the microphone, whichever output is this line's.
        other = ResistivePad(series_ohm=0.0, shunt_ohm=self.other_input_ohm)
        if passage.out_port != ISOLATED:
            return [("box", other)]
        return [("pad", other), ("box", self.transformer())]

    def phantom_need(self) -> PhantomNeed:
        return self.phantom

    def lets_phantom_through(self, passage: Passage) -> bool:
        return passage.out_port != ISOLATED

    def is_fed_elsewhere(self, passage: Passage) -> bool:
        return passage.out_port == ISOLATED and bool(passage.controls["fed_there"].value)

    def splits_off(self, passage: Passage) -> bool:
        return passage.out_port == ISOLATED

    def says(self, passage: Passage) -> str:
        keeps = "keeps" if passage.out_port == ISOLATED else "lets through"
        out = passage.out_port or "no"
        return f"{out} output, {keeps} phantom power; another desk is on the other"

    def facts(self, passage: Passage) -> tuple[Fact, ...]:
        return (
            self.fact(
                "other_input_ohm",
                "The other desk",
                ohm_text(self.other_input_ohm),
                "its input lies across the microphone beside this one",
            ),
        )

    def notes(self, passage: Passage, role: str) -> tuple[str, ...]:
        return (f"{passage.out_port} output",)


# ── its data sheet ────────────────────────────────────────────────────────────────────────────
_FIELDS: Final = (
    NAME,
    Field(
        key="primary",
        label="Primary resistance",
        example="40 Ω",
        says="of the transformer’s winding",
    ),
    Field(
        key="secondary", label="Secondary resistance", example="45 Ω", says="of the isolated side"
    ),
    Field(
        key="inductance",
        label="Primary inductance",
        example="15 H",
        says="carries the bass",
        is_needed=True,
    ),
    Field(
        key="other",
        label="Input of the other desk",
        example="2.4 kΩ",
        says="it lies across the microphone",
    ),
)


def _make(reader: Reader) -> SplitterFigures | None:
    from verve.core.quantities import ohms

    windings = read_windings(
        reader,
        primary_ohm=(40.0, "40 Ω, typical"),
        secondary_ohm=(45.0, "45 Ω, typical"),
        inductance_h=None,
    )
    other = reader.read(
        "other",
        ohms,
        "other_input_ohm",
        otherwise=2400.0,
        because="2.4 kΩ, as microphone inputs have",
        above=0.0,
    )
    if windings is None or other is None:
        return None
    return SplitterFigures(
        **windings,
        other_input_ohm=other,
        origin="data_sheet",
        origins=reader.origins,
        wordings=reader.wordings,
    )


SplitterFigures.sheet = SheetForm(
    kind="splitter", title="Microphone splitter", fields=_FIELDS, make=_make
)
