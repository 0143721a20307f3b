"""How loud a headphone is, and for how long an ear should bear it."""

from __future__ import annotations

from verve.core.errors import InputError
from verve.core.units import dbu_to_v_rms, power_to_db


def headphone_spl_db(
    *,
    sensitivity_db_per_mw: float,
    impedance_ohm: float,
    output_impedance_ohm: float,
    drive_dbu: float,
) -> float:
    """Sound level from the power in the headphone, fed from an output with its own resistance.

    source: voltage divider, P = V²/R; sensitivity is the level at 1 mW (IEC 60268-7)

    raises: InputError for a drive of nothing
    """
    divided = impedance_ohm / (impedance_ohm + output_impedance_ohm)
    power_mw = 1000.0 * (dbu_to_v_rms(drive_dbu) * divided) ** 2 / impedance_ohm
    level = power_to_db(power_mw)
    if level is None:
        raise InputError("drive_dbu", "must be a level that can be heard", drive_dbu)
    return sensitivity_db_per_mw + level


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
