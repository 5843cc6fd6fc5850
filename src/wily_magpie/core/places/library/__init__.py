"""A library: one folder with library.sqlite, files/ (kept pictures by SHA-256) and pages/ (kept copies of pages)."""
