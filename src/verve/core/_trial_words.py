"""What is said of a remedy that was tried and did not pass, or passed with the gains set as well."""

WITH_GAINS = "{advice} Its gains are set anew with it."
LEADS_TO = "{advice} There is no button for it here: it would lead to “{finding}”."
NOT_ENOUGH = "{advice} There is no button for it here: alone it does not mend this."
