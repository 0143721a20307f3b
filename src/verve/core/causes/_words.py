"""What is said of a cause, and how to find out."""

SET_OTHERWISE = "{where}: {control} is {now}; usual is {usual}"
GAIN_OTHERWISE = "{where}: {control} is {now}; the rest as usual, {usual} would be right"
LONG_CABLE = "The cable to {where} is {length_m:g m} long; usual is {usual_m:g m}"
BROKEN_CABLE = "The cable to {where} is broken, or not all the way in"
HALF_CABLE = "One of the two wires of the cable to {where} is broken"
TEST_SETTING = "Look at the {control} of {where}, and put it to {usual}."
TEST_TRUTH = "Look whether the {control} of {where} is {now}."
PUT_BACK = (
    "Put the {control} of {where} back to {usual}: it is {now}, and that makes the difference."
)
TEST_CABLE = "Change the cable to {where} for another one."
MIGHT_BE = "{where}: {control} may be {usual} in truth, not {now}"

LEVEL_OFF = "{line} arrives {by_db:.1 dB} {way} than with everything as usual"
LOUDER = "louder"
QUIETER = "quieter"
SILENT = "{line} is silent"
NOISE_OFF = "{line} stands {by_db:.1 dB} less above its noise than with everything as usual"
MEASURED_OFF = "{line} was measured {by_db:.1 dB} {way} than computed"
NOTHING_OFF = "{line} arrives as it would with everything as usual"
