"""The Travel station: the envelope to scale, its ends taken by going there, proven, and the parking place."""
