"""What comes in from files and goes out into them: importers and exporters, each with one table of all there are."""
