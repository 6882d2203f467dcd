"""One module for each complaint."""
