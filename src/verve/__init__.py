"""Verve: levels, ceilings and noise of every recording line, and what to do next."""

import os

__version__ = "0.1.0"

# No model here has a plug-in, and looking for some takes a tenth of the start.
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")

# Small matrices many times: threads of their own cost more than twice what they save, and keep a core from the sound.
# Before numpy is loaded for the first time; whoever has said otherwise is heard.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
