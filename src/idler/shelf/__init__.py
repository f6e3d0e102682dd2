"""Machines, drafts and revisions on disk. No Qt. Writes are atomic; what was confirmed is on the disk."""
