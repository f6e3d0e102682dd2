"""The Sign-off station: what is proven, what is left, the line of revisions, and any two machines compared."""
