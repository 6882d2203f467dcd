"""Waking a module by taking its supply away: how long it must be off, for how long it helps, and where that is no way to live with it."""
