"""Triangle arrays, and all that is worked out on them alone."""
