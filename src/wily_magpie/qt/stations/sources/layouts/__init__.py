"""The layouts of a view besides the table: cards, lanes, list, time line; each another face of the table's rows and choice."""
