"""Filed by what was filed before: how alike texts are, what their neighbours have, and how sure that is."""
