"""The entries that ship with Verve, read once: every figure in them is a typical one."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from pathlib import Path
from typing import Annotated, Literal

from pydantic import Field, ValidationError

from verve.core.errors import from_validation_error
from verve.core.kind import CableFigures, DeviceFigures, Frozen, Mode, Positive, SourceFigures
from verve.core.session import Capture
from verve.core.words import Origin


class _Entry(Frozen):
    """A name, and between which values its figures usually lie.

    `price` is its usual class of price, new, from lowest to highest: typical, in euros or what is much like them.
    """

    name: str
    price: tuple[float, float] | None = None
    usual: Mapping[str, tuple[float, float]] = {}


class SourceEntry(_Entry):
    """A kind of source; `pickup` is the one that an instrument in the air usually has, where some have one.

    `strings` are the notes of its open strings as usually tuned, in the order in which they lie.
    """

    figures: SourceFigures
    pickup: str | None = None
    strings: tuple[Annotated[str, Field(pattern=r"^[A-G]#?[0-8]$")], ...] = ()


class DeviceEntry(_Entry):
    """A kind of device."""

    figures: DeviceFigures


class CableEntry(_Entry):
    """A kind of cable."""

    figures: CableFigures


class HeadphoneFigures(Frozen):
    """Headphones; closed ones keep the sound from the microphone."""

    entry: str
    origin: Origin = "typical"
    impedance_ohm: Positive
    sensitivity_db_per_mw: float
    is_closed: bool


class HeadphoneEntry(_Entry):
    """A kind of headphones."""

    figures: HeadphoneFigures


class LoudspeakerFigures(Frozen):
    """A powered loudspeaker: its loudest at a metre, and the level that brings it there."""

    entry: str
    origin: Origin = "typical"
    max_spl_db: float
    full_level_dbu: float


class LoudspeakerEntry(_Entry):
    """A kind of loudspeaker."""

    figures: LoudspeakerFigures


class AccessoryEntry(_Entry):
    """Something without a signal: a shield, a stand, an adapter."""

    kind: Literal["shield", "stand", "adapter", "software"]
    says: str


class ChainLine(Frozen):
    """One line of a chain: a source, the devices behind it, a cable behind each electrical output."""

    suffix: str
    source: str
    devices: tuple[str, ...]
    cables: tuple[str, ...]
    mode: Mode


class Chain(Frozen):
    """A whole way from a source to an interface, to be put into a session at once.

    With a `mixer` its lines meet there before the interface, one hard on each side.
    """

    id: str
    name: str
    line_name: str
    says: str
    distance_m: float | None = None
    pair: bool = False
    mixer: str | None = None
    lines: tuple[ChainLine, ...]


class EnsemblePart(Frozen):
    """One part of a usual ensemble: keys of catalogue sources, and how it is usually taken."""

    name: str
    sound: str | None = None
    plug: str | None = None
    capture: Capture


class Ensemble(Frozen):
    """People who usually play together."""

    id: str
    name: str
    says: str
    parts: tuple[EnsemblePart, ...]


class Catalogue(Frozen):
    """Everything that ships."""

    format: Literal["verve-catalogue"]
    version: Literal[1]
    sources: Mapping[str, SourceEntry]
    controllers: Mapping[str, SourceEntry] = {}
    devices: Mapping[str, DeviceEntry]
    cables: Mapping[str, CableEntry]
    headphones: Mapping[str, HeadphoneEntry]
    loudspeakers: Mapping[str, LoudspeakerEntry]
    accessories: Mapping[str, AccessoryEntry]
    chains: tuple[Chain, ...]
    ensembles: tuple[Ensemble, ...] = ()

    def played(self) -> Mapping[str, SourceEntry]:
        """Everything that somebody can play, in the air, from a plug or inside the computer."""
        return {**self.sources, **self.controllers}

    def chain(self, chain_id: str) -> Chain:
        """raises: KeyError for an unknown chain"""
        for chain in self.chains:
            if chain.id == chain_id:
                return chain
        raise KeyError(chain_id)


_FILE = Path(__file__).resolve().parents[2] / "data" / "catalogue.json"


@cache
def catalogue() -> Catalogue:
    """The catalogue that ships.

    raises: InputError if the shipped file is damaged
    """
    try:
        return Catalogue.model_validate_json(_FILE.read_text(encoding="utf-8"))
    except ValidationError as error:
        raise from_validation_error(error, "catalogue.json") from None
