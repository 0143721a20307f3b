"""What is said of a remedy that was tried and did not pass, or passed with the gains set as well."""

WITH_GAINS = "{advice} Its gains are set anew with it."
LEADS_TO = (
    "{advice} By hand, and with an eye on what follows: “{finding}” is what it would lead to, so there is no "
    "button for it."
)
NOT_ENOUGH = "{advice} By hand: alone it does not mend this here, so there is no button for it."
