"""Validation files: physical set-ups with independently known answers, computed and compared."""

from verve.core.verify._cases import read_cases
from verve.core.verify._run import Result, run_cases

__all__ = ["Result", "read_cases", "run_cases"]
