"""``python -m wamplex`` is the command ``wamplex``."""

from wamplex.cli import main

main()
