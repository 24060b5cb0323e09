"""From nameplate and readings to a motor, and how far it can be trusted."""
