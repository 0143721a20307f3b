"""What can be said of gains that were found: why they are the best, and what else would help."""

from verve.core.certificates._certificate import Certificate, certificates
from verve.core.certificates._improvements import WayOn
from verve.core.certificates._proposal import Proposal, proposal

__all__ = ["Certificate", "Proposal", "WayOn", "certificates", "proposal"]
