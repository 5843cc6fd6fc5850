"""Everything that changes a library: one class a change, plain data until a session does it."""
