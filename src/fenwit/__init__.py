"""Fenwit: a bench companion for fan speed regulation."""

import os

# Matrices here are small and many; a library that spreads each over all cores makes every one slower, and several
# processes fight for them. It reads this once, when numpy is imported first.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.1.0"
