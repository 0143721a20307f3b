"""Proofs by many random tries: what a test shows for a case, these show for a hundred thousand."""
