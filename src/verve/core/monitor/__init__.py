"""Monitoring: latency, headphone level and exposure."""

from verve.core.monitor._findings import findings, monitoring_ms, round_trip_facts
from verve.core.monitor._hearing import (
    Dose,
    HeadphoneDrive,
    Span,
    allowed_hours,
    headphone_spl_db,
)
from verve.core.monitor._latency import RoundTrip, fitted_round_trip_ms, round_trip_ms

__all__ = [
    "Dose",
    "HeadphoneDrive",
    "RoundTrip",
    "Span",
    "allowed_hours",
    "findings",
    "fitted_round_trip_ms",
    "headphone_spl_db",
    "monitoring_ms",
    "round_trip_facts",
    "round_trip_ms",
]
