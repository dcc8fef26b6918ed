"""Background jobs: what takes longer than a page may."""
