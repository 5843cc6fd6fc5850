"""From an address to an entry: the one way for window, shell, lists of addresses and whatever hands over pages."""
