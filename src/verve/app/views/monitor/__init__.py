"""Monitor: what every performer hears, how late, how loud; buffers and what is known of the computer."""

from verve.app.views.monitor.view import MonitorView

__all__ = ["MonitorView"]
