"""What the next thing to do says, where it comes from no finding."""

NO_FINDING = "levels are right"
SHOW = "Show it"
CONNECT = "Suggest connections for all {parts} parts: which microphone, box and input for whom."
CONNECT_ONE = "Suggest connections for the part: which microphone, box and input."
CONNECT_WHY = (
    "All connections that the kit allows are computed in this room; the best are suggested."
)
NEXT_PASS = "{take} is clean: record it for good. After that, connect {name}."
NEXT_PASS_WHY = (
    "It is in the brief, not connected, and in no take yet. The layer that is set up now is kept as it is, with its "
    "takes."
)
NEXT_LAYER = "{take} is clean: record it for good. After that, set up {name}."
NEXT_LAYER_WHY = (
    "It is the next layer of the day that has no take yet. What is set up now is kept; the run sheet in Takes says "
    "what to plug."
)
LAYER_BUTTON = "Set up the layer"
CONNECT_BUTTON = "Suggest connections"
EMPTY = "Say who plays what, in Brief; or add a first signal, all the way to the interface."
EMPTY_WHY = "Every signal is followed from its source to the interface."
EMPTY_BUTTON = "Add a signal"
REHEARSE = "All levels are right. Record a test take of {lines}."
REHEARSE_LEFT = (
    "No setting is left to change. Worth knowing{line}: {title}. Record a test take of {lines}."
)
REHEARSE_LEFT_WHY = "{cost} {advice}"
LATER = "{title:later}"
OF_LINE = " about {line}"
REHEARSE_WHY = (
    "What is left before recording: a rehearsal, measured and compared with what was computed."
)
REHEARSE_BUTTON = "Go to Check"
REHEARSE_BUTTON_THERE = "Record it"
CLEAN = "Nothing is wrong: {take} is clean, and every setting is as it was then."
CLEAN_LEFT = "{take} is clean, and every setting is as it was then. Worth knowing{line}: {title}."
CLEAN_WHY = "Record when the players are ready; a knob that moves from here on will be noticed."
CLEAN_BUTTON = "See the takes"
NEXT = "{line}: {advice:later}"
NEXT_WHY = "{title}. {cost}"
LINES = "signals"

PEAK_RANGE = "{low_db:.0} to {high_db:.0} dBFS"
"""A peak that is not one figure: a clipped wave can overshoot behind a filter."""
