"""Kettle Sort."""
