"""Drawing and input, each widget one thing; none knows a rule."""
