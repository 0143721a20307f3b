"""The cheapest complete kit, exactly: ways, boxes, cables and stands chosen together for all passes at once."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from verve.core.connections import Box, Problem, Rated, kind_of
from verve.core.kits._things import (
    Thing,
    beside,
    cable_key,
    device_thing,
    needs_stand,
    owned_beside,
    owned_cables,
    runs_of,
    stand,
    thing,
    thread,
)
from verve.core.session import Session

_LIMIT_S = 10.0
_FLAW = 1e5
"""What one flaw counts in the program: more than any kit costs or is better."""
ENOUGH_DB = 80.0
"""Hardest peaks further above the noise than this are worth no money: nobody hears the rest (typical)."""


def heard_db(rated: Rated) -> float:
    """What a way is worth: how far it stands above its noise, as far as that can be heard."""
    return min(rated.quality_db, ENOUGH_DB)


@dataclass(frozen=True, slots=True, kw_only=True)
class Pass:
    """A pass of the brief as a problem, and how many people hear themselves in it."""

    name: str
    problem: Problem
    people: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Bought:
    """So many of a thing, which are for these."""

    thing: Thing
    count: int
    users: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Kit:
    """A complete kit: what is to be bought, and the way of every signal, pass by pass.

    `quality_db` is how far all signals stand above the noise, in sum, each as far as that can be heard.
    `is_proven` is whether nothing better exists, by the solver's bound.
    """

    bought: tuple[Bought, ...]
    chosen: Mapping[str, Mapping[str, Rated]]
    price: float
    quality_db: float
    is_proven: bool = True

    @property
    def flaws(self) -> int:
        """How many findings would be left to mend."""
        return sum(r.flaws for ways in self.chosen.values() for r in ways.values())

    @property
    def low(self) -> float:
        """The least it may cost."""
        return sum(one.count * one.thing.low for one in self.bought)

    @property
    def high(self) -> float:
        """The most."""
        return sum(one.count * one.thing.high for one in self.bought)


@dataclass(slots=True)
class _Program:
    """Columns and rows of one integer program."""

    cost: list[float] = field(default_factory=list)
    flaws: list[float] = field(default_factory=list)
    quality: list[float] = field(default_factory=list)
    upper: list[float] = field(default_factory=list)
    rows: list[tuple[dict[int, float], float, float]] = field(default_factory=list)

    def column(self, cost: float, upper: float, quality: float = 0.0, flaws: float = 0.0) -> int:
        self.cost.append(cost)
        self.flaws.append(flaws)
        self.quality.append(quality)
        self.upper.append(upper)
        return len(self.cost) - 1


class _Model:
    """The program for one recorder and all passes."""

    def __init__(
        self,
        session: Session,
        passes: Sequence[Pass],
        recorder: Box,
        also: Collection[str] = (),
    ) -> None:
        self.session, self.passes, self.recorder, self.also = session, passes, recorder, also
        self.program = _Program()
        self.ways: list[tuple[Pass, Rated, int]] = []
        self.things: dict[str, tuple[Thing, int]] = {}
        self.fixed: dict[str, Bought] = {}
        self.is_possible = self._build()

    def _thing(self, made: Thing) -> int:
        if made.key not in self.things:
            self.things[made.key] = made, self.program.column(made.price, 999.0)
        return self.things[made.key][1]

    def _build(self) -> bool:
        for item in self.passes:
            ways = item.problem.connections
            columns = [
                rated
                for signal in item.problem.signals
                for rated in ways[signal.id]
                if rated.connection.recorder.id == self.recorder.id
            ]
            if len({r.connection.signal.id for r in columns}) < len(item.problem.signals):
                return False
            self._pass(item, columns)
            self._beside(item, columns)
        own = device_thing(self.session, self.recorder.item)
        if self.recorder.count < 1:
            self.fixed[own.key] = Bought(thing=own, count=1)
        return True

    def _pass(self, item: Pass, columns: Sequence[Rated]) -> None:
        problem, program = item.problem, self.program
        by_signal: dict[str, dict[int, float]] = {}
        by_thing: dict[str, dict[int, float]] = {}
        made: dict[str, Thing] = {}
        by_inputs: dict[str, dict[int, float]] = {}
        drawn: dict[int, float] = {}
        switches: dict[str, int] = {}
        for rated in columns:
            connection = rated.connection
            at = program.column(0.0, 1.0, heard_db(rated), rated.flaws)
            self.ways.append((item, rated, at))
            by_signal.setdefault(connection.signal.id, {})[at] = 1.0
            by_inputs.setdefault(connection.inputs.id, {})[at] = 1.0
            for box in connection.boxes:
                made[box.id] = device_thing(self.session, box.item)
                by_thing.setdefault(box.id, {})[at] = 1.0 / box.figures.lines_kept_apart()
            for run in runs_of(rated):
                key = cable_key(run)
                owned = owned_cables(self.session.kit, run)
                made[key] = thing(self.session, key, owned)
                row = by_thing.setdefault(key, {})
                row[at] = row.get(at, 0.0) + 1.0
            if needs_stand(rated):
                made["stand"] = stand(self.session)
                by_thing.setdefault("stand", {})[at] = 1.0
                # One adapter does for all stands, one after the other.
                adapter = thread(self.session)
                bought = self._thing(adapter)
                program.rows.append(({at: 1.0, bought: -1.0}, -np.inf, float(adapter.owned)))
            if connection.current_ma:
                drawn[at] = connection.current_ma
            self._switch(rated, at, switches)
        for row in by_signal.values():
            program.rows.append((row, 1.0, 1.0))
        for key, row in by_thing.items():
            bought = self._thing(made[key])
            program.rows.append(({**row, bought: -1.0}, -np.inf, float(made[key].owned)))
        for inputs in problem.stock.inputs:
            if inputs.id in by_inputs:
                program.rows.append((by_inputs[inputs.id], -np.inf, float(len(inputs.names))))
        budget = self.recorder.figures.phantom_supply_ma()
        if budget is not None and drawn:
            program.rows.append((drawn, -np.inf, budget))
        self._pairs(item)

    def _switch(self, rated: Rated, at: int, switches: dict[str, int]) -> None:
        """Sockets on one phantom switch have it on or off together."""
        inputs, power = rated.connection.inputs, rated.connection.power
        if not inputs.switch or power not in {"needs", "never"}:
            return
        if inputs.id not in switches:
            switches[inputs.id] = self.program.column(0.0, 1.0)
        sign = -1.0 if power == "needs" else 1.0
        high = 0.0 if power == "needs" else 1.0
        self.program.rows.append(({at: 1.0, switches[inputs.id]: sign}, -np.inf, high))

    def _pairs(self, item: Pass) -> None:
        """Both sides of a pair go the same way."""
        done: set[str] = set()
        for signal in item.problem.signals:
            if signal.partner is None or signal.id in done:
                continue
            done |= {signal.id, signal.partner}
            rows: dict[tuple[object, ...], dict[int, float]] = {}
            for other, rated, at in self.ways:
                if other is item and rated.connection.signal.id in {signal.id, signal.partner}:
                    sign = 1.0 if rated.connection.signal.id == signal.id else -1.0
                    rows.setdefault(kind_of(rated), {})[at] = sign
            self.program.rows += [(row, 0.0, 0.0) for row in rows.values()]

    def _beside(self, item: Pass, columns: Sequence[Rated]) -> None:
        one_each = {r.connection.signal.id: r for r in columns}
        for key, needed in beside(
            self.session, list(one_each.values()), item.people, self.also
        ).items():
            owned = owned_beside(self.session, key)
            count = max(0, needed - owned, self.fixed[key].count if key in self.fixed else 0)
            if count:
                self.fixed[key] = Bought(thing=thing(self.session, key, owned), count=count)

    def solve(
        self,
        *,
        most: float | None = None,
        most_flaws: int | None = None,
        least_quality_db: float | None = None,
        by_quality: bool = False,
    ) -> Kit | None:
        """What leaves the fewest flaws, and of that the cheapest, or with `by_quality` the best.

        Of what costs at most so much, leaves at most so many flaws, and is at least so good.
        """
        from scipy.optimize import Bounds, LinearConstraint, milp
        from scipy.sparse import coo_array

        program = self.program
        fixed = sum(one.count * one.thing.price for one in self.fixed.values())
        rows = list(program.rows)
        if most is not None:
            rows.append((dict(enumerate(program.cost)), -np.inf, most - fixed))
        if most_flaws is not None:
            rows.append((dict(enumerate(program.flaws)), -np.inf, float(most_flaws)))
        if least_quality_db is not None:
            rows.append((dict(enumerate(program.quality)), least_quality_db, np.inf))
        cost, quality = np.array(program.cost), np.array(program.quality)
        # Of equals: the better of the cheapest, the cheaper of the best.
        goal = cost * 1e-6 - quality if by_quality else cost - quality * 1e-6
        goal = goal + np.array(program.flaws) * _FLAW
        data = [(v, i, j) for i, (row, _, _) in enumerate(rows) for j, v in row.items() if v]
        values, at_row, at_column = (np.array(part) for part in zip(*data, strict=True))
        matrix = coo_array((values, (at_row, at_column)), shape=(len(rows), len(cost)))
        result = milp(
            goal,
            constraints=LinearConstraint(
                matrix.tocsr(), [low for _, low, _ in rows], [high for _, _, high in rows]
            ),
            bounds=Bounds(0.0, np.array(program.upper)),
            integrality=np.ones(len(cost)),
            options={"mip_rel_gap": 0.0, "time_limit": _LIMIT_S},
        )
        if result.x is None:
            return None
        return replace(self._kit(result.x, fixed), is_proven=result.status == 0)

    def _kit(self, found: Sequence[float], fixed: float) -> Kit:
        chosen: dict[str, dict[str, Rated]] = {}
        users: dict[str, list[str]] = {}
        for item, rated, at in self.ways:
            if found[at] > 0.5:
                signal = rated.connection.signal
                chosen.setdefault(item.name, {})[signal.id] = rated
                keys = [box.id for box in rated.connection.boxes]
                keys += [cable_key(run) for run in runs_of(rated)]
                for key in keys:
                    users.setdefault(key, []).append(signal.name)
        bought = [
            Bought(
                thing=made,
                count=round(float(found[at])),
                users=tuple(dict.fromkeys(users.get(made.key, ()))),
            )
            for made, at in self.things.values()
            if found[at] > 0.5
        ]
        price = fixed + sum(one.count * one.thing.price for one in bought)
        quality = sum(heard_db(r) for ways in chosen.values() for r in ways.values())
        return Kit(
            bought=(*self.fixed.values(), *bought), chosen=chosen, price=price, quality_db=quality
        )


def models_of(
    session: Session,
    passes: Sequence[Pass],
    is_cancelled: Callable[[], bool] = lambda: False,
    also: Collection[str] = (),
) -> list[_Model]:
    """A program for each recorder that all passes could end in; `also` are names of `ALSO`."""
    stocks = [item.problem.stock for item in passes]
    shared = {box.id: box for box in stocks[0].recorders}
    for stock in stocks[1:]:
        shared = {box.id: box for box in stock.recorders if box.id in shared}
    found = []
    for box in shared.values():
        if is_cancelled():
            break
        model = _Model(session, passes, box, also)
        if model.is_possible:
            found.append(model)
    return found
