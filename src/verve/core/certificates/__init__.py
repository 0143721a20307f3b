"""What can be said of gains that were found: why they are the best, and what else would help."""

from verve.core.certificates._certificate import Certificate, certificates
from verve.core.certificates._improvements import Improvement

__all__ = ["Certificate", "Improvement", "certificates"]
