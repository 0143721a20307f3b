"""Plans of a day."""
