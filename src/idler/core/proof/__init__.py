"""Proofs: the claims are the only table of what rests on what; evidence, and when it is stale."""
