"""What scripts call: one command a file; JSON Lines on standard output, messages on standard error."""
