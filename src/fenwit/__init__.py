"""Fenwit: a bench companion for fan speed regulation."""

__version__ = "0.1.0"
