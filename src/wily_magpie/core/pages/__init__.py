"""Web pages: had by HTTP or from a file, read into findings, main content and Markdown."""
