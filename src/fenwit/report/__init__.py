"""What leaves Fenwit as a file or a page."""
