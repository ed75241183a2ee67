"""`python -m uncus`."""

from uncus.cli import main

main()
