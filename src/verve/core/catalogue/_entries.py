"""The entries that ship with Verve, read once: every figure in them is a typical one."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from pathlib import Path
from typing import Literal

from pydantic import ValidationError

from verve.core.errors import from_validation_error
from verve.core.session import (
    CableFigures,
    DeviceFigures,
    Frozen,
    Mode,
    SourceFigures,
)


class SourceEntry(Frozen):
    """A kind of source by name."""

    name: str
    figures: SourceFigures


class DeviceEntry(Frozen):
    """A kind of device by name."""

    name: str
    figures: DeviceFigures


class CableEntry(Frozen):
    """A kind of cable by name."""

    name: str
    figures: CableFigures


class ChainLine(Frozen):
    """One line of a chain: a source, the devices behind it, a cable behind each electrical output."""

    suffix: str
    source: str
    devices: tuple[str, ...]
    cables: tuple[str, ...]
    mode: Mode


class Chain(Frozen):
    """A whole way from a source to an interface, to be put into a session at once."""

    id: str
    name: str
    line_name: str
    says: str
    distance_m: float | None = None
    pair: bool = False
    lines: tuple[ChainLine, ...]


class Catalogue(Frozen):
    """Everything that ships."""

    format: Literal["verve-catalogue"]
    version: Literal[1]
    sources: Mapping[str, SourceEntry]
    devices: Mapping[str, DeviceEntry]
    cables: Mapping[str, CableEntry]
    chains: tuple[Chain, ...]

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
