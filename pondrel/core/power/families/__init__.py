"""One module for each family of readings of starting and charging."""
