"""The Templates station: what templates there are, and the bench on which each is tried on many pages at once."""
