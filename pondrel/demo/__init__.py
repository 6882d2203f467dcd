"""The made-up depot: its sheets as open files, its vehicles and jobs, and the loader."""
