"""Questions: what they are made of, as written text (CQL), as SQL, as a sentence."""
