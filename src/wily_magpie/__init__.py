"""Wily Magpie: captures web pages into typed collections and notes folders.

`core` is what the program knows, `qt` what it shows, `shell` what scripts call, `demo` the made-up web and library.
"""

__version__ = "0.1.0"
