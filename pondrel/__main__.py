"""``python -m pondrel``."""

from .cli.main import main

main(prog_name="pondrel")
