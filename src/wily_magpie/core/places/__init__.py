"""Where entries live: the library's collections and notes folders, both with the same face (api.Place)."""
