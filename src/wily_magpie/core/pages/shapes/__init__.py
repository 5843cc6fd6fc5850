"""What the text of a page is made of beside its article, by the kind of page: chapters, facts, files, answers, replies."""
