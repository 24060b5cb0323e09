"""Motors: kinds, suitability, and the machines that stand for them."""
