"""Templates: how a page becomes the draft of an entry, field by field, with the origin of every value."""
