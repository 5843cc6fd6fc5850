"""Notes folders: Markdown files with YAML front matter; the files are the truth, the index can be thrown away."""
