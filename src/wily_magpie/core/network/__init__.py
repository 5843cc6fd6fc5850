"""The way to the web: what may be reached, and how it is connected to. Every request of the program goes through here."""
