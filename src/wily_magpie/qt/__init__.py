"""The window: shows what the core knows and hands it commands; no data is changed here."""
