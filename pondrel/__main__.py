"""``python -m pondrel``."""

from .cli import main

main(prog_name="pondrel")
