"""Renewing a module and teaching the new one: what is done in which order, what each step is accepted by, and what proves it afterwards."""
