"""The stand-in web (made-up pages on made-up hosts under .example) and the demo library about tide mills."""
