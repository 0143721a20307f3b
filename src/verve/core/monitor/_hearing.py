"""How loud a headphone is, and for how long an ear should bear it."""

from __future__ import annotations

import math
from dataclasses import dataclass

from verve.core.errors import InputError
from verve.core.units import dbu_to_v_rms, power_to_db


@dataclass(frozen=True, slots=True, kw_only=True)
class HeadphoneDrive:
    """Equal headphones in parallel on one output; `drive_dbu` is what it gives unloaded, RMS.

    One of both sensitivities is given, the other follows: dB/V = dB/mW + 10·lg(1000/Z).

    raises: InputError without either, for impossible impedances, or a drive of nothing
    """

    impedance_ohm: float
    drive_dbu: float
    sensitivity_db_per_mw: float | None = None
    sensitivity_db_per_v: float | None = None
    output_impedance_ohm: float = 0.0
    pairs: int = 1

    def __post_init__(self) -> None:
        if (self.sensitivity_db_per_mw is None) == (self.sensitivity_db_per_v is None):
            raise InputError("sensitivity_db_per_mw", "must stand alone or leave it to dB per volt")
        if not self.impedance_ohm > 0.0:
            raise InputError("impedance_ohm", "must be above 0", self.impedance_ohm)
        if not self.output_impedance_ohm >= 0.0:
            raise InputError(
                "output_impedance_ohm", "must not be negative", self.output_impedance_ohm
            )
        if self.pairs < 1:
            raise InputError("pairs", "must be one at least", self.pairs)

    @property
    def _v_rms(self) -> float:
        """At the headphones; source: voltage divider."""
        load_ohm = self.impedance_ohm / self.pairs
        return dbu_to_v_rms(self.drive_dbu) * load_ohm / (load_ohm + self.output_impedance_ohm)

    @property
    def power_mw(self) -> float:
        """In each pair: V²/Z."""
        return 1000.0 * self._v_rms**2 / self.impedance_ohm

    @property
    def current_ma(self) -> float:
        """Of all pairs together."""
        return 1000.0 * self._v_rms * self.pairs / self.impedance_ohm

    @property
    def spl_db(self) -> float:
        """Sound level at the ear; sensitivity is the level at 1 mW (IEC 60268-7)."""
        level = power_to_db(self.power_mw)
        if level is None:
            raise InputError("drive_dbu", "must be a level that can be heard", self.drive_dbu)
        return self._db_per_mw + level

    @property
    def _db_per_mw(self) -> float:
        if self.sensitivity_db_per_mw is not None:
            return self.sensitivity_db_per_mw
        assert self.sensitivity_db_per_v is not None
        return self.sensitivity_db_per_v - 10.0 * math.log10(1000.0 / self.impedance_ohm)

    def needed_dbu(self, target_spl_db: float) -> float:
        """What the output must give unloaded for that level."""
        return self.drive_dbu + target_spl_db - self.spl_db


@dataclass(frozen=True, slots=True, kw_only=True)
class Span:
    """A level for so many hours."""

    level_dba: float
    hours: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Dose:
    """What a day of sound does to an ear, by equal energy.

    source: NIOSH 98-126 for the defaults: 100 · Σ t/T(L), T = Tc · 2^((Lc − L)/q)
    """

    spans: tuple[Span, ...]
    criterion_dba: float = 85.0
    criterion_hours: float = 8.0
    exchange_db: float = 3.0

    def _allowed_hours(self, level_dba: float) -> float:
        return allowed_hours(
            level_dba=level_dba,
            criterion_dba=self.criterion_dba,
            criterion_hours=self.criterion_hours,
            exchange_db=self.exchange_db,
        )

    @property
    def percent(self) -> float:
        """Of what an ear may have in a day."""
        return 100.0 * math.fsum(
            one.hours / self._allowed_hours(one.level_dba) for one in self.spans
        )

    @property
    def average_dba(self) -> float | None:
        """The level that gives this dose in the criterion's hours; None without any."""
        if not self.percent:
            return None
        return self.criterion_dba + self.exchange_db * math.log2(self.percent / 100.0)

    def remaining_hours(self, level_dba: float) -> float:
        """How long the rest of the day's dose lasts at a level."""
        return max(0.0, 1.0 - self.percent / 100.0) * self._allowed_hours(level_dba)


def headphone_spl_db(
    *,
    sensitivity_db_per_mw: float,
    impedance_ohm: float,
    output_impedance_ohm: float,
    drive_dbu: float,
) -> float:
    """Sound level of one headphone on an output.

    raises: InputError for a drive of nothing
    """
    return HeadphoneDrive(
        sensitivity_db_per_mw=sensitivity_db_per_mw,
        impedance_ohm=impedance_ohm,
        output_impedance_ohm=output_impedance_ohm,
        drive_dbu=drive_dbu,
    ).spl_db


def allowed_hours(
    *,
    level_dba: float,
    criterion_dba: float = 85.0,
    criterion_hours: float = 8.0,
    exchange_db: float = 3.0,
) -> float:
    """Hours a day at a level for the whole permitted dose; 3 dB more halves them.

    source: equal-energy rule, T = Tc · 2^((Lc − L)/q); NIOSH 98-126 for the defaults
    """
    return float(criterion_hours * 2.0 ** ((criterion_dba - level_dba) / exchange_db))
