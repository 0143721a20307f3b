"""What is said of kits that could be bought."""

LEAST = "The least that does"
LEAST_WHY = "The cheapest complete kit: nothing is left to mend."
LEAST_WITH_FLAWS = (
    "The cheapest complete kit; {flaws} findings are left to mend, as with every other."
)
LEAST_WITH_FLAW = "The cheapest complete kit; one finding is left to mend, as with every other."
BEST = "The best for the money"
BEST_WHY = "Within the budget, the furthest above the noise, all parts together."
NEXT = "The next worthwhile step"
NEXT_WHY = "The cheapest kit that is {by_db:.0 dB} or more better in sum."
LATER = "Also for later"
LATER_WHY = "The cheapest complete kit for what is wanted now and what is wanted later."
NO_PARTS = "Say in Brief who plays what: then it can be said what is needed."
NO_WAY = "No kit of the usual kinds connects every part: {signals}."
TOO_LITTLE = "No complete kit costs so little: the cheapest is about {cost:g} {currency}."
NOT_PROVEN = "{why} Not proven: there was no time to compare everything."
