"""Place: the plan of the room, the map of a microphone's ears, the bleed table."""

from verve.app.views.place.view import PlaceView

__all__ = ["PlaceView"]
