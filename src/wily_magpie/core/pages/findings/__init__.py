"""What a page says about itself: one file per kind of source, and one (gather) that puts them in order of trust."""
