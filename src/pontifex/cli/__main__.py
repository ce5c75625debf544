"""`python -m pontifex.cli`."""

from pontifex.cli import app

app()
