"""Editors and painters of fields, by their kinds."""
