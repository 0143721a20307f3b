"""`python -m verve` is the command line."""

import sys

from verve.cli import main

sys.exit(main())
