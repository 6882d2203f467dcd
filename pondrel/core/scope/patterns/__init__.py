"""One pattern a file."""
