"""A process beside this one for what strangers have written, within limits that the system holds."""
