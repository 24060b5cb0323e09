"""From wanted steps to parts."""
