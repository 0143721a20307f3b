"""Levels: what can be wrong with them, judged by the one who sets gains."""

from verve.core.stage._buses import bus_facts
from verve.core.stage._findings import LEAST_SNR_DB, findings
from verve.core.stage._judge import GainJudge, deeds_of

__all__ = ["LEAST_SNR_DB", "GainJudge", "bus_facts", "deeds_of", "findings"]
