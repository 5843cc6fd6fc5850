"""Files that are no pages of HTML, as pages: e-mails, PDF, pictures, JSON, tables, Markdown and plain text.

Each becomes a small HTML document that declares what the file says of itself, so that findings, text and slip come about
in the same way as for every other page; the file itself stays with the page.
"""
