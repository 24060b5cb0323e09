"""What several rooms share: how a machine fan's steps are explained, and how anything fixed in the line behaves."""
