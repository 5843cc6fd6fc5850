"""Item models over places and entries."""
