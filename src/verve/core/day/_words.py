"""What is said of a plan of the day."""

NO_LAYERS = "no layer of the brief has anything that takes an input"
LACKS = "{layer} needs what the kit does not have: {things}"
ONE_RECORDER = "no interface takes all layers of the day"
