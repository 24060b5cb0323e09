"""One router for each stage."""
