"""Plain frozen data about what is kept: fields of a place, entries, views."""
