"""Verve: levels, ceilings and noise of every recording line, and what to do next."""

__version__ = "0.1.0"
