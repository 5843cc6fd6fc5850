"""Read: the kept text at a reading measure, and its marks."""
