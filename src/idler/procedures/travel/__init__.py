"""Both ends, the envelope, the parking place."""
