"""Files that only one way of regulating has."""
