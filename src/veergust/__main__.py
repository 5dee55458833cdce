"""``python -m veergust``."""

from veergust.cli.main import main

main()
