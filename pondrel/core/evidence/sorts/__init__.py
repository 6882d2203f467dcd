"""One module per sort of evidence, each with a tuple ``SORTS``; `registry` finds them by looking into this package."""
