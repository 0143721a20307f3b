"""The safe order: set up, change and tear down from memory, card by card; what would harm or bang stops."""

from verve.core.order._cards import Cards, Sheet, Stopped, cards_of, lines_together

__all__ = ["Cards", "Sheet", "Stopped", "cards_of", "lines_together"]
