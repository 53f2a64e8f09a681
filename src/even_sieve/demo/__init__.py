"""The demo: a year at a small made-up harbour, and the walk through it."""
