"""Sources: places, the sentence with its table, the chosen entry."""
