"""What a person can set: typed values with a default and a sentence; the person's in a file, a library's in the library."""
