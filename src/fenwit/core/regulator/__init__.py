"""Ways to set the speed, each ending in a source for `core.operating`."""
