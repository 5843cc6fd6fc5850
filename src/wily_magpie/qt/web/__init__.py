"""The live page; the only folder that imports the web engine."""
