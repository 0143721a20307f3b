"""How something was played."""
