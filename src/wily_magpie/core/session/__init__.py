"""The counter: all that an interface may call. Commands go down, events come up, long work goes through jobs."""

from wily_magpie.core import faults  # noqa: F401  # has logging loaded before concurrent.futures does
