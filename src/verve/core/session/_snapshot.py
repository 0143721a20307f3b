"""What was set up for a take, as a file holds it: read when it is looked at, shared with other takes."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any, Final

from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler, ValidationError
from pydantic.json_schema import JsonSchemaValue
from pydantic_core import CoreSchema, core_schema

from verve.core.bounds import check_bounds
from verve.core.errors import InputError, from_validation_error
from verve.core.files import cut_name
from verve.core.kind import Frozen
from verve.core.session._setup import Device, Line, Link, Performer, Setup, Source

PIECES: Final[Mapping[str, type[Frozen]]] = {
    "performers": Performer,
    "sources": Source,
    "devices": Device,
    "links": Link,
    "lines": Line,
}
"""What a setup has many of: each is written once, however many takes had it."""
WHOLE: Final = ("placement", "monitoring")
"""What is written once as a whole, too: where everything stood, and what all heard, is the same for most takes."""


class Shelf:
    """What the takes of one file share, by the names they have there, and what of it has been read.

    `setups` and `pieces` are as the file has them; nothing of them is checked before it is asked for.
    """

    def __init__(self, setups: Mapping[str, Any], pieces: Mapping[str, Any]) -> None:
        self.setups, self.pieces = setups, pieces
        self._read: dict[tuple[str, str], Frozen] = {}
        self._tuples: dict[tuple[str, str], tuple[Frozen, ...]] = {}
        self._lists: dict[str, object] = {}
        self._parts: dict[str, frozenset[str]] = {}

    def piece(self, kind: str, said: object) -> Frozen:
        """A source, device, link … that stands in a setup, or that it names.

        raises: InputError naming it, if it is none or something is wrong within it
        """
        if not isinstance(said, str):
            return self._parsed(kind, said)
        found = self._read.get((kind, said))
        if found is None:
            found = self._read[(kind, said)] = self._parsed(kind, self.pieces.get(said))
        return found

    def found(self, said: object) -> object:
        """What a name stands for; anything else is itself, and so is a name that nothing has."""
        return self.pieces.get(said, said) if isinstance(said, str) else said

    def listed(self, said: object) -> object:
        """A list, or the one a name stands for, with everything it names in its place."""
        known = self._lists.get(said) if isinstance(said, str) else None
        if known is None:
            items = self.found(said)
            known = [self.found(one) for one in items] if isinstance(items, list) else items
            if isinstance(said, str):
                self._lists[said] = known
        return known

    def parts_of(self, said: object) -> frozenset[str]:
        """The parts of the brief that these sources are for; a list that has a name is looked through once."""
        known = self._parts.get(said) if isinstance(said, str) else None
        if known is None:
            items = self.listed(said)
            found = (
                [one.get("part") for one in items if isinstance(one, dict)]
                if isinstance(items, list)
                else []
            )
            known = frozenset(part for part in found if isinstance(part, str))
            if isinstance(said, str):
                self._parts[said] = known
        return known

    def tuple_of(self, kind: str, said: object) -> tuple[Frozen, ...]:
        """The sources, devices, links … of a setup; the same list is the same tuple, however many name it.

        raises: InputError naming what is wrong
        """
        known = self._tuples.get((kind, said)) if isinstance(said, str) else None
        if known is None:
            items = self.found(said)
            if not isinstance(items, list):
                raise InputError(f"setup.{kind}", "must be a list, or name one that the file has")
            known = tuple(self.piece(kind, one) for one in items)
            if isinstance(said, str):
                self._tuples[(kind, said)] = known
        return known

    def whole(self, piece: object) -> object:
        """A piece with its figures in their place."""
        if isinstance(piece, dict) and isinstance(piece.get("figures"), str):
            return {**piece, "figures": self.found(piece["figures"])}
        return piece

    def _parsed(self, kind: str, raw: object) -> Frozen:
        if not isinstance(raw, dict):
            raise InputError(f"setup.{kind}", "must name a piece that the file has")
        place = f"setup.{kind}.{cut_name(str(raw.get('id')), 80)}"
        named = raw.get("figures")
        whole = self.whole(raw)
        check_bounds(whole, place)
        try:
            found = PIECES[kind].model_validate_json(json.dumps(whole))
        except ValidationError as error:
            raise from_validation_error(error, place) from None
        if not isinstance(named, str):
            return found
        # Figures that are the same are one value: what compares takes sees at once that nothing changed.
        figures = getattr(found, "figures", None)
        assert isinstance(figures, Frozen)
        shared = self._read.setdefault(("figures", named), figures)
        return found.model_copy(update={"figures": shared})


_NOTHING = Shelf({}, {})


class Snapshot:
    """The setup of a take. From a file it is kept as it stands there, and read when it is asked for.

    What cannot be read stays as it is: it is written again word for word, and `fault` says what is wrong.
    """

    __slots__ = ("_fault", "_raw", "_setup", "_shelf")

    def __init__(self, raw: object, shelf: Shelf = _NOTHING) -> None:
        """`raw` is the setup as JSON, or its name on the shelf."""
        self._raw, self._shelf = raw, shelf
        self._setup: Setup | None = None
        self._fault: InputError | None = None

    @classmethod
    def of(cls, setup: Setup) -> Snapshot:
        """What is set up now, kept."""
        kept = cls(None)
        kept._setup = setup
        return kept

    @property
    def setup(self) -> Setup | None:
        """The setup; None where it cannot be read."""
        if self._setup is None and self._fault is None:
            # Two threads may both read it: they find the same, and the last one stays.
            try:
                self._setup = self._read()
            except InputError as error:
                self._fault = error
            except ValidationError as error:
                self._fault = from_validation_error(error, "setup")
        return self._setup

    @property
    def parts(self) -> frozenset[str]:
        """The parts of the brief that were recorded, told without reading what else was set up."""
        if self._setup is not None:
            return frozenset(s.part for s in self._setup.sources if s.part is not None)
        raw = self._found()
        return self._shelf.parts_of(raw.get("sources")) if isinstance(raw, dict) else frozenset()

    @property
    def fault(self) -> InputError | None:
        """What is wrong with it; None where it can be read."""
        return self._fault if self.setup is None else None

    @property
    def shelved(self) -> object:
        """The setup where it has been read; else as the file has it, only figures still by their names."""
        if self._setup is not None:
            return self._setup
        raw, shelf = self._found(), self._shelf
        if not isinstance(raw, dict):
            return raw
        return {
            key: shelf.listed(value)
            if key in PIECES
            else shelf.found(value)
            if key in WHOLE
            else value
            for key, value in raw.items()
        }

    @property
    def said(self) -> object:
        """As `shelved`, with everything in its place."""
        found = self.shelved
        if not isinstance(found, dict):
            return found
        return {
            key: [self._shelf.whole(one) for one in value]
            if key in PIECES and isinstance(value, list)
            else value
            for key, value in found.items()
        }

    def _found(self) -> object:
        return (
            self._shelf.setups.get(self._raw, self._raw)
            if isinstance(self._raw, str)
            else self._raw
        )

    def figures(self, named: object) -> object:
        """The figures that a piece which is not read yet names."""
        return self._shelf.found(named)

    def _read(self) -> Setup:
        raw = self._found()
        if not isinstance(raw, dict):
            raise InputError("setup", "must be a setup, or name one that the file has")
        rest = {key: value for key, value in raw.items() if key not in PIECES}
        for name in WHOLE:
            if name in rest:
                rest[name] = self._shelf.found(rest[name])
        check_bounds(rest, "setup")
        whole = Setup.model_validate_json(json.dumps(rest))
        pieces = {kind: self._shelf.tuple_of(kind, raw.get(kind, [])) for kind in PIECES}
        fields = {name: getattr(whole, name) for name in Setup.model_fields if name not in PIECES}
        values: dict[str, Any] = {**fields, **pieces}
        return Setup(**values)

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, Snapshot):
            return NotImplemented
        if self is other or (self._shelf is other._shelf and self._raw and self._raw == other._raw):
            return True
        mine, others = self.setup, other.setup
        if mine is None or others is None:
            return mine is others and self.said == other.said
        return mine == others

    def __hash__(self) -> int:
        # What is the same may be kept in different ways: only the kind is certain.
        return hash(Snapshot)

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.with_info_plain_validator_function(
            _taken, serialization=core_schema.plain_serializer_function_ser_schema(_whole)
        )

    @classmethod
    def __get_pydantic_json_schema__(
        cls, schema: CoreSchema, handler: GetJsonSchemaHandler
    ) -> JsonSchemaValue:
        return {"description": "The name of one of `setups`, or a setup itself", "type": _TYPES}


_TYPES = ["string", "object"]


def _taken(value: object, info: core_schema.ValidationInfo) -> Snapshot:
    if isinstance(value, Snapshot):
        return value
    if isinstance(value, Setup):
        return Snapshot.of(value)
    if not isinstance(value, str | dict):
        raise ValueError("must be a setup, or name one that the file has")
    shelf = info.context if isinstance(info.context, Shelf) else _NOTHING
    return Snapshot(value, shelf)


def _whole(kept: Snapshot) -> object:
    """The setup with everything in it: for what stands alone."""
    setup = kept.setup
    return kept.said if setup is None else setup.model_dump(mode="json", exclude_none=True)
