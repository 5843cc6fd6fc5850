"""Capture: the live page on the left, the slip on the right."""
