"""Evidence: what was measured, seen, done or is known. One module per sort in `sorts`; nothing else in the tree names a sort."""
