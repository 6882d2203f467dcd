"""One module a family of checks, each with a `FAMILY` and a `PLACE` in the list. Nothing outside names one."""
