"""Setting places up: the collection itself, its fields, new places."""
