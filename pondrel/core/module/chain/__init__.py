"""Functions that run only when every condition is true: which link is unmet, what it hangs on, and what to ask next."""
