"""Sampled kits read: SFZ files, folders of plain sounds."""
