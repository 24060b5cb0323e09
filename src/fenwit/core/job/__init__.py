"""One job as the core sees it: what is known and wanted of it, what stands behind its regulator, and its steps."""
