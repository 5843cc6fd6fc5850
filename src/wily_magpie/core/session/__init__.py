"""The counter: all that an interface may call. Commands go down, events come up, long work goes through jobs."""
