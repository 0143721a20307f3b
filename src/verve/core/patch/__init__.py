"""Patching: what may be connected to what, and what is wrong with it."""

from verve.core.patch._findings import findings

__all__ = ["findings"]
