"""Everything Verve computes, with no interface code: no Qt, no display, no global state."""
