"""A tester that speaks to control modules: over a bus, over a K-line."""
