"""How good links are, which of them a rule takes, and how full they get."""
